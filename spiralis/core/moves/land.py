"""Land: from near and large to its place."""

from spiralis.core.moves.base import How, Point, entrance


def _points(how: How) -> tuple[Point, ...]:
    large = 1 + 0.6 * how.strength
    return Point(0.0, how.arriving, scale=(large, large), opacity=0.0), Point(1.0)


entrance("land", "Land", "Comes down from near and large", ("lift", "Lift off", "Comes near and is gone"), _points)
