"""Blink: goes, and comes back."""

from spiralis.core.moves.base import How, Point, loop


def _points(how: How) -> tuple[Point, ...]:
    return Point(0.0, how.both), Point(0.5, how.both, opacity=1 - min(how.strength, 1.0)), Point(1.0)


loop("blink", "Blink", "Goes, and comes back", _points)
