"""The canvas: the picture, what is chosen on it, and the handles that change it."""

from spiralis.app.canvas.view import CanvasView

__all__ = ["CanvasView"]
