"""Footage: clips of many frames from files, each frame exact, forwards, backwards and at random."""

from spiralis.core.media.footage.clips import clip_of, frame_levels, open_clip

__all__ = ["clip_of", "frame_levels", "open_clip"]
