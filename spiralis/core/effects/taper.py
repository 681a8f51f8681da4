"""Taper: one side wider, the other narrower."""

from __future__ import annotations

from collections.abc import Callable, Mapping

import numpy as np

from spiralis.core.effects.job import EffectJob, anywhere, nothing_around
from spiralis.core.effects.remapping import remapped
from spiralis.core.geometry import Box
from spiralis.core.model.blocks import ALL, EFFECT, EffectKind, register_effect
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.raster.raster import Raster

PARAMETERS = (
    Parameter("first", "At the top", Kind.NUMBER, 60.0, "How wide the top (or the left side) becomes", "%", 0, 400),
    Parameter("last", "At the bottom", Kind.NUMBER, 100.0, "How wide the bottom (or the right side) becomes", "%", 0,
              400),
    Parameter("sideways", "Sideways", Kind.SWITCH, False, "Left and right become higher or lower, instead"),
)  # fmt: skip


def _run(job: EffectJob) -> Raster:
    left, top, right, bottom = job.box
    x, y = job.places()
    first, last = job.values["first"] / 100, job.values["last"] / 100
    along, low, high = (x, left, right) if job.values["sideways"] else (y, top, bottom)
    share = np.clip((along - low) / max(high - low, 1e-6), 0, 1)
    size = np.maximum(first + (last - first) * share, 1e-3)
    if job.values["sideways"]:
        middle = (top + bottom) / 2
        return remapped(job, x, middle + (y - middle) / size)
    middle = (left + right) / 2
    return remapped(job, middle + (x - middle) / size, y)


def _fills(values: Mapping[str, Value], source: Box, box: Box) -> Box:
    left, top, right, bottom = source
    sizes = values["first"] / 100, values["last"] / 100
    if values["sideways"]:
        middle = (box[1] + box[3]) / 2
        return left, _farthest(min, top, middle, sizes), right, _farthest(max, bottom, middle, sizes)
    middle = (box[0] + box[2]) / 2
    return _farthest(min, left, middle, sizes), top, _farthest(max, right, middle, sizes), bottom


def _farthest(far: Callable[..., float], place: float, middle: float, sizes: tuple[float, float]) -> float:
    return float(far(middle + (place - middle) * size for size in sizes))


register_effect(
    EffectKind(
        "taper", "Taper", "Widens one side and narrows the other", "Bend", EFFECT, PARAMETERS, _run, anywhere,
        nothing_around, takes=ALL, fills=_fills, neutral=lambda values: values["first"] == values["last"] == 100,
    )
)  # fmt: skip
