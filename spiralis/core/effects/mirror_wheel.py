"""Mirror wheel: one wedge of the layer mirrored around a centre."""

from __future__ import annotations

import math

import numpy as np

from spiralis.core.effects.job import EffectJob, anywhere, nothing_around
from spiralis.core.effects.remapping import CENTRE, remapped
from spiralis.core.model.blocks import BOX, EFFECT, EffectKind, register_effect
from spiralis.core.model.parameter import Kind, Parameter
from spiralis.core.raster.raster import Raster

PARAMETERS = (
    Parameter("wedges", "Wedges", Kind.NUMBER, 8.0, "How many mirrored wedges there are; an even number", "", 2, 128),
    Parameter("turn", "Turn", Kind.NUMBER, 0.0, "Which part of the layer the wedges show", "°", -36_000, 36_000,
              period=360.0),
    Parameter("wheel", "Wheel", Kind.NUMBER, 0.0, "Turns the whole wheel", "°", -36_000, 36_000, period=360.0),
    CENTRE,
)  # fmt: skip


def _run(job: EffectJob) -> Raster:
    (cx, cy), (x, y) = job.point("centre"), job.places()
    dx, dy = x - cx, y - cy
    wedge = 2 * math.pi / (2 * max(round(job.values["wedges"] / 2), 1))
    angle = np.mod(np.arctan2(dy, dx) - math.radians(job.values["wheel"]), 2 * wedge)
    angle = np.minimum(angle, 2 * wedge - angle) + math.radians(job.values["turn"])
    far = np.hypot(dx, dy)
    return remapped(job, cx + far * np.cos(angle), cy + far * np.sin(angle), "mirror")


register_effect(
    EffectKind(
        "mirror-wheel", "Mirror wheel", "A wedge mirrored around a centre", "Repeat", EFFECT, PARAMETERS, _run,
        anywhere, nothing_around, takes=BOX, neutral=lambda values: False,
    )
)  # fmt: skip
