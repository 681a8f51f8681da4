"""Inset shadow: what lies around throws a soft shadow onto the layer."""

from __future__ import annotations

import numpy as np

from spiralis.core.effects.edges import in_colour, shadow_parameters, shadow_reads, shifted, way, widened
from spiralis.core.effects.job import EffectJob, Finish, nothing_around
from spiralis.core.model.blocks import FINISH, EffectKind, register_effect
from spiralis.core.raster.blurring import softened

PARAMETERS = shadow_parameters(0.6, 10.0, 10.0, "the layer")


def _run(job: EffectJob) -> Finish:
    values, (sx, sy) = job.values, job.scale
    alpha, corner = job.alpha_over(shadow_reads(values, job.scale))
    dx, dy = way(values["angle"], values["distance"])
    # The shadow is of the outside: of all that the moved layer does not cover.
    moved = widened(np.ascontiguousarray(1 - shifted(alpha, dx * sx, dy * sy)), values["spread"] * (sx + sy) / 2)
    cover = softened(moved, values["size"] * sx, values["size"] * sy, corner, repeat=True) * alpha
    return Finish(front=in_colour(job, cover, corner, values["colour"]), blend=values["blend"])


register_effect(
    EffectKind(
        "inset-shadow", "Inset shadow", "A soft shadow onto the layer, as if it were cut out", "Finish", FINISH,
        PARAMETERS, _run, nothing_around, shadow_reads, neutral=lambda values: values["colour"][3] == 0,
    )
)  # fmt: skip
