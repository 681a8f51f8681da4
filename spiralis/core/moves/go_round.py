"""Go round: along an arc about what lies before it, to either side, always turned to its middle."""

import math

from spiralis.core.moves.base import How, Point, loop

_FAR, _ARC = 50.0 / 36.0, 16.0


def _points(how: How) -> tuple[Point, ...]:
    # As far off as the camera that comes with a piece stands from the frame.
    radius = how.room.frame[0] * _FAR
    most = min(_ARC * how.strength, 80.0) * (1.0 if how.way[0] >= 0 else -1.0)

    def spot(at: float, share: float) -> Point:
        angle = math.radians(most * share)
        place = (radius * math.sin(angle), 0.0)
        return Point(at, how.both, place=place, deep=radius * (1 - math.cos(angle)), swing=-most * share)

    return Point(0.0, how.both), spot(0.25, 1.0), Point(0.5, how.both), spot(0.75, -1.0), Point(1.0)


loop("go-round", "Go round", "Swings on an arc about what lies before it, and looks at its middle", _points, 0.0, 6.0,
     by_parts=False, in_depth=True)  # fmt: skip
