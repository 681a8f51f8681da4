"""Bloom: what is brighter than a threshold glows over octaves of Gaussians; values over 1 stay."""

from __future__ import annotations

from collections.abc import Mapping

import cv2
import numpy as np

from spiralis.core.compositing.kernels.curves import bright_pixels
from spiralis.core.effects.job import EffectJob, Margins, even
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
    read = job.source_over(_reads(values, job.scale))
    pixels = np.ascontiguousarray(read.as_float)
    source = np.empty_like(pixels)
    tint = np.array(values["tint"][:3], dtype=np.float32)
    bright_pixels(pixels.reshape(-1), np.float32(values["threshold"] / 100), tint, source.reshape(-1))
    count = round(values["octaves"])
    share = values["strength"] / 100 * values["tint"][3] / count
    out = pixels.copy()
    for octave in range(count):
        wide = values["radius"] / 2**octave
        cv2.scaleAdd(softened(source, wide * sx, wide * sy, read.corner), share, out, out)
    # Light may pass the alpha; what was clear becomes as solid as its light.
    np.minimum(out[..., 3], 1, out=out[..., 3])
    return job.result(out, read.corner)


register_effect(
    EffectKind(
        "bloom", "Bloom", "Bright parts glow", "Soften", EFFECT, PARAMETERS, _run, _reads, _reads,
        neutral=lambda values: values["strength"] == 0 or values["tint"][3] == 0,
    )
)  # fmt: skip
