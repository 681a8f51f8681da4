"""Effects that are the mean of a picture moved many times: along a line, about a centre, towards it."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from spiralis.core.compositing.kernels import smear
from spiralis.core.effects.job import EffectJob
from spiralis.core.effects.remapping import ringed_pixels
from spiralis.core.geometry import Affine
from spiralis.core.raster.raster import Raster

#: More moments than that look no smoother.
MOST = 96


def count_for(pixels: float) -> int:
    """Return how many moments a way of so many pixels takes: one a pixel."""
    return int(min(max(np.ceil(pixels), 2), MOST))


def middles(low: float, high: float, count: int) -> np.ndarray:
    """Return the middles of ``count`` even parts of a range."""
    return np.asarray(low + (high - low) * (np.arange(count) + 0.5) / count)


def averaged(job: EffectJob, back: Sequence[Affine]) -> Raster:
    """Return the mean of the picture moved; each map leads from the layer's units to where they come from."""
    to_grid = job.to_grid
    grid_to = to_grid.inverse() or Affine()
    # The picture gets a clear ring, so it begins a pixel further left and up.
    left, top = job.source.corner[0] - 1, job.source.corner[1] - 1
    places = [(Affine.shift(-left, -top) @ to_grid @ matrix @ grid_to).between_pixels() for matrix in back]
    pixels = ringed_pixels(job.source)
    height, width = pixels.shape[:2]
    x0, y0, x1, y1 = job.region
    out = np.empty((y1 - y0, x1 - x0, 4), dtype=np.float32)
    weights = np.full(len(places), 1.0 / len(places))
    smear.average(pixels.reshape(-1), width, height, np.array(places), weights, x0, y0, out)
    return Raster(out, job.source.space, (x0, y0))


def about(x: float, y: float, matrix: Affine) -> Affine:
    """Return a map done about a point."""
    return Affine.shift(x, y) @ matrix @ Affine.shift(-x, -y)
