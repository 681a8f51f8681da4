"""Draw a gradient into pixels, for layers that do not cover the frame or that are blurred."""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from spiralis.core.geometry import Affine
from spiralis.core.raster.drawing import Gradient
from spiralis.core.raster.raster import Raster


def draw_gradient(gradient: Gradient) -> Raster:
    """Return float32 pixels of the gradient's box at one pixel a unit, with a transparent ring."""
    return _drawn(gradient)


@lru_cache(maxsize=8)
def _drawn(gradient: Gradient) -> Raster:
    left, top, right, bottom = gradient.box
    width, height = round(right - left), round(bottom - top)
    data = np.zeros((height + 2, width + 2, 4), dtype=np.float32)
    if gradient.flat:
        data[1:-1, 1:-1] = gradient.table[0]
    else:
        x, y = np.meshgrid(left + 0.5 + np.arange(width), top + 0.5 + np.arange(height))
        m = gradient.to_ramp
        u, v = m.a * x + m.c * y + m.e, m.b * x + m.d * y + m.f
        share = np.hypot(u, v) if gradient.radial else np.arctan2(v, u) / (2 * np.pi) % 1 if gradient.conic else u
        t = np.clip(share, 0.0, 1.0) * (len(gradient.table) - 1)
        low = np.minimum(t.astype(np.intp), len(gradient.table) - 2)
        share = (t - low)[..., None].astype(np.float32)
        data[1:-1, 1:-1] = gradient.table[low] * (1 - share) + gradient.table[low + 1] * share
    return Raster(data, Affine.shift(left - 1, top - 1))
