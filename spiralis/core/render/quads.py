"""A four-sided figure in one colour as one operation: no picture of it is drawn first."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from spiralis.core.colour import Colour
from spiralis.core.compositing.kernels import bands
from spiralis.core.geometry import box_around_points, signed_area
from spiralis.core.render.table import Table, moved_by, premultiplied

Point = tuple[float, float]
#: Of what is narrower than this, in pixels, its edges alone do not tell how much of a pixel it covers.
NARROW = 2.0


def edges_of(corners: Sequence[Point]) -> np.ndarray | None:
    """Return the edges of a convex quadrilateral, taken in order, as the kernel takes them: float64 (4, 3), distances
    inwards of the centres of pixels; None for one that is narrow anywhere."""
    side = 1.0 if signed_area(corners) > 0 else -1.0
    rows = []
    for k in range(4):
        (ax, ay), (bx, by) = corners[k], corners[(k + 1) % 4]
        length = math.hypot(bx - ax, by - ay)
        if length < NARROW:
            return None
        # Across the edge, towards the inside.
        across, down = -side * (by - ay) / length, side * (bx - ax) / length
        rows.append((across, down, across * (0.5 - ax) + down * (0.5 - ay)))
        if min(across * (x - ax) + down * (y - ay) for x, y in (corners[(k + 2) % 4], corners[(k + 3) % 4])) < NARROW:
            return None
    return np.array(rows)


def add_quad(
    table: Table, corners: Sequence[Point], edges: np.ndarray, colour: Colour, mode: int, opacity: float
) -> None:
    """Add a quadrilateral of one colour; ``edges`` are its own by ``edges_of``."""
    left, top, right, bottom = box_around_points(corners)
    flat = np.stack([premultiplied(colour)] * 2)
    solid = int(opacity >= 1 and colour[3] >= 1)
    table.add(bands.FLAT, mode, (left - 1, top - 1, right + 1, bottom + 1), flat, (2, solid), moved_by(0, 0), opacity,
              tuple(flat[0].tolist()), edges)  # fmt: skip
