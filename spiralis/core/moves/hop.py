"""Hop: crouches, leaps, lands and squashes."""

from spiralis.core.animation.easing import CubicBezier, from_softness
from spiralis.core.moves.base import How, Point, loop

_FALL, _RISE = CubicBezier(0.33, 0.0, 0.67, 0.33), CubicBezier(0.33, 0.67, 0.67, 1.0)


def _points(how: How) -> tuple[Point, ...]:
    soft, by = from_softness(50, 50), 0.12 * min(how.strength, 3.0)
    low, tall = (1 + by, 1 - by), (1 - by / 2, 1 + by / 2)
    return (
        Point(0.0, soft), Point(0.15, soft, scale=low), Point(0.25, _RISE, scale=tall),
        Point(0.5, _FALL, place=how.along(how.reach)), Point(0.75, soft, scale=tall), Point(0.85, soft, scale=low),
        Point(1.0),
    )  # fmt: skip


loop("hop", "Hop", "Crouches, leaps and lands", _points, -90.0, 1.2)
