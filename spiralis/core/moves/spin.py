"""Spin: once around, evenly or with a rest."""

from spiralis.core.animation.easing import LINEAR
from spiralis.core.moves.base import How, Point, loop


def _points(how: How) -> tuple[Point, ...]:
    turns = max(round(how.strength), 1) * (1.0 if how.way[0] >= 0 else -1.0)
    return Point(0.0, LINEAR), Point(1.0, turn=360.0 * turns)


loop("spin", "Spin", "Once around; 200 % is twice", _points, 0.0, by_parts=False)
