"""Float: to and fro along its direction."""

from spiralis.core.animation.easing import CubicBezier
from spiralis.core.moves.base import How, Point, loop

#: Quarters and halves of a sine.
TO, BACK = CubicBezier(0.33, 0.52, 0.64, 1.0), CubicBezier(0.36, 0.0, 0.67, 0.48)
FRO = CubicBezier(0.37, 0.0, 0.63, 1.0)


def _points(how: How) -> tuple[Point, ...]:
    far = how.reach * 0.25
    return (
        Point(0.0, TO), Point(0.25, FRO, place=how.along(far)), Point(0.75, BACK, place=how.along(-far)), Point(1.0)
    )  # fmt: skip


loop("float", "Float", "Drifts to and fro", _points, -90.0, 3.0)
