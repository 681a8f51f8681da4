"""The window: PyQt6 panels that talk through the session's signals."""
