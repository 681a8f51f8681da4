"""Pace: how the chosen segments move: value, speed and spacing, ease tiles, softness, CSS."""

from spiralis.app.pace.panel import PacePanel

__all__ = ["PacePanel"]
