"""Squash: wide and low, then tall and thin."""

from spiralis.core.moves.base import How, Point, loop
from spiralis.core.moves.float_about import BACK, FRO, TO


def _points(how: How) -> tuple[Point, ...]:
    by = 0.1 * min(how.strength, 5.0)
    return (
        Point(0.0, TO), Point(0.25, FRO, scale=(1 + by, 1 / (1 + by))),
        Point(0.75, BACK, scale=(1 / (1 + by), 1 + by)), Point(1.0),
    )  # fmt: skip


loop("squash", "Squash", "Wide and low, tall and thin", _points, length=1.4)
