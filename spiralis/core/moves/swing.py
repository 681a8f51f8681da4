"""Swing: turns in like a sign on a nail, and settles."""

from spiralis.core.animation.easing import from_softness
from spiralis.core.moves.base import How, Point, entrance


def _points(how: How) -> tuple[Point, ...]:
    soft, side = from_softness(50, 50), 1.0 if how.way[0] >= 0 else -1.0
    turns = [side * how.strength * turn for turn in (-48.0, 18.0, -7.0, 2.5)]
    return (
        Point(0.0, how.arriving, turn=turns[0], opacity=0.0),
        Point(0.42, soft, turn=turns[1]),
        Point(0.66, soft, turn=turns[2]),
        Point(0.85, soft, turn=turns[3]),
        Point(1.0),
    )


entrance(
    "swing-in", "Swing in", "Swings about its pivot and settles", ("swing-out", "Swing out", "Swings up and is gone"),
    _points, 0.0, 1.2,
)  # fmt: skip
