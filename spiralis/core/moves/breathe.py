"""Breathe: a little larger, and back."""

from spiralis.core.moves.base import How, Point, loop


def _points(how: How) -> tuple[Point, ...]:
    large = 1 + 0.08 * how.strength
    return Point(0.0, how.both), Point(0.5, how.both, scale=(large, large)), Point(1.0)


loop("breathe", "Breathe", "Grows a little, and back", _points)
