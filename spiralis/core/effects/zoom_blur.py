"""Zoom blur: the even mean over scales about a centre."""

from __future__ import annotations

import math
from collections.abc import Mapping

from spiralis.core.effects.averaging import about, averaged, count_for, middles
from spiralis.core.effects.job import EffectJob, anywhere, nothing_around
from spiralis.core.effects.remapping import CENTRE
from spiralis.core.geometry import Affine, Box, box_around, point_in
from spiralis.core.model.blocks import ALL, EFFECT, EffectKind, register_effect
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.raster.raster import Raster

PARAMETERS = (
    Parameter("first", "From", Kind.NUMBER, 90.0, "The smallest size that counts", "%", 1, 400),
    Parameter("last", "To", Kind.NUMBER, 110.0, "The largest size that counts", "%", 1, 400),
    CENTRE,
)


def _run(job: EffectJob) -> Raster:
    (cx, cy), (left, top, right, bottom) = job.point("centre"), job.box
    low, high = sorted((job.values["first"] / 100, job.values["last"] / 100))
    far = max(math.hypot(x - cx, y - cy) for x in (left, right) for y in (top, bottom))
    count = count_for((high - low) * far * max(job.scale))
    return averaged(job, [about(cx, cy, Affine.scaling(1 / s, 1 / s)) for s in middles(low, high, count)])


def _fills(values: Mapping[str, Value], source: Box, box: Box) -> Box:
    x, y = point_in(box, values["centre"])
    sizes = values["first"] / 100, values["last"] / 100
    return box_around([about(x, y, Affine.scaling(size, size)).box(source) for size in sizes])


register_effect(
    EffectKind(
        "zoom-blur", "Zoom blur", "Softens towards a centre", "Soften", EFFECT, PARAMETERS, _run, anywhere,
        nothing_around, takes=ALL, fills=_fills,
        neutral=lambda values: values["first"] == values["last"] == 100,
    )
)  # fmt: skip
