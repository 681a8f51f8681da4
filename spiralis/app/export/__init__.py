"""The export window: target, settings, the frame as it will be and as it was written, progress, result."""

from spiralis.app.export.window import ExportWindow

__all__ = ["ExportWindow"]
