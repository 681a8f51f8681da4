"""Orbit: a small circle that passes through its place."""

from spiralis.core.animation.easing import LINEAR
from spiralis.core.moves.base import How, Point, loop

#: How long the handles of a quarter circle of radius 1 are.
_KAPPA = 0.5522847498307936


def _points(how: How) -> tuple[Point, ...]:
    radius = how.reach * 0.35
    x, y = how.way
    across, toward = (-y, x), (x, y)

    def spot(a: float, b: float) -> tuple[float, float]:
        return radius * (a * across[0] + b * toward[0]), radius * (a * across[1] + b * toward[1])

    points = []
    for index, (place, way) in enumerate(
        (((0, 0), (1, 0)), ((1, 1), (0, 1)), ((0, 2), (-1, 0)), ((-1, 1), (0, -1)), ((0, 0), (1, 0)))
    ):
        out, into = (spot(sign * _KAPPA * way[0], sign * _KAPPA * way[1]) for sign in (1, -1))
        points.append(
            Point(index / 4, LINEAR, place=spot(*place), out=out if index < 4 else None, into=into if index else None)
        )
    return tuple(points)


loop("orbit", "Orbit", "Goes round in a small circle", _points, -90.0, 2.4)
