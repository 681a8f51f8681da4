"""Threshold: black or white by brightness."""

from __future__ import annotations

import numpy as np

from spiralis.core.effects.job import EffectJob, nothing_around
from spiralis.core.effects.tables import by_brightness, steps
from spiralis.core.model.blocks import EFFECT, EffectKind, register_effect
from spiralis.core.model.parameter import Kind, Parameter
from spiralis.core.raster.raster import Raster

PARAMETERS = (
    Parameter("at", "At", Kind.NUMBER, 50.0, "From this brightness on all is white, below it black", "%", 0, 100),
    Parameter("softness", "Softness", Kind.NUMBER, 2.0, "How wide the passage between the two is", "%", 0, 100),
)


def _run(job: EffectJob) -> Raster:
    at, soft = job.values["at"] / 100, max(job.values["softness"] / 100, 1e-6)
    share = np.clip((steps() - at) / soft + 0.5, 0.0, 1.0)
    return by_brightness(job, np.column_stack([share, share, share, np.ones_like(share)]))


register_effect(
    EffectKind(
        "threshold", "Threshold", "Black or white, by brightness", "Colour", EFFECT, PARAMETERS, _run, nothing_around,
        nothing_around, neutral=lambda values: False,
    )
)  # fmt: skip
