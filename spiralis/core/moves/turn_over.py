"""Turn over: tips about its level once round, in depth."""

from spiralis.core.moves.base import How, Point, loop


def _points(how: How) -> tuple[Point, ...]:
    round_ = 360.0 * (1.0 if how.way[0] >= 0 else -1.0)
    return Point(0.0, how.both), Point(1.0, tip=round_)


loop("turn-over", "Turn over", "Tips about its level once round", _points, 0.0, 2.0, by_parts=False,
     in_depth=True)  # fmt: skip
