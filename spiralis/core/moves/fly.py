"""Fly: the whole way from outside the frame."""

from spiralis.core.moves.base import How, Point, entrance


def _points(how: How) -> tuple[Point, ...]:
    return Point(0.0, how.arriving, place=how.along(-how.out_of_frame * max(how.strength, 1.0))), Point(1.0)


entrance(
    "fly-in", "Fly in", "Comes from outside the frame", ("fly-off", "Fly off", "Leaves the frame"), _points, 0.0,
    by_parts=False,
)  # fmt: skip
