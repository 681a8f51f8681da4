"""Shake: a quick tremble that dies down, then a rest."""

from spiralis.core.animation.easing import from_softness
from spiralis.core.moves.base import How, Point, loop


def _points(how: How) -> tuple[Point, ...]:
    soft = from_softness(40, 40)
    swings = [
        Point(0.06 * (index + 1), soft, place=how.along(how.reach * 0.22 * (-1) ** index * (1 - index / 8)))
        for index in range(8)
    ]
    return Point(0.0, soft), *swings, Point(0.56), Point(1.0)


loop("shake", "Shake", "Trembles, then rests", _points, 0.0, 1.6)
