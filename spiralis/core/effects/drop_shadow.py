"""Drop shadow: the outline, moved and softened, in one colour behind."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from spiralis.core.effects.edges import around, in_colour, shifted, way, widened
from spiralis.core.effects.job import EffectJob, Finish, Margins
from spiralis.core.model.blocks import FINISH, EffectKind, register_effect
from spiralis.core.model.kinds import BLEND_MODES
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.raster.blurring import softened

PARAMETERS = (
    Parameter("colour", "Colour", Kind.COLOUR, (0.0, 0.0, 0.0, 0.5), "The colour of the shadow, with its density"),
    Parameter("angle", "Angle", Kind.NUMBER, 60.0, "Where it falls: 0° to the right, 90° down", "°", -36_000, 36_000,
              period=360.0),
    Parameter("distance", "Distance", Kind.NUMBER, 18.0, "How far it falls", "px", 0, 4000),
    Parameter("size", "Size", Kind.NUMBER, 12.0, "How soft it is: the sigma of a Gaussian", "px", 0, 500),
    Parameter("spread", "Spread", Kind.NUMBER, 0.0, "How much wider than the layer it is", "px", 0, 500),
    Parameter("blend", "Blend", Kind.CHOICE, "normal", "How it mixes with what lies beneath", choices=BLEND_MODES),
)  # fmt: skip


def _reads(values: Mapping[str, Value], scale: tuple[float, float]) -> Margins:
    return around(values["size"], values["spread"], *way(values["angle"], values["distance"]), scale)


def _run(job: EffectJob) -> Finish:
    values, (sx, sy) = job.values, job.scale
    read = job.source_over(_reads(values, job.scale))
    dx, dy = way(values["angle"], values["distance"])
    cover = widened(np.ascontiguousarray(read.as_float[..., 3]), values["spread"] * (sx + sy) / 2)
    cover = softened(shifted(cover, dx * sx, dy * sy), values["size"] * sx, values["size"] * sy, read.corner)
    return Finish(behind=job.result(in_colour(cover, values["colour"]), read.corner), blend=values["blend"])


register_effect(
    EffectKind(
        "drop-shadow", "Drop shadow", "A soft shadow behind the layer", "Finish", FINISH, PARAMETERS, _run, _reads,
        _reads, neutral=lambda values: values["colour"][3] == 0,
    )
)  # fmt: skip
