"""Grow: from a point to its size."""

from spiralis.core.moves.base import How, Point, entrance


def _points(how: How) -> tuple[Point, ...]:
    small = 1 - min(how.strength, 1.0)
    return Point(0.0, how.arriving, scale=(small, small)), Point(1.0)


entrance("grow", "Grow", "Grows from nothing", ("shrink", "Shrink", "Shrinks to nothing"), _points)
