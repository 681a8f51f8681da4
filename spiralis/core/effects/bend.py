"""Bend: the layer's level middle line becomes an arc of a circle."""

from __future__ import annotations

import math

import numpy as np

from spiralis.core.effects.job import EffectJob, anywhere, nothing_around
from spiralis.core.effects.remapping import remapped
from spiralis.core.model.blocks import EFFECT, EffectKind, register_effect
from spiralis.core.model.parameter import Kind, Parameter
from spiralis.core.raster.raster import Raster

PARAMETERS = (
    Parameter("angle", "Angle", Kind.NUMBER, 60.0, "How much of a circle the layer becomes; below 0 it bends down", "°",
              -350, 350),
)  # fmt: skip


def _run(job: EffectJob) -> Raster:
    left, top, right, bottom = job.box
    x, y = job.places()
    width, middle = right - left, (top + bottom) / 2
    turn = math.radians(job.values["angle"])
    radius = width / turn
    # The arc's centre lies below the middle line where it bends up.
    dx, dy = x - (left + right) / 2, (y - middle) - radius
    side = math.copysign(1.0, radius)
    along = np.arctan2(dx * side, -dy * side)
    out = np.hypot(dx, dy) * side
    return remapped(job, (left + right) / 2 + along * radius, middle + radius - out)


register_effect(
    EffectKind(
        "bend", "Bend", "Bends the layer to an arc", "Bend", EFFECT, PARAMETERS, _run, anywhere, nothing_around,
        whole=True, neutral=lambda values: abs(values["angle"]) < 1e-3,
    )
)  # fmt: skip
