"""Temperature and tint: warmer or cooler, greener or more magenta, brightness kept."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from spiralis.core.effects.colour_steps import LUMA, by_steps, step
from spiralis.core.effects.job import nothing_around
from spiralis.core.model.blocks import EFFECT, EffectKind, register_effect
from spiralis.core.model.parameter import Kind, Parameter, Value

PARAMETERS = (
    Parameter("warmth", "Temperature", Kind.NUMBER, 30.0, "Warmer, or below zero cooler", "%", -100, 100),
    Parameter("tint", "Tint", Kind.NUMBER, 0.0, "Towards magenta, or below zero towards green", "%", -100, 100),
)
#: How far the whole way takes red against blue, and green against both.
_REACH = 0.4


def _steps(values: Mapping[str, Value]) -> Sequence[np.ndarray]:
    warmth, tint = _REACH * values["warmth"] / 100, _REACH * values["tint"] / 100
    gains = np.array([1 + warmth + tint / 2, 1 - tint, 1 - warmth + tint / 2])
    return [step(np.diag(gains / float(LUMA @ gains)))]


register_effect(
    EffectKind(
        "temperature", "Temperature", "Warmer or cooler; a grey stays as bright", "Colour", EFFECT, PARAMETERS,
        by_steps(_steps), nothing_around, nothing_around, pointwise=_steps,
        neutral=lambda values: values["warmth"] == 0 and values["tint"] == 0,
    )
)  # fmt: skip
