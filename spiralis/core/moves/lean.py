"""Lean: slants to either side, foot on the ground."""

from spiralis.core.moves.base import How, Point, loop
from spiralis.core.moves.float_about import BACK, FRO, TO


def _points(how: How) -> tuple[Point, ...]:
    far = min(12.0 * how.strength, 60.0) * (1.0 if how.way[0] >= 0 else -1.0)
    return Point(0.0, TO), Point(0.25, FRO, skew=(far, 0.0)), Point(0.75, BACK, skew=(-far, 0.0)), Point(1.0)


loop("lean", "Lean", "Slants to either side", _points, 0.0)
