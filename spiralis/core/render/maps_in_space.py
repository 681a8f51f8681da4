"""Maps of space by plain numbers: for single points and small sums arrays would cost more than they save."""

from __future__ import annotations

import numpy as np

from spiralis.core.geometry import Affine

#: A map of space that is affine: three rows of four numbers, the last of which shifts.
Row = tuple[float, float, float, float]
Rows = tuple[Row, Row, Row]
#: A turn or the like: three rows of three.
Turn = tuple[tuple[float, float, float], ...]

NOTHING: Rows = ((1.0, 0.0, 0.0, 0.0), (0.0, 1.0, 0.0, 0.0), (0.0, 0.0, 1.0, 0.0))


def after(outer: Rows, inner: Rows) -> Rows:
    """Return the map that applies ``inner`` first."""
    (a, b, c, d), (e, f, g, h), (i, j, k, m) = inner
    first, second, third = [
        (p * a + q * e + r * i, p * b + q * f + r * j, p * c + q * g + r * k, p * d + q * h + r * m + s)
        for p, q, r, s in outer
    ]
    return first, second, third


def embedded(flat: Affine) -> Rows:
    """Return a map of the plane as one of space that leaves z alone."""
    a, b, c, d, e, f = flat
    return (a, c, 0.0, e), (b, d, 0.0, f), (0.0, 0.0, 1.0, 0.0)


def turned_in_space(turn: Turn, flat: Affine, place: tuple[float, float, float]) -> Rows:
    """Return the map by ``flat`` in the plane and along z, then turned, then moved to a place."""
    a, b, c, d, e, f = flat
    first, second, third = [
        (x * a + y * b, x * c + y * d, z, x * e + y * f + at) for (x, y, z), at in zip(turn, place, strict=True)
    ]
    return first, second, third


def moved_in(rows: Rows, z: float) -> Rows:
    """Return a map that first moves by so much along z."""
    (a, b, c, d), (e, f, g, h), (i, j, k, m) = rows
    return (a, b, c, d + c * z), (e, f, g, h + g * z), (i, j, k, m + k * z)


def point_under(rows: Rows, x: float, y: float) -> tuple[float, float, float]:
    """Return where a point of the plane z = 0 goes."""
    (a, b, _, d), (e, f, _, h), (i, j, _, m) = rows
    return a * x + b * y + d, e * x + f * y + h, i * x + j * y + m


def plane_under(camera: Rows, rows: Rows) -> tuple[float, ...]:
    """Return the 3 by 3 map, row by row, of the plane z = 0 as a camera's map shows it after ``rows``."""
    (a, b, _, d), (e, f, _, h), (i, j, _, m) = rows
    made: list[float] = []
    for p, q, r, s in camera:
        made += (p * a + q * e + r * i, p * b + q * f + r * j, p * d + q * h + r * m + s)
    return tuple(made)


def as_array(rows: Rows) -> np.ndarray:
    """Return a map as float64 (4, 4)."""
    return np.array([*rows, (0.0, 0.0, 0.0, 1.0)])


def as_rows(array: np.ndarray) -> Rows:
    """Return the first three rows of a float64 (3 or 4, 4) array."""
    first, second, third = (tuple(row) for row in array[:3].tolist())
    return first, second, third
