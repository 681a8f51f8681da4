"""Effects that send colours through tables: what turns curves into tables, and runs them."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np

from spiralis.core.compositing.kernels import curves as curves_kernels
from spiralis.core.effects.job import EffectJob
from spiralis.core.raster.raster import Raster

_ITEMS = 4096


def steps() -> np.ndarray:
    """Return the values, 0 to 1, for which a table has items."""
    return np.linspace(0.0, 1.0, _ITEMS + 1)


def through_curves(job: EffectJob, *curves: Callable[[np.ndarray], np.ndarray]) -> Raster:
    """Return the picture with its straight red, green and blue through three curves, or all through one.

    A curve takes float64 values of 0 to 1 and gives what they become.
    """
    tables = np.concatenate([np.asarray(curve(steps()), dtype=np.float32) for curve in curves])
    return _run(job, curves_kernels.curve_pixels, tables)


def by_brightness(job: EffectJob, colours: np.ndarray) -> Raster:
    """Return the picture with its colours by brightness: ``colours`` (n, 4) straight, from black to white."""
    return _run(job, curves_kernels.tone_pixels, np.asarray(colours, dtype=np.float32).reshape(-1))


def along(places: Sequence[float] | np.ndarray, colours: np.ndarray) -> np.ndarray:
    """Return a table's colours (n, 4), mixed between colours (m, 4) that stand at places of 0 to 1, in order."""
    return np.column_stack([np.interp(steps(), places, colours[:, c]) for c in range(4)])


def _run(job: EffectJob, kernel: Callable[..., None], tables: np.ndarray) -> Raster:
    pixels = np.ascontiguousarray(job.source.as_float)
    out = np.empty_like(pixels)
    kernel(pixels.reshape(-1), tables, _ITEMS + 1, out.reshape(-1))
    return Raster(out, job.source.space, job.source.corner)


def mixed(job: EffectJob, changed: Raster, share: float) -> Raster:
    """Return the source changed as far as a share of 0 to 1."""
    if share >= 1:
        return changed
    own = job.source.as_float
    return Raster(own + (changed.data - own) * np.float32(share), changed.space, changed.corner)
