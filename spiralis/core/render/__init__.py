"""From a project to frames: plan one, draw it, keep many ready, hand a sequence to an encoder."""

from spiralis.core.render.frame import render_frame

__all__ = ["render_frame"]
