"""Inner halo: a glow in one colour from the edge inwards."""

from __future__ import annotations

import math
from collections.abc import Mapping

import numpy as np

from spiralis.core.effects.edges import in_colour, widened
from spiralis.core.effects.job import EffectJob, Finish, Margins, even, nothing_around
from spiralis.core.model.blocks import FINISH, EffectKind, register_effect
from spiralis.core.model.kinds import LOCAL_MODES
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.raster.blurring import reach, softened

PARAMETERS = (
    Parameter("colour", "Colour", Kind.COLOUR, (1.0, 0.90, 0.62, 1.0), "The colour of the glow"),
    Parameter("size", "Size", Kind.NUMBER, 16.0, "How far it reaches: the sigma of a Gaussian", "px", 0, 500),
    Parameter("spread", "Spread", Kind.NUMBER, 2.0, "How far it is solid before it fades", "px", 0, 500),
    Parameter("strength", "Strength", Kind.NUMBER, 100.0, "How dense it is", "%", 0, 1000),
    Parameter("blend", "Blend", Kind.CHOICE, "screen", "How it mixes with the layer", choices=LOCAL_MODES),
)  # fmt: skip


def _reads(values: Mapping[str, Value], scale: tuple[float, float]) -> Margins:
    return even(*(reach(values["size"] * s) + math.ceil(values["spread"] * max(scale) + 1) for s in scale))


def _run(job: EffectJob) -> Finish:
    values, (sx, sy) = job.values, job.scale
    alpha, corner = job.alpha_over(_reads(values, job.scale))
    outside = widened(np.ascontiguousarray(1 - alpha), values["spread"] * (sx + sy) / 2)
    glow = softened(outside, values["size"] * sx, values["size"] * sy, corner, repeat=True)
    glow = np.clip(glow * np.float32(values["strength"] / 100), 0, 1) * alpha
    return Finish(front=in_colour(job, glow, corner, values["colour"]), blend=values["blend"])


register_effect(
    EffectKind(
        "inner-halo", "Inner halo", "A glow from the edge inwards", "Finish", FINISH, PARAMETERS, _run, nothing_around,
        _reads, neutral=lambda values: values["strength"] == 0 or values["colour"][3] == 0,
    )
)  # fmt: skip
