"""Fill: what the layer shows in one gradient, or in another layer's picture; its outline stays."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from attrs import evolve

from spiralis.core.effects.channels import layer_parameter, map_pixels
from spiralis.core.effects.gradients import gradient_over, gradient_parameters
from spiralis.core.effects.job import EffectJob, nothing_around
from spiralis.core.model.blocks import EFFECT, EffectKind, register_effect
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.raster.raster import Raster

PARAMETERS = (
    Parameter("with", "With", Kind.CHOICE, "gradient", "A gradient across the layer, or what another layer shows",
              choices=("gradient", "layer")),
    *gradient_parameters(("with", ("gradient",))),
    evolve(layer_parameter("The layer whose picture it is filled with"), needs=("with", ("layer",))),
    Parameter("amount", "Amount", Kind.NUMBER, 100.0, "How much of the own colours goes", "%", 0, 100),
)  # fmt: skip


def _run(job: EffectJob) -> Raster:
    source = job.source_over((0, 0, 0, 0))
    own, alpha = source.as_float, source.as_float[..., 3:]
    colours = map_pixels(job) if job.values["with"] == "layer" else gradient_over(job)
    # Over the own colours where the filling is not solid, and within the own outline.
    filled = colours * alpha + own * (1 - colours[..., 3:])
    share = np.float32(job.values["amount"] / 100)
    return Raster(np.asarray(own + (filled - own) * share, dtype=np.float32), source.space, source.corner)


def _neutral(values: Mapping[str, Value]) -> bool:
    return values["amount"] == 0 or (values["with"] == "layer" and not values["map"])


register_effect(
    EffectKind(
        "fill", "Fill", "Fills what the layer shows with a gradient or another layer's picture", "Reveal", EFFECT,
        PARAMETERS, _run, nothing_around, nothing_around, placed=True, neutral=_neutral,
    )
)  # fmt: skip
