"""Bloom: what is brighter than a threshold glows over octaves of Gaussians; values over 1 stay."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence

import cv2
import numpy as np

from spiralis.core.compositing.kernels.curves import bright_pixels
from spiralis.core.effects.job import EffectJob, Margins, even, grown
from spiralis.core.geometry import WholeBox
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


def _reads(values: Mapping[str, Value], scale: tuple[float, float]) -> Margins:
    return even(*(reach(values["radius"] * s) for s in scale))


def _run(job: EffectJob) -> Raster:
    values, (sx, sy) = job.values, job.scale
    count = round(values["octaves"])
    narrowest = values["radius"] * min(sx, sy) / 2 ** (count - 1)
    # Wide glows are as good made of a half or a quarter of the pixels; its blocks belong to the grid.
    fold = 4 if narrowest >= 10 else 2 if narrowest >= 4 else 1
    left, top, right, bottom = grown(job.region, _reads(values, job.scale))
    box = (left // fold * fold, top // fold * fold, -(-right // fold) * fold, -(-bottom // fold) * fold)
    pixels = np.ascontiguousarray(job.source.spread_over(box).as_float)
    light = np.empty_like(pixels)
    tint = np.array(values["tint"][:3], dtype=np.float32)
    bright_pixels(pixels.reshape(-1), np.float32(values["threshold"] / 100), tint, light.reshape(-1))
    glow = _glow(light, [(values["radius"] * sx / 2**n, values["radius"] * sy / 2**n) for n in range(count)], fold, box)
    out = pixels + glow * np.float32(values["strength"] / 100 * values["tint"][3] / count)
    # Light may pass the alpha; what was clear becomes as solid as its light.
    np.minimum(out[..., 3], 1, out=out[..., 3])
    return job.result(out, box[:2])


def _glow(light: np.ndarray, sigmas: Sequence[tuple[float, float]], fold: int, box: WholeBox) -> np.ndarray:
    """Return the sum of Gaussians of light, worked out on means of ``fold`` by ``fold`` pixels."""
    height, width = light.shape[:2]
    small = light if fold == 1 else cv2.resize(light, (width // fold, height // fold), interpolation=cv2.INTER_AREA)
    # Taking means and mixing between them softens as well: by so much variance, in pixels.
    added = (fold**2 - 1) / 12 + fold**2 / 6 if fold > 1 else 0.0
    corner = (box[0] // fold, box[1] // fold)
    total = np.zeros_like(small)
    for pair in sigmas:
        x, y = (math.sqrt(max(sigma**2 - added, 0.0)) / fold for sigma in pair)
        total += softened(small, x, y, corner)
    return total if fold == 1 else np.asarray(cv2.resize(total, (width, height), interpolation=cv2.INTER_LINEAR))


register_effect(
    EffectKind(
        "bloom", "Bloom", "Bright parts glow", "Soften", EFFECT, PARAMETERS, _run, _reads, _reads,
        neutral=lambda values: values["strength"] == 0 or values["tint"][3] == 0,
    )
)  # fmt: skip
