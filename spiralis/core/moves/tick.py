"""Tick: around in six quick steps, like a dial."""

from spiralis.core.animation.easing import LINEAR, from_softness
from spiralis.core.moves.base import How, Point, loop

_STEPS = 6


def _points(how: How) -> tuple[Point, ...]:
    side = 1.0 if how.way[0] >= 0 else -1.0
    points = []
    for step in range(_STEPS):
        turn = side * step * 360 / _STEPS
        points.append(Point(step / _STEPS, LINEAR, turn=turn))
        points.append(Point((step + 0.6) / _STEPS, from_softness(0, 70), turn=turn))
    return *points, Point(1.0, turn=side * 360.0)


loop("tick", "Tick", "Around in quick steps", _points, 0.0, 3.0, by_parts=False)
