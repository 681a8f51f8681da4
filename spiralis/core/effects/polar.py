"""Round about a centre: the layer's width laid around a circle, its height outwards."""

from __future__ import annotations

import math

import numpy as np

from spiralis.core.effects.job import EffectJob, anywhere, nothing_around
from spiralis.core.effects.remapping import remapped
from spiralis.core.model.blocks import BOX, EFFECT, EffectKind, register_effect
from spiralis.core.model.parameter import Kind, Parameter
from spiralis.core.raster.raster import Raster

PARAMETERS = (
    Parameter("turn", "Turn", Kind.NUMBER, 0.0, "Where around the circle the layer begins; 0° is on top", "°", -36_000,
              36_000, period=360.0),
    Parameter("hole", "Hole", Kind.NUMBER, 0.0, "How much of the circle's radius stays free in the middle", "%", 0, 95),
    Parameter("inwards", "Inwards", Kind.SWITCH, False, "The layer's top lies in the middle, instead of outside"),
)  # fmt: skip


def _run(job: EffectJob) -> Raster:
    left, top, right, bottom = job.box
    x, y = job.places()
    radius, hole = min(right - left, bottom - top) / 2, job.values["hole"] / 100
    dx, dy = x - (left + right) / 2, y - (top + bottom) / 2
    around = np.mod(np.arctan2(dx, -dy) / (2 * math.pi) - job.values["turn"] / 360, 1.0)
    out = (np.hypot(dx, dy) / max(radius, 1e-6) - hole) / (1 - hole)
    down = out if job.values["inwards"] else 1 - out
    u = left + around * (right - left)
    # Beside the seam a pixel takes what is there, and not what lies half a pixel outside.
    half = 0.5 / job.scale[0]
    return remapped(job, np.clip(u, left + half, right - half), top + down * (bottom - top))


register_effect(
    EffectKind(
        "round", "Round about a centre", "Lays the layer around a circle", "Bend", EFFECT, PARAMETERS, _run, anywhere,
        nothing_around, takes=BOX, neutral=lambda values: False,
    )
)  # fmt: skip
