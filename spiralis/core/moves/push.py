"""Push in: comes along the depth; pull out: the same way back."""

from spiralis.core.moves.base import How, Point, entrance


def _points(how: How) -> tuple[Point, ...]:
    far = how.room.frame[0] * 0.9 * how.strength
    return Point(0.0, how.arriving, deep=-far, opacity=0.0), Point(1.0)


entrance("push-in", "Push in", "Comes along the depth", ("pull-out", "Pull out", "Goes back along the depth"), _points,
         length=1.4, by_parts=False, in_depth=True)  # fmt: skip
