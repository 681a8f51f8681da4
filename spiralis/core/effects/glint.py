"""Glint: a band of light that passes over what the layer shows."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from spiralis.core.effects.colour_steps import mixed_towards
from spiralis.core.effects.job import EffectJob, nothing_around
from spiralis.core.model.blocks import EFFECT, EffectKind, register_effect
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.raster.raster import Raster

PARAMETERS = (
    Parameter("passed", "Passed", Kind.NUMBER, 50.0,
              "How far it has come: at 0 and at 100 % nothing of it is seen, 200 % is twice", "%", -1e6, 1e6,
              period=100.0),
    Parameter("angle", "Angle", Kind.NUMBER, 20.0, "Where it goes to: 0° to the right, 90° down", "°", -36_000, 36_000,
              period=360.0),
    Parameter("width", "Width", Kind.NUMBER, 120.0, "How wide it is", "px", 1, 20_000),
    Parameter("softness", "Softness", Kind.NUMBER, 80.0, "How much of it fades to both sides", "%", 0, 100),
    Parameter("colour", "Colour", Kind.COLOUR, (1.0, 0.93, 0.68, 1.0), "What it turns things to"),
    Parameter("strength", "Strength", Kind.NUMBER, 80.0, "How strong it is in its middle", "%", 0, 100),
)  # fmt: skip


def _run(job: EffectJob) -> Raster:
    source, values, half = job.source_over((0, 0, 0, 0)), job.values, job.values["width"] / 2
    places, first, last = job.along(values["angle"])
    middle = first - half + (last - first + 2 * half) * (values["passed"] / 100 % 1.0)
    # No edge is sharper than a pixel.
    soft = max(half * values["softness"] / 100, 1 / min(job.scale))
    share = np.clip((half - np.abs(places - middle)) / soft, 0, 1)
    share = share * share * (3 - 2 * share) * (values["strength"] / 100)
    return mixed_towards(source, values["colour"], share)


def _neutral(values: Mapping[str, Value]) -> bool:
    return bool(values["passed"] % 100 == 0 or values["strength"] == 0 or values["colour"][3] == 0)


register_effect(
    EffectKind(
        "glint", "Glint", "A band of light passes over what the layer shows", "Colour", EFFECT, PARAMETERS, _run,
        nothing_around, nothing_around, placed=True, neutral=_neutral,
    )
)  # fmt: skip
