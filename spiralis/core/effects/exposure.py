"""Exposure in stops, in linear light; values over 1 stay."""

from __future__ import annotations

import numpy as np

from spiralis.core.colour import linear_to_srgb, srgb_to_linear
from spiralis.core.compositing.kernels import curves
from spiralis.core.effects.job import EffectJob, nothing_around
from spiralis.core.effects.tables import steps
from spiralis.core.model.blocks import EFFECT, EffectKind, register_effect
from spiralis.core.model.parameter import Kind, Parameter
from spiralis.core.raster.raster import Raster

PARAMETERS = (
    Parameter("stops", "Stops", Kind.NUMBER, 1.0, "Each stop doubles the light; negative ones halve it", "", -12, 12,
              step=0.1),
)  # fmt: skip


def _run(job: EffectJob) -> Raster:
    pixels = np.ascontiguousarray(job.source.as_float)
    gain = 2.0 ** job.values["stops"]
    table = linear_to_srgb(srgb_to_linear(steps()) * gain).astype(np.float32)
    out = np.empty_like(pixels)
    curves.expose_pixels(pixels.reshape(-1), table, np.float32(gain), out.reshape(-1))
    return Raster(out, job.source.space, job.source.corner)


register_effect(
    EffectKind(
        "exposure", "Exposure", "More or less light, by stops", "Colour", EFFECT, PARAMETERS, _run, nothing_around,
        nothing_around, neutral=lambda values: values["stops"] == 0,
    )
)  # fmt: skip
