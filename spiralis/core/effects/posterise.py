"""Posterise: few steps of each channel (W3C Filter Effects, ``feComponentTransfer`` of type discrete)."""

from __future__ import annotations

import numpy as np

from spiralis.core.effects.job import EffectJob, nothing_around
from spiralis.core.effects.tables import through_curves
from spiralis.core.model.blocks import EFFECT, EffectKind, register_effect
from spiralis.core.model.parameter import Kind, Parameter
from spiralis.core.raster.raster import Raster

PARAMETERS = (Parameter("steps", "Steps", Kind.NUMBER, 5.0, "How many values each channel may have", "", 2, 64),)


def _run(job: EffectJob) -> Raster:
    count = round(job.values["steps"])

    def curve(colour: np.ndarray) -> np.ndarray:
        return np.asarray(np.minimum(np.floor(colour * count), count - 1) / (count - 1))

    return through_curves(job, curve)


register_effect(
    EffectKind(
        "posterise", "Posterise", "Few, even steps of colour", "Colour", EFFECT, PARAMETERS, _run, nothing_around,
        nothing_around, neutral=lambda values: False,
    )
)  # fmt: skip
