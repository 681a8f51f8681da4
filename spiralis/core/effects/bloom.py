"""Bloom: what is brighter than a threshold glows over octaves of Gaussians; values over 1 stay."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from spiralis.core.effects.colour_steps import LUMA
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
    pixels, at = read.as_float, values["threshold"] / 100
    bright = pixels[..., :3] @ LUMA.astype(np.float32)
    # Colours keep their hue: each pixel's light beyond the threshold, as a share of all of its light.
    over = np.maximum(bright - np.float32(at) * pixels[..., 3], 0) / np.maximum(bright, 1e-6)
    source = pixels[..., :3] * over[..., None] * np.array(values["tint"][:3], dtype=np.float32)
    source = np.dstack([source, source.max(axis=-1)])
    count = round(values["octaves"])
    glow = np.zeros_like(pixels)
    for octave in range(count):
        wide = values["radius"] / 2**octave
        glow += softened(source, wide * sx, wide * sy, read.corner)
    glow *= np.float32(values["strength"] / 100 * values["tint"][3] / count)
    out = pixels + glow
    # Light may pass the alpha; what was clear becomes as solid as its light.
    out[..., 3] = np.minimum(out[..., 3], 1)
    return job.result(out, read.corner)


register_effect(
    EffectKind(
        "bloom", "Bloom", "Bright parts glow", "Soften", EFFECT, PARAMETERS, _run, _reads, _reads,
        neutral=lambda values: values["strength"] == 0 or values["tint"][3] == 0,
    )
)  # fmt: skip
