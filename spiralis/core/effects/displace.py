"""Displace by another layer (W3C Filter Effects, ``feDisplacementMap``)."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from spiralis.core.effects.channels import channel_of, channel_parameter, layer_parameter, map_pixels
from spiralis.core.effects.job import EffectJob, Margins, even
from spiralis.core.effects.remapping import ringed_pixels, sampled
from spiralis.core.model.blocks import EFFECT, EffectKind, register_effect
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.raster.raster import Raster

PARAMETERS = (
    layer_parameter("The layer whose colours say how far each point moves"),
    Parameter("across", "Across", Kind.NUMBER, 40.0, "How far a full difference moves it across", "px", -4000, 4000),
    channel_parameter("across_by", "Across by", "Which of its channels moves across"),
    Parameter("down", "Down", Kind.NUMBER, 40.0, "How far a full difference moves it down", "px", -4000, 4000),
    channel_parameter("down_by", "Down by", "Which of its channels moves down"),
)  # fmt: skip


def _reads(values: Mapping[str, Value], scale: tuple[float, float]) -> Margins:
    # A channel lies 0.5 at the most from its middle; sampling reads a pixel further.
    return even(abs(values["across"]) * scale[0] / 2 + 1, abs(values["down"]) * scale[1] / 2 + 1)


def _run(job: EffectJob) -> Raster:
    left, top, right, bottom = job.region
    width, height = right - left, bottom - top
    moves = map_pixels(job)
    read = job.source_over(_reads(job.values, job.scale))
    x0, y0 = left - read.corner[0], top - read.corner[1]
    x = np.arange(x0, x0 + width, dtype=np.float32)[None, :] + np.float32(job.values["across"] * job.scale[0]) * (
        channel_of(moves, job.values["across_by"]) - np.float32(0.5)
    )
    y = np.arange(y0, y0 + height, dtype=np.float32)[:, None] + np.float32(job.values["down"] * job.scale[1]) * (
        channel_of(moves, job.values["down_by"]) - np.float32(0.5)
    )
    out = np.empty((height, width, 4), dtype=np.float32)
    sampled(ringed_pixels(read), x, y, out)
    return Raster(out, job.source.space, (left, top))


def _neutral(values: Mapping[str, Value]) -> bool:
    return not values["map"] or (values["across"] == 0 and values["down"] == 0)


register_effect(
    EffectKind(
        "displace", "Displace", "Moves each point as far as another layer's colours say", "Bend", EFFECT, PARAMETERS,
        _run, _reads, _reads, neutral=_neutral,
    )
)  # fmt: skip
