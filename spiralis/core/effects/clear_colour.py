"""Clear a colour: what is like an even ground becomes clear."""

from __future__ import annotations

import numpy as np

from spiralis.core.compositing.kernels import likeness
from spiralis.core.effects.colour_steps import LUMA
from spiralis.core.effects.job import EffectJob, nothing_around
from spiralis.core.model.blocks import EFFECT, EffectKind, register_effect
from spiralis.core.model.parameter import Kind, Parameter
from spiralis.core.raster.raster import Raster

BY = ("its tint", "all of it")
#: What departs from grey by less has no tint.
_GREY = 1e-3

PARAMETERS = (
    Parameter("colour", "Colour", Kind.COLOUR, (0.0, 0.7, 0.2, 1.0), "The colour of the ground"),
    Parameter("by", "Goes by", Kind.CHOICE, BY[0],
              "Its tint, so that shades of the ground go too, or brightness as well, for a ground that is grey",
              choices=BY),
    Parameter("tolerance", "Tolerance", Kind.NUMBER, 20.0, "How unlike a colour may be that goes whole", "%", 0, 100),
    Parameter("softness", "Softness", Kind.NUMBER, 15.0, "How gradually it ends", "%", 0.1, 100),
    Parameter("cast", "Cast taken off", Kind.NUMBER, 100.0, "How much of the ground's tint is taken off what stays",
              "%", 0, 100),
)  # fmt: skip


def _run(job: EffectJob) -> Raster:
    pixels, values = job.source.as_float, job.values
    ground = np.array(values["colour"][:3])
    tint = ground - ground @ LUMA
    size, tints = float(np.linalg.norm(tint)), values["by"] == BY[0]
    way = tint / size if size > _GREY else np.zeros(3)
    held, along, luma = (np.asarray(part, dtype=np.float32) for part in (tint if tints else ground, way, LUMA))
    tolerance, softness, cast = (np.float32(values[name] / 100) for name in ("tolerance", "softness", "cast"))
    out = np.empty_like(pixels)
    likeness.clear_like(pixels.reshape(-1), held, along, luma, tints, tolerance, softness, cast, out.reshape(-1))
    return Raster(out, job.source.space, job.source.corner)


register_effect(
    EffectKind(
        "clear-colour", "Clear a colour", "What is like an even ground, a green one say, becomes clear", "Reveal",
        EFFECT, PARAMETERS, _run, nothing_around, nothing_around, neutral=lambda values: False,
    )
)  # fmt: skip
