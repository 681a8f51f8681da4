"""Bloom: what is brighter than a threshold glows over octaves of Gaussians; values over 1 stay."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence

import cv2
import numpy as np

from spiralis.core.compositing.kernels import curves
from spiralis.core.effects.job import EffectJob, Margins, even, grown
from spiralis.core.model.blocks import EFFECT, EffectKind, register_effect
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.raster.blurring import reach, softened
from spiralis.core.raster.raster import Raster

PARAMETERS = (
    Parameter("threshold", "Threshold", Kind.NUMBER, 60.0, "What is brighter than this glows", "%", 0, 100),
    Parameter("radius", "Radius", Kind.NUMBER, 40.0, "How far the widest glow reaches: its sigma", "px", 0.5, 400),
    Parameter("octaves", "Octaves", Kind.NUMBER, 4.0, "How many glows, each half as wide, lie over each other", "",
              1, 6),
    Parameter("strength", "Strength", Kind.NUMBER, 100.0, "How bright the glow is", "%", 0, 1000),
    Parameter("tint", "Tint", Kind.COLOUR, (1.0, 1.0, 1.0, 1.0), "Colours the glow"),
)  # fmt: skip

#: With fewer pixels to the narrowest sigma than this, a pyramid would be too coarse.
_LEAST = 1.5


def _reads(values: Mapping[str, Value], scale: tuple[float, float]) -> Margins:
    return even(*(reach(values["radius"] * s) for s in scale))


def _run(job: EffectJob) -> Raster:
    values, (sx, sy) = job.values, job.scale
    count = round(values["octaves"])
    narrowest = tuple(values["radius"] * s / 2 ** (count - 1) for s in (sx, sy))
    # Wide glows are as good made of a half or a quarter of the pixels; its blocks belong to the grid.
    fold = 4 if min(narrowest) >= 10 else 2 if min(narrowest) >= 4 else 1
    levels = count if min(narrowest) / fold >= _LEAST else 1
    unit = fold * 2 ** (levels - 1)
    left, top, right, bottom = grown(job.region, _reads(values, job.scale))
    box = (left // unit * unit, top // unit * unit, -(-right // unit) * unit, -(-bottom // unit) * unit)
    source = np.ascontiguousarray(job.source.as_float)
    small = np.empty(((box[3] - box[1]) // fold, (box[2] - box[0]) // fold, 4), dtype=np.float32)
    x, y = job.source.corner
    tint = np.array(values["tint"][:3], dtype=np.float32)
    curves.bright_means(source, box[0] - x, box[1] - y, fold, np.float32(values["threshold"] / 100), tint, small)
    # Taking means and mixing between them softens as well: by so much variance, in small pixels.
    added = (1 - 1 / fold**2) / 12 + 1 / 6 if fold > 1 else 0.0
    sigmas = (narrowest[0] / fold, narrowest[1] / fold)
    corner = (box[0] // fold, box[1] // fold)
    glow = (_octaves if levels > 1 else _direct)(small, sigmas, count, added, corner)
    own = job.source.spread_over(job.region)
    out = np.array(own.as_float) if own is job.source else np.ascontiguousarray(own.as_float)
    share = values["strength"] / 100 * values["tint"][3] / count
    x, y = job.region[0] - box[0], job.region[1] - box[1]
    curves.add_enlarged(glow.reshape(-1), glow.shape[1], glow.shape[0], fold, x, y, share, out)
    # Light may pass the alpha; what was clear becomes as solid as its light.
    np.minimum(out[..., 3], 1, out=out[..., 3])
    return Raster(out, job.source.space, job.region[:2])


def _less(sigmas: Sequence[float], variances: Sequence[float]) -> tuple[float, float]:
    """Return the sigmas that are left to do where so much of their variance is done."""
    x, y = (math.sqrt(max(s * s - v, 0.0)) for s, v in zip(sigmas, variances, strict=True))
    return x, y


def _direct(
    light: np.ndarray, sigmas: tuple[float, float], count: int, added: float, corner: tuple[int, int]
) -> np.ndarray:
    """Return the sum of Gaussians of light, each twice as wide as the one before, one after the other."""
    total = np.zeros_like(light)
    for octave in range(count):
        total += softened(light, *_less([s * 2**octave for s in sigmas], (added, added)), corner)
    return total


def _octaves(
    light: np.ndarray, sigmas: tuple[float, float], count: int, added: float, corner: tuple[int, int]
) -> np.ndarray:
    """Return the same sum by a pyramid: each Gaussian is made of the one before, on a quarter of its pixels.

    Halving and doubling by the weights 1 4 6 4 1 soften by a variance of 1 in pixels of the larger picture (Burt,
    *Fast Filter Transforms for Image Processing*, 1981); that much less is left to do. Sides are multiples of
    2^(count - 1).
    """
    made: list[np.ndarray] = []
    reached = [0.0, 0.0]
    soft = light
    for level in range(count):
        if level > 0:
            soft = cv2.pyrDown(soft, borderType=cv2.BORDER_REPLICATE)
            reached = [(variance + 1) / 4 for variance in reached]
        # What doubling up again and the pixels' own size will add, in pixels of this level.
        later = (1 - 4.0**-level) / 3 + added / 4.0**level
        x, y = _less(sigmas, [variance + later for variance in reached])
        soft = softened(soft, x, y, (corner[0] >> level, corner[1] >> level))
        reached = [reached[0] + x * x, reached[1] + y * y]
        made.append(soft)
    total = made[-1]
    for finer in reversed(made[:-1]):
        total = cv2.add(finer, cv2.pyrUp(total))
    return total


register_effect(
    EffectKind(
        "bloom", "Bloom", "Bright parts glow", "Soften", EFFECT, PARAMETERS, _run, _reads, _reads,
        neutral=lambda values: values["strength"] == 0 or values["tint"][3] == 0,
    )
)  # fmt: skip
