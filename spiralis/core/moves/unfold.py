"""Unfold: opens across its direction."""

from spiralis.core.moves.base import How, Point, entrance


def _points(how: How) -> tuple[Point, ...]:
    thin = 1 - min(how.strength, 1.0)
    level = abs(how.way[0]) >= abs(how.way[1])
    return Point(0.0, how.arriving, scale=(thin, 1.0) if level else (1.0, thin)), Point(1.0)


entrance("unfold", "Unfold", "Opens from a line", ("fold", "Fold", "Closes to a line"), _points, 0.0)
