"""Wipe by a layer: where another layer is bright, this one shows first, or last."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from spiralis.core.effects.channels import channel_over, channel_parameter, layer_parameter, shown_as_far_as
from spiralis.core.effects.job import EffectJob, nothing_around
from spiralis.core.model.blocks import EFFECT, EffectKind, register_effect
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.raster.raster import Raster

PARAMETERS = (
    layer_parameter("The layer whose brightness says in which order the picture comes"),
    channel_parameter("channel", "Channel", "Which of its channels counts"),
    Parameter("shown", "Shown", Kind.NUMBER, 50.0, "How much shows: what is brightest comes first", "%", 0, 100),
    Parameter("softness", "Softness", Kind.NUMBER, 10.0, "How soft the front is", "%", 0, 100),
    Parameter("inverted", "Inverted", Kind.SWITCH, False, "What is darkest comes first"),
)  # fmt: skip
#: The softness of a front that is to have none: a step between two of 256 levels.
_LEAST = 1 / 256


def _run(job: EffectJob) -> Raster:
    channel = channel_over(job, job.values["channel"])
    comes = channel if job.values["inverted"] else 1 - channel
    soft = np.float32(max(job.values["softness"] / 100, _LEAST))
    return shown_as_far_as(job, np.clip((np.float32(job.values["shown"] / 100) * (1 + soft) - comes) / soft, 0, 1))


def _neutral(values: Mapping[str, Value]) -> bool:
    return not values["map"] or values["shown"] == 100


register_effect(
    EffectKind(
        "wipe-by-layer", "Wipe by a layer", "Shows or hides in the order of another layer's brightness", "Reveal",
        EFFECT, PARAMETERS, _run, nothing_around, nothing_around, neutral=_neutral,
    )
)  # fmt: skip
