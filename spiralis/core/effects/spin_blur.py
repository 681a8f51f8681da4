"""Spin blur: the even mean over turns about a centre."""

from __future__ import annotations

import math
from collections.abc import Mapping

from spiralis.core.effects.averaging import about, averaged, count_for, middles
from spiralis.core.effects.job import EffectJob, anywhere, nothing_around
from spiralis.core.effects.remapping import CENTRE
from spiralis.core.geometry import Affine, Box, point_in
from spiralis.core.model.blocks import ALL, EFFECT, EffectKind, register_effect
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.raster.raster import Raster

PARAMETERS = (
    Parameter("angle", "Angle", Kind.NUMBER, 20.0, "How far it turns, half of it to each side", "°", 0, 360),
    CENTRE,
)


def _run(job: EffectJob) -> Raster:
    (cx, cy), (left, top, right, bottom) = job.point("centre"), job.box
    far = max(math.hypot(x - cx, y - cy) for x in (left, right) for y in (top, bottom))
    angle = job.values["angle"]
    count = count_for(math.radians(angle) * far * max(job.scale))
    return averaged(job, [about(cx, cy, Affine.rotation(t)) for t in middles(-angle / 2, angle / 2, count)])


def _fills(values: Mapping[str, Value], source: Box, box: Box) -> Box:
    x, y = point_in(box, values["centre"])
    far = max(math.hypot(px - x, py - y) for px in (source[0], source[2]) for py in (source[1], source[3]))
    return x - far, y - far, x + far, y + far


register_effect(
    EffectKind(
        "spin-blur", "Spin blur", "Softens around a centre", "Soften", EFFECT, PARAMETERS, _run, anywhere,
        nothing_around, takes=ALL, fills=_fills, neutral=lambda values: values["angle"] == 0,
    )
)  # fmt: skip
