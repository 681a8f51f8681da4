"""Sway: turns to either side."""

from spiralis.core.moves.base import How, Point, loop
from spiralis.core.moves.float_about import BACK, FRO, TO


def _points(how: How) -> tuple[Point, ...]:
    far = 9.0 * how.strength * (1.0 if how.way[0] >= 0 else -1.0)
    return Point(0.0, TO), Point(0.25, FRO, turn=far), Point(0.75, BACK, turn=-far), Point(1.0)


loop("sway", "Sway", "Turns to either side", _points, 0.0)
