"""Drop shadow: the outline, moved and softened, in one colour behind."""

from __future__ import annotations

from spiralis.core.effects.edges import in_colour, shadow_parameters, shadow_reads, shifted, way, widened
from spiralis.core.effects.job import EffectJob, Finish
from spiralis.core.model.blocks import FINISH, EffectKind, register_effect
from spiralis.core.raster.blurring import softened

PARAMETERS = shadow_parameters(0.5, 18.0, 12.0, "what lies beneath")


def _run(job: EffectJob) -> Finish:
    values, (sx, sy) = job.values, job.scale
    alpha, corner = job.alpha_over(shadow_reads(values, job.scale))
    dx, dy = way(values["angle"], values["distance"])
    cover = widened(alpha, values["spread"] * (sx + sy) / 2)
    cover = softened(shifted(cover, dx * sx, dy * sy), values["size"] * sx, values["size"] * sy, corner)
    return Finish(behind=in_colour(job, cover, corner, values["colour"]), blend=values["blend"])


register_effect(
    EffectKind(
        "drop-shadow", "Drop shadow", "A soft shadow behind the layer", "Finish", FINISH, PARAMETERS,
        _run, shadow_reads, shadow_reads, neutral=lambda values: values["colour"][3] == 0,
    )
)  # fmt: skip
