"""Gradient map: colours by brightness, along a gradient."""

from __future__ import annotations

import numpy as np

from spiralis.core.effects.job import EffectJob, nothing_around
from spiralis.core.effects.tables import along, by_brightness, mixed
from spiralis.core.model.blocks import EFFECT, EffectKind, register_effect
from spiralis.core.model.parameter import Kind, Parameter
from spiralis.core.raster.raster import Raster

_STOPS = ((0.0, 0.05, 0.06, 0.20, 1.0), (0.45, 0.62, 0.16, 0.46, 1.0), (0.75, 0.98, 0.56, 0.28, 1.0),
          (1.0, 1.0, 0.95, 0.78, 1.0))  # fmt: skip
PARAMETERS = (
    Parameter("stops", "Gradient", Kind.STOPS, _STOPS, "From what black becomes to what white becomes"),
    Parameter("amount", "Amount", Kind.NUMBER, 100.0, "How much of the own colours goes", "%", 0, 100),
)


def _run(job: EffectJob) -> Raster:
    stops = np.array(sorted(job.values["stops"]))
    return mixed(job, by_brightness(job, along(stops[:, 0], stops[:, 1:])), job.values["amount"] / 100)


register_effect(
    EffectKind(
        "gradient-map", "Gradient map", "Colours along a gradient, by brightness", "Colour", EFFECT, PARAMETERS, _run,
        nothing_around, nothing_around, neutral=lambda values: values["amount"] == 0,
    )
)  # fmt: skip
