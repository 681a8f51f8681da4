"""Drift: wanders slowly nearer and farther, and to either side, in depth."""

from spiralis.core.moves.base import How, Point, loop


def _points(how: How) -> tuple[Point, ...]:
    far = how.reach * 0.7
    x, y = how.along(far)
    spots = ((0.25, (x, y), 0.6), (0.5, (0.0, 0.0), 1.2), (0.75, (-x, -y), 0.6))
    made = [Point(at, how.both, place=place, deep=-far * near) for at, place, near in spots]
    return (Point(0.0, how.both), *made, Point(1.0))


loop("drift", "Drift", "Wanders slowly nearer and to either side, as a camera carried by hand", _points, 0.0, 6.0,
     by_parts=False, in_depth=True)  # fmt: skip
