"""Reflection: the layer mirrored below itself, fading."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from attrs import evolve

from spiralis.core.effects.job import EffectJob, Margins
from spiralis.core.effects.remapping import remapped
from spiralis.core.model.blocks import EFFECT, EffectKind, register_effect
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.raster.blurring import reach, softened
from spiralis.core.raster.raster import Raster

PARAMETERS = (
    Parameter("length", "Length", Kind.NUMBER, 200.0, "How far down it is seen", "px", 0, 20_000),
    Parameter("strength", "Strength", Kind.NUMBER, 40.0, "How dense it is where it begins", "%", 0, 100),
    Parameter("gap", "Gap", Kind.NUMBER, 0.0, "How far below the layer's lower edge it begins; below 0 higher", "px",
              -5000, 5000),
    Parameter("softness", "Softness", Kind.NUMBER, 0.0, "How soft it is: the sigma of a Gaussian", "px", 0, 500),
)  # fmt: skip


def _grows(values: Mapping[str, Value], scale: tuple[float, float]) -> Margins:
    across, down = (reach(values["softness"] * s) for s in scale)
    return across, 0.0, across, max((values["length"] + values["gap"]) * scale[1] + 2, 0.0) + down


def _reads(values: Mapping[str, Value], scale: tuple[float, float]) -> Margins:
    across, down = (reach(values["softness"] * s) for s in scale)
    return across, max((2 * values["length"] + values["gap"]) * scale[1] + 2, 0.0) + down, across, down


def _run(job: EffectJob) -> Raster:
    values, (x, y) = job.values, job.places()
    source, below = job.source_over(_reads(values, job.scale)), job.box[3] + values["gap"]
    across, down = (values["softness"] * s for s in job.scale)
    soft = softened(source.as_float, across, down, source.corner)
    away = y - below
    mirrored = remapped(evolve(job, source=Raster(soft, source.space, source.corner)), x, job.box[3] - away)
    share = np.clip(1 - away / values["length"], 0, 1) * np.clip(away * job.scale[1] + 0.5, 0, 1)
    own = source.spread_over(job.region).as_float
    faded = mirrored.as_float * (share * (values["strength"] / 100))[..., None].astype(np.float32)
    return job.result(own + faded * (1 - own[..., 3:]), job.region[:2])


register_effect(
    EffectKind(
        "reflection", "Reflection", "The layer mirrored below itself, fading", "Repeat", EFFECT, PARAMETERS, _run,
        _grows, _reads, placed=True, neutral=lambda values: values["strength"] == 0 or values["length"] == 0,
    )
)  # fmt: skip
