"""Four-sided figures by their edges: one in one colour is one operation, and so is what cuts others."""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import lru_cache

import numpy as np

from spiralis.core.colour import Colour
from spiralis.core.compositing.kernels import bands
from spiralis.core.geometry import Affine, Box, box_around_points, signed_area
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


@lru_cache(maxsize=512)
def edges_of_box(inverse: Affine, box: Box) -> np.ndarray:
    """Return the edges of a box's image in the same way, opposite ones one after the other; ``inverse`` leads back to
    the box's units.

    They are kept, so that operations that are the same in the next frame point to the same place.
    """
    rows, lengths = [], []
    for a, b, c, low, high in (
        (inverse.a, inverse.c, inverse.e, box[0], box[2]), (inverse.b, inverse.d, inverse.f, box[1], box[3])
    ):  # fmt: skip
        length = max(math.hypot(a, b), 1e-12)
        centre = a * 0.5 + b * 0.5 + c
        rows += [(a, b, centre - low), (-a, -b, high - centre)]
        lengths += [length, length]
    return np.array(rows, dtype=np.float64) / np.array(lengths)[:, None]


def add_quad(
    table: Table, corners: Sequence[Point], edges: np.ndarray, colour: Colour, mode: int, opacity: float
) -> None:
    """Add a quadrilateral of one colour; ``edges`` are its own by ``edges_of``."""
    left, top, right, bottom = box_around_points(corners)
    flat = np.stack([premultiplied(colour)] * 2)
    solid = int(opacity >= 1 and colour[3] >= 1)
    table.add(bands.FLAT, mode, (left - 1, top - 1, right + 1, bottom + 1), flat, (2, solid), moved_by(0, 0), opacity,
              tuple(flat[0].tolist()), edges)  # fmt: skip
