"""Spiralis: layered looping motion for square and upright screens."""

__version__ = "0.1.0"
