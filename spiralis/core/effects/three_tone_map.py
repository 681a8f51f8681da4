"""Three-tone map: colours by brightness, over a middle one."""

from __future__ import annotations

import numpy as np

from spiralis.core.effects.job import EffectJob, nothing_around
from spiralis.core.effects.tables import along, by_brightness, mixed
from spiralis.core.model.blocks import EFFECT, EffectKind, register_effect
from spiralis.core.model.parameter import Kind, Parameter
from spiralis.core.raster.raster import Raster

PARAMETERS = (
    Parameter("dark", "Dark", Kind.COLOUR, (0.10, 0.08, 0.22, 1.0), "What black becomes"),
    Parameter("middle", "Middle", Kind.COLOUR, (0.82, 0.30, 0.36, 1.0), "What the middle becomes"),
    Parameter("light", "Light", Kind.COLOUR, (1.0, 0.92, 0.70, 1.0), "What white becomes"),
    Parameter("at", "Middle at", Kind.NUMBER, 50.0, "Which brightness is the middle", "%", 1, 99),
    Parameter("amount", "Amount", Kind.NUMBER, 100.0, "How much of the own colours goes", "%", 0, 100),
)


def _run(job: EffectJob) -> Raster:
    values = job.values
    places = (0.0, values["at"] / 100, 1.0)
    tones = np.array([values["dark"], values["middle"], values["light"]])
    return mixed(job, by_brightness(job, along(places, tones)), values["amount"] / 100)


register_effect(
    EffectKind(
        "three-tone-map", "Three-tone map", "From dark over a middle to a light colour, by brightness", "Colour",
        EFFECT, PARAMETERS, _run, nothing_around, nothing_around, neutral=lambda values: values["amount"] == 0,
    )
)  # fmt: skip
