"""Blur by a layer: softened as far as another layer is bright at each point."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from spiralis.core.effects.channels import channel_over, channel_parameter, layer_parameter
from spiralis.core.effects.job import EffectJob, Margins, even
from spiralis.core.model.blocks import EFFECT, EffectKind, register_effect
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.raster.blurring import reach, softened
from spiralis.core.raster.raster import Raster

PARAMETERS = (
    layer_parameter("The layer whose brightness says how soft each point is"),
    channel_parameter("channel", "Channel", "Which of its channels counts"),
    Parameter("softness", "Softness", Kind.NUMBER, 24.0, "Softness where it is brightest: the sigma of a Gaussian",
              "px", 0, 500),
    Parameter("inverted", "Inverted", Kind.SWITCH, False, "Soft where it is dark"),
)  # fmt: skip
#: Pictures of so many sigmas are made, as shares of the whole softness; a point lies between two of them.
SHARES = (0.0, 0.0625, 0.125, 0.25, 0.5, 1.0)


def _reads(values: Mapping[str, Value], scale: tuple[float, float]) -> Margins:
    return even(*(reach(values["softness"] * s) for s in scale))


def _run(job: EffectJob) -> Raster:
    """Mix pictures of two sigmas by how near the one wanted is to each (levels as in Williams 1983)."""
    across, down = (job.values["softness"] * s for s in job.scale)
    read = job.source_over(_reads(job.values, job.scale))
    channel = channel_over(job, job.values["channel"])
    sigma = 1 - channel if job.values["inverted"] else channel
    place = np.interp(sigma, SHARES, np.arange(len(SHARES), dtype=np.float32))
    out = np.zeros((*sigma.shape, 4), dtype=np.float32)
    for index, share in enumerate(SHARES):
        weight = np.clip(1 - np.abs(place - index), 0, 1).astype(np.float32)
        if weight.any():
            level = job.result(softened(read.as_float, across * share, down * share, read.corner), read.corner)
            out += level.data * weight[..., None]
    return Raster(out, read.space, job.region[:2])


def _neutral(values: Mapping[str, Value]) -> bool:
    return not values["map"] or values["softness"] == 0


register_effect(
    EffectKind(
        "blur-by-layer", "Blur by a layer", "Softens as far as another layer is bright", "Soften", EFFECT, PARAMETERS,
        _run, _reads, _reads, neutral=_neutral,
    )
)  # fmt: skip
