"""Outlines of plain forms: ellipse, polygon, rectangle, star, line."""

from __future__ import annotations

import math

from spiralis.core.model.art import Contour

#: Control points of a quarter circle; the curve is off the circle by at most 0.03 % of the radius.
_QUARTER = 4 / 3 * math.tan(math.pi / 8)


def ellipse(cx: float, cy: float, rx: float, ry: float) -> Contour:
    """Return an ellipse that begins at the right and turns clockwise."""
    kx, ky = rx * _QUARTER, ry * _QUARTER
    return Contour(
        (
            (cx + rx, cy, cx + rx, cy - ky, cx + rx, cy + ky),
            (cx, cy + ry, cx + kx, cy + ry, cx - kx, cy + ry),
            (cx - rx, cy, cx - rx, cy + ky, cx - rx, cy - ky),
            (cx, cy - ry, cx - kx, cy - ry, cx + kx, cy - ry),
        ),
        True,
    )


def polygon(points: list[tuple[float, float]], closed: bool = True) -> Contour:
    """Return straight lines through points."""
    return Contour(tuple((x, y, x, y, x, y) for x, y in points), closed)


def rectangle(x: float, y: float, width: float, height: float, rx: float = 0.0, ry: float = 0.0) -> Contour:
    """Return an upright rectangle, its corners rounded by quarter ellipses."""
    rx, ry = min(rx, width / 2), min(ry, height / 2)
    if rx <= 0 or ry <= 0:
        return polygon([(x, y), (x + width, y), (x + width, y + height), (x, y + height)])
    right, bottom, kx, ky = x + width, y + height, rx * _QUARTER, ry * _QUARTER

    def vertex(px: float, py: float, into: tuple[float, float], out: tuple[float, float]) -> tuple[float, ...]:
        return (px, py, px + into[0], py + into[1], px + out[0], py + out[1])

    still = (0.0, 0.0)
    return Contour(
        (
            vertex(x + rx, y, (-kx, 0.0), still), vertex(right - rx, y, still, (kx, 0.0)),
            vertex(right, y + ry, (0.0, -ky), still), vertex(right, bottom - ry, still, (0.0, ky)),
            vertex(right - rx, bottom, (kx, 0.0), still), vertex(x + rx, bottom, still, (-kx, 0.0)),
            vertex(x, bottom - ry, (0.0, ky), still), vertex(x, y + ry, still, (0.0, -ky)),
        ),  # type: ignore[arg-type]
        True,
    )  # fmt: skip


def regular(sides: int, width: float, height: float, inner: float | None = None) -> Contour:
    """Return a regular polygon, or with ``inner`` (0 to 1 of the outer radius) a star, stretched into a box.

    The first corner points up.
    """
    count = sides if inner is None else 2 * sides
    points = []
    for index in range(count):
        reach = inner if inner is not None and index % 2 else 1.0
        angle = 2 * math.pi * index / count - math.pi / 2
        points.append((width / 2 * (1 + reach * math.cos(angle)), height / 2 * (1 + reach * math.sin(angle))))
    return polygon(points)
