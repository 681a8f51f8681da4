"""Whip in: swings about its upright into place, a little too far; whip away: the same backwards."""

from spiralis.core.moves.base import How, Point, entrance


def _points(how: How) -> tuple[Point, ...]:
    far = 90.0 * (1.0 if how.way[0] >= 0 else -1.0)
    over = -far * 0.06 * how.strength
    return Point(0.0, how.arriving, swing=far, opacity=0.0), Point(0.7, how.both, swing=over), Point(1.0)


entrance("whip-in", "Whip in", "Swings about its upright into place, a little too far",
         ("whip-away", "Whip away", "Swings away about its upright"), _points, 0.0, 0.6, by_parts=False,
         in_depth=True)  # fmt: skip
