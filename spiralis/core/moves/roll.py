"""Roll: turns as it comes, like a wheel."""

import math

from spiralis.core.moves.base import How, Point, entrance


def _points(how: How) -> tuple[Point, ...]:
    left, top, right, bottom = how.room.box
    radius = max(min(right - left, bottom - top) / 2, 1.0)
    distance = how.out_of_frame * max(how.strength, 1.0)
    turn = math.degrees(distance / radius) * (1.0 if how.way[0] >= 0 else -1.0)
    return Point(0.0, how.arriving, place=how.along(-distance), turn=-turn), Point(1.0)


entrance(
    "roll-in", "Roll in", "Rolls to its place like a wheel", ("roll-away", "Roll away", "Rolls out of the frame"),
    _points, 0.0, 1.2, by_parts=False,
)  # fmt: skip
