"""Pixelate: the mean of each block."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from spiralis.core.effects.job import EffectJob, Margins, even
from spiralis.core.model.blocks import EFFECT, EffectKind, register_effect
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.raster.raster import Raster

PARAMETERS = (Parameter("size", "Size", Kind.NUMBER, 24.0, "How large a block is", "px", 1, 2000),)


def _reads(values: Mapping[str, Value], scale: tuple[float, float]) -> Margins:
    return even(values["size"] * scale[0] + 2, values["size"] * scale[1] + 2)


def _blocks(first: int, last: int, origin: float, size: float) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Return for the pixels of one axis: which block each is in, and where the blocks begin among wider pixels."""
    middles = (np.arange(first, last) + 0.5 - origin) / size
    low, high = int(np.floor(middles[0])), int(np.floor(middles[-1]))
    return np.floor(middles).astype(np.intp) - low, np.arange(low, high + 1) * size + origin, np.array(size)


def _means(sums: np.ndarray, edges: np.ndarray, size: float, corner: int) -> np.ndarray:
    """Return the means between edges from running sums along axis 0, edges cut through pixels."""

    def at(place: np.ndarray) -> np.ndarray:
        place = np.clip(place - corner, 0, len(sums) - 1)
        low = np.minimum(np.floor(place).astype(np.intp), len(sums) - 2)
        share = (place - low).reshape(-1, *[1] * (sums.ndim - 1))
        return np.asarray(sums[low] + (sums[low + 1] - sums[low]) * share)

    return (at(edges + size) - at(edges)) / size


def _run(job: EffectJob) -> Raster:
    read = job.source_over(_reads(job.values, job.scale))
    size_x, size_y = (max(job.values["size"] * s, 1e-3) for s in job.scale)
    x0, y0, x1, y1 = job.region
    of_x, edges_x, _ = _blocks(x0, x1, job.origin[0], size_x)
    of_y, edges_y, _ = _blocks(y0, y1, job.origin[1], size_y)
    pixels = read.as_float.astype(np.float64)
    down = np.concatenate([np.zeros((1, *pixels.shape[1:])), np.cumsum(pixels, axis=0)])
    rows = _means(down, edges_y, size_y, read.corner[1])
    across = np.concatenate([np.zeros((len(rows), 1, 4)), np.cumsum(rows, axis=1)], axis=1)
    blocks = _means(across.swapaxes(0, 1), edges_x, size_x, read.corner[0]).swapaxes(0, 1)
    return Raster(np.ascontiguousarray(blocks[of_y][:, of_x], dtype=np.float32), job.source.space, (x0, y0))


register_effect(
    EffectKind(
        "pixelate", "Pixelate", "Coarse blocks instead of pixels", "Break up", EFFECT, PARAMETERS, _run, _reads, _reads,
        placed=True, neutral=lambda values: False,
    )
)  # fmt: skip
