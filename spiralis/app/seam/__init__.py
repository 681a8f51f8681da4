"""Seam check in the window: a verdict that is always there, and what breaks a loop with what mends it."""

from spiralis.app.seam.watch import SeamWatch
from spiralis.app.seam.window import SeamWindow

__all__ = ["SeamWatch", "SeamWindow"]
