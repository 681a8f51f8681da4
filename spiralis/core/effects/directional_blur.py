"""Directional blur: the even mean along a line centred on each pixel."""

from __future__ import annotations

import math
from collections.abc import Mapping

from spiralis.core.effects.averaging import averaged, count_for, middles
from spiralis.core.effects.job import EffectJob, Margins, even
from spiralis.core.geometry import Affine
from spiralis.core.model.blocks import EFFECT, EffectKind, register_effect
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.raster.raster import Raster

PARAMETERS = (
    Parameter("length", "Length", Kind.NUMBER, 40.0, "How long the line is that each point becomes", "px", 0, 1000),
    Parameter("angle", "Angle", Kind.NUMBER, 0.0, "0° is level, 90° upright", "°", -36_000, 36_000, period=180.0),
)


def _way(values: Mapping[str, Value]) -> tuple[float, float]:
    angle = math.radians(values["angle"])
    return values["length"] * math.cos(angle), values["length"] * math.sin(angle)


def _reads(values: Mapping[str, Value], scale: tuple[float, float]) -> Margins:
    across, down = _way(values)
    return even(abs(across) * scale[0] / 2 + 1, abs(down) * scale[1] / 2 + 1)


def _run(job: EffectJob) -> Raster:
    across, down = _way(job.values)
    count = count_for(math.hypot(across * job.scale[0], down * job.scale[1]))
    return averaged(job, [Affine.shift(across * t, down * t) for t in middles(-0.5, 0.5, count)])


register_effect(
    EffectKind(
        "directional-blur", "Directional blur", "Softens along a line", "Soften", EFFECT, PARAMETERS, _run, _reads,
        _reads, neutral=lambda values: values["length"] == 0,
    )
)  # fmt: skip
