"""Two-tone map: colours by brightness, from a dark to a light one."""

from __future__ import annotations

import numpy as np

from spiralis.core.effects.job import EffectJob, nothing_around
from spiralis.core.effects.tables import along, by_brightness, mixed
from spiralis.core.model.blocks import EFFECT, EffectKind, register_effect
from spiralis.core.model.parameter import Kind, Parameter
from spiralis.core.raster.raster import Raster

PARAMETERS = (
    Parameter("dark", "Dark", Kind.COLOUR, (0.11, 0.09, 0.26, 1.0), "What black becomes"),
    Parameter("light", "Light", Kind.COLOUR, (1.0, 0.80, 0.52, 1.0), "What white becomes"),
    Parameter("amount", "Amount", Kind.NUMBER, 100.0, "How much of the own colours goes", "%", 0, 100),
)


def _run(job: EffectJob) -> Raster:
    tones = np.array([job.values["dark"], job.values["light"]])
    return mixed(job, by_brightness(job, along((0.0, 1.0), tones)), job.values["amount"] / 100)


register_effect(
    EffectKind(
        "two-tone-map", "Two-tone map", "From a dark to a light colour, by brightness", "Colour", EFFECT, PARAMETERS,
        _run, nothing_around, nothing_around, neutral=lambda values: values["amount"] == 0,
    )
)  # fmt: skip
