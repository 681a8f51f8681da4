"""Fade: from nothing to sight."""

from spiralis.core.moves.base import How, Point, entrance


def _points(how: How) -> tuple[Point, ...]:
    return Point(0.0, how.both, opacity=1 - min(how.strength, 1.0)), Point(1.0)


entrance("fade-in", "Fade in", "Comes into sight", ("fade-out", "Fade out", "Goes out of sight"), _points)
