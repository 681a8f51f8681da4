"""A node as it is seen out of focus: every point of light is a disc."""

from __future__ import annotations

import math
from collections.abc import Hashable

import cv2
import numpy as np

from spiralis.core.compositing.kernels import light as light_kernels
from spiralis.core.geometry import WholeBox, intersect_whole
from spiralis.core.raster.raster import Raster
from spiralis.core.render.nodes import Node, emit_picture, region_of, worth_keeping
from spiralis.core.render.table import Table

#: What is spread less than so many px is in focus; nothing is spread more.
LEAST, MOST = 0.7, 400.0


class Defocused(Node):
    """The mean, in linear light, of a node's picture over a disc of a diameter in pixels of the grid."""

    def __init__(self, inner: Node, diameter: float) -> None:
        self.inner, self.diameter = inner, min(diameter, MOST)

    def make_key(self) -> Hashable:
        return self.inner.key, self.diameter

    def emit(self, table: Table, mode: int, opacity: float) -> None:
        region = region_of(table)
        picture = self.picture(region) if worth_keeping(self, region) else self.drawn_in(region)
        emit_picture(table, picture, mode, opacity)

    def drawn_in(self, region: WholeBox) -> Raster | None:
        reach = math.ceil(self.diameter / 2) + 1
        left, top, right, bottom = region
        picture = self.inner.picture((left - reach, top - reach, right + reach, bottom + reach))
        if picture is None:
            return None
        x0, y0, x1, y1 = picture.box
        whole = picture.spread_over((x0 - reach, y0 - reach, x1 + reach, y1 + reach))
        linear = np.empty(whole.data.size, dtype=np.float32)
        light_kernels.decode_premultiplied(np.ascontiguousarray(whole.as_float).reshape(-1), np.float32(1.0), linear)
        spread = cv2.filter2D(linear.reshape(whole.data.shape), -1, disc(self.diameter), borderType=cv2.BORDER_CONSTANT)
        light_kernels.encode_premultiplied(spread.reshape(-1))
        area = intersect_whole(whole.box, region)
        return Raster(np.maximum(spread, 0), corner=whole.corner).cut(area) if area is not None else None


def disc(diameter: float) -> np.ndarray:
    """Return a round kernel with a soft rim of a pixel, float32 (n, n) with n odd, that adds up to 1."""
    reach = math.ceil(diameter / 2)
    y, x = np.mgrid[-reach : reach + 1, -reach : reach + 1]
    kernel = np.clip(diameter / 2 + 0.5 - np.hypot(x, y), 0.0, 1.0)
    return np.asarray(kernel / kernel.sum(), dtype=np.float32)
