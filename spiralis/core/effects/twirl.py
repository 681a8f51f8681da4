"""Twirl: turns about a centre, less and less outwards."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from spiralis.core.effects.job import EffectJob, Margins, even
from spiralis.core.effects.remapping import CENTRE, EDGE, remapped, where_clear
from spiralis.core.model.blocks import EFFECT, EffectKind, register_effect
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.raster.raster import Raster

PARAMETERS = (
    Parameter("angle", "Angle", Kind.NUMBER, 120.0, "How far the middle is turned", "°", -36_000, 36_000),
    Parameter("radius", "Radius", Kind.NUMBER, 200.0, "Where it ends", "px", 1, 20_000),
    CENTRE, EDGE,
)  # fmt: skip


def _reads(values: Mapping[str, Value], scale: tuple[float, float]) -> Margins:
    return even(2 * values["radius"] * scale[0] + 1, 2 * values["radius"] * scale[1] + 1)


def _run(job: EffectJob) -> Raster:
    (cx, cy), (x, y) = job.point("centre"), job.places()
    dx, dy = x - cx, y - cy
    inside = np.clip(1 - np.hypot(dx, dy) / job.values["radius"], 0, 1)
    angle = -np.radians(job.values["angle"]) * inside * inside
    cos, sin = np.cos(angle), np.sin(angle)
    return remapped(job, cx + cos * dx - sin * dy, cy + sin * dx + cos * dy, job.values["edge"])


register_effect(
    EffectKind(
        "twirl", "Twirl", "Turns the middle and winds up what lies around", "Bend", EFFECT, PARAMETERS, _run,
        where_clear(_reads), _reads, placed=True, holds=True, neutral=lambda values: values["angle"] == 0,
    )
)  # fmt: skip
