"""Frames looked at beside each other: contact sheet, two frames, onion skin."""

from spiralis.app.frames.window import FramesWindow

__all__ = ["FramesWindow"]
