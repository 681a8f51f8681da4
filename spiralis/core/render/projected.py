"""A layer's picture seen in perspective: drawn upright as fine as it is seen at its nearest, and sampled once."""

from __future__ import annotations

from collections.abc import Hashable

import numpy as np

from spiralis.core.compositing.kernels import pinning
from spiralis.core.geometry import Affine, Box, Projection, WholeBox, box_of, intersect, rounded_out
from spiralis.core.raster.raster import Raster
from spiralis.core.render.nodes import Node, emit_picture, region_of, snapped, worth_keeping
from spiralis.core.render.table import Table

#: So many samples a pixel and axis at the most, where a picture is made much smaller.
_FINEST = 8
#: The finest that a layer is drawn beside its own size, and the most pixels of the upright picture.
_LARGEST, _MOST = 8.0, 24_000_000
_ALL_THE_FINER = 6_000_000
_FAR = float(1 << 14)


class Projected(Node):
    """A node in an upright grid of its own, seen under a projective map from there to this grid."""

    def __init__(self, inner: Node, to_grid: Projection) -> None:
        self.inner, self.to_grid = inner, to_grid

    def make_key(self) -> Hashable:
        return self.inner.key, self.to_grid

    def emit(self, table: Table, mode: int, opacity: float) -> None:
        region = region_of(table)
        picture = self.picture(region) if worth_keeping(self, region) else self.drawn_in(region)
        emit_picture(table, picture, mode, opacity)

    def drawn_in(self, region: WholeBox) -> Raster | None:
        back = self.to_grid.inverse()
        if back is None:
            return None
        around = back.box(box_of(region))
        inside = intersect(around, (-_FAR, -_FAR, _FAR, _FAR))
        if inside is None:
            return None
        picture = self.inner.picture(snapped(rounded_out(inside, 2.0)))
        if picture is None:
            return None
        seen = intersect(self.to_grid.box(box_of(picture.box)), box_of(region))
        if seen is None:
            return None
        area = rounded_out(seen, 1.0)
        left, top = max(area[0], region[0]), max(area[1], region[1])
        right, bottom = min(area[2], region[2]), min(area[3], region[3])
        pixels = np.ascontiguousarray(picture.as_float)
        out = np.zeros((bottom - top, right - left, 4), dtype=np.float32)
        # Whole numbers are the middles of pixels for the sampler.
        half = Projection.of(Affine.shift(0.5, 0.5)).array
        corner = Projection.of(Affine.shift(-picture.corner[0] - 0.5, -picture.corner[1] - 0.5)).array
        places = np.ascontiguousarray((corner @ back.array @ half).reshape(-1))
        pinning.pin_pixels(pixels.reshape(-1), pixels.shape[1], pixels.shape[0], places, left, top, _FINEST, out)
        return Raster(out, corner=(left, top))


def fineness(to_grid: Projection, box: Box, frame: Box) -> float:
    """Return how many pixels of an upright grid a unit of a layer gets, so that its nearest part is sharp.

    The largest enlargement in any direction at points of the box that are seen, within what is worth drawing.
    """
    matrix, most = to_grid.array, 0.0
    for x in np.linspace(box[0], box[2], 5):
        for y in np.linspace(box[1], box[3], 5):
            u, v, w = matrix @ (x, y, 1.0)
            if w <= 1e-6:
                continue
            u, v = u / w, v / w
            if not (frame[0] - 64 <= u <= frame[2] + 64 and frame[1] - 64 <= v <= frame[3] + 64) and most > 0:
                continue
            slopes = np.array([[matrix[0, 0] - matrix[2, 0] * u, matrix[0, 1] - matrix[2, 1] * u],
                               [matrix[1, 0] - matrix[2, 0] * v, matrix[1, 1] - matrix[2, 1] * v]]) / w  # fmt: skip
            most = max(most, float(np.linalg.norm(slopes, 2)))
    area = max((box[2] - box[0]) * (box[3] - box[1]), 1.0)
    # What is sampled twice gets soft: twice as fine as it is seen, where that is not too much to draw.
    most *= 2.0 if area * most * most * 4 <= _ALL_THE_FINER else 1.0
    finest = min(_LARGEST, (_MOST / area) ** 0.5)
    # Steps, so that a layer that moves slowly is drawn once and sampled again and again.
    return float(2 ** (np.ceil(2 * np.log2(min(max(most, 1 / 64), finest))) / 2))
