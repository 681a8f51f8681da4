"""Beat: two quick swells and a rest."""

from spiralis.core.moves.base import How, Point, loop


def _points(how: How) -> tuple[Point, ...]:
    def swell(by: float) -> tuple[float, float]:
        return 1 + by * how.strength, 1 + by * how.strength

    return (
        Point(0.0, how.both), Point(0.14, how.both, scale=swell(0.14)), Point(0.28, how.both),
        Point(0.4, how.both, scale=swell(0.08)), Point(0.58), Point(1.0),
    )  # fmt: skip


loop("beat", "Beat", "Two quick swells and a rest", _points, length=1.2)
