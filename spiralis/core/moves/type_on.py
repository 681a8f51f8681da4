"""Type in: there at once, letter by letter where it is words."""

from spiralis.core.animation.easing import HOLD
from spiralis.core.moves.base import How, Point, entrance


def _points(how: How) -> tuple[Point, ...]:
    # What is no words is there after a part of the time.
    return Point(0.0, HOLD, opacity=0.0), Point(0.3), Point(1.0)


entrance("type-in", "Type in", "Words come letter by letter, each at once", ("type-away", "Type away",
         "Words go letter by letter, each at once"), _points, length=1.6, part="letters")  # fmt: skip
