"""Drop: falls from outside the frame and bounces to rest."""

from spiralis.core.animation.easing import CubicBezier
from spiralis.core.moves.base import How, Point, entrance

#: A fall and a throw under gravity: the parabola t², and the same from its top.
_FALL, _RISE = CubicBezier(0.33, 0.0, 0.67, 0.33), CubicBezier(0.33, 0.67, 0.67, 1.0)


def _points(how: How) -> tuple[Point, ...]:
    high, bounce = how.out_of_frame, 0.22 * how.out_of_frame * min(how.strength, 2.0)
    return (
        Point(0.0, _FALL, place=how.along(-high)),
        Point(0.42, _RISE),
        Point(0.60, _FALL, place=how.along(-bounce)),
        Point(0.78, _RISE),
        Point(0.86, _FALL, place=how.along(-bounce * 0.2)),
        Point(1.0),
    )


entrance(
    "drop-in", "Drop in", "Falls and bounces to rest", ("hop-away", "Hop away", "Bounces higher and out"), _points,
    90.0, 1.2, by_parts=False,
)  # fmt: skip
