"""The timeline: layers as rows, animated properties as threads with beads."""

from spiralis.app.timeline.panel import TimelinePanel

__all__ = ["TimelinePanel"]
