"""Spring: shoots in stretched along its way and squashes as it stops."""

from spiralis.core.animation.easing import from_softness
from spiralis.core.moves.base import How, Point, entrance


def _points(how: How) -> tuple[Point, ...]:
    level = abs(how.way[0]) >= abs(how.way[1])
    amount = 0.35 * min(how.strength, 2.0)

    def stretched(by: float) -> tuple[float, float]:
        return (1 + by, 1 / (1 + by)) if level else (1 / (1 + by), 1 + by)

    return (
        Point(0.0, how.arriving, place=how.along(-how.reach * 2), scale=stretched(amount), opacity=0.0),
        Point(0.45, from_softness(30, 50), place=how.along(how.reach * 0.12), scale=stretched(-amount * 0.45)),
        Point(0.72, from_softness(50, 50), scale=stretched(amount * 0.16)),
        Point(1.0),
    )


entrance(
    "spring-in", "Spring in", "Shoots in, stretched, and squashes",
    ("spring-off", "Spring off", "Squashes, then shoots off"),
    _points, -90.0, 0.9,
)  # fmt: skip
