"""Spiralis: layered looping motion for square and upright screens."""

__version__ = "0.2.0"
