"""Replace a colour: what is like one colour becomes another."""

from __future__ import annotations

import numpy as np

from spiralis.core.compositing.kernels import likeness
from spiralis.core.effects.job import EffectJob, nothing_around
from spiralis.core.model.blocks import EFFECT, EffectKind, register_effect
from spiralis.core.model.parameter import Kind, Parameter
from spiralis.core.raster.raster import Raster

PARAMETERS = (
    Parameter("old", "Colour", Kind.COLOUR, (1.0, 0.0, 0.0, 1.0), "What is to go"),
    Parameter("new", "Becomes", Kind.COLOUR, (0.0, 0.5, 1.0, 1.0), "What comes instead; clear where it is clear"),
    Parameter("tolerance", "Tolerance", Kind.NUMBER, 20.0, "How unlike a colour may be", "%", 0, 100),
    Parameter("softness", "Softness", Kind.NUMBER, 15.0, "How gradually it ends", "%", 0.1, 100),
)


def _run(job: EffectJob) -> Raster:
    pixels, values = job.source.as_float, job.values
    old, new = (np.array(values[name], dtype=np.float32) for name in ("old", "new"))
    out = np.empty_like(pixels)
    tolerance, softness = (np.float32(values[name] / 100) for name in ("tolerance", "softness"))
    likeness.replace_like(pixels.reshape(-1), old, new, tolerance, softness, out.reshape(-1))
    return Raster(out, job.source.space, job.source.corner)


register_effect(
    EffectKind(
        "replace-colour", "Replace a colour", "What is like one colour becomes another", "Colour", EFFECT, PARAMETERS,
        _run, nothing_around, nothing_around, neutral=lambda values: values["old"] == values["new"],
    )
)  # fmt: skip
