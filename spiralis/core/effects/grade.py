"""Saturation, brightness and contrast in one step."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from spiralis.core.effects.colour_steps import by_steps, graded
from spiralis.core.effects.job import nothing_around
from spiralis.core.model.blocks import EFFECT, EffectKind, register_effect
from spiralis.core.model.parameter import Kind, Parameter, Value

PARAMETERS = (
    Parameter("saturation", "Saturation", Kind.NUMBER, 100.0, "0 % is grey, 200 % doubly colourful", "%", 0, 400),
    Parameter("brightness", "Brightness", Kind.NUMBER, 100.0, "Multiplies all channels", "%", 0, 400),
    Parameter("contrast", "Contrast", Kind.NUMBER, 100.0, "Stretches values about middle grey", "%", 0, 400),
)


def _steps(values: Mapping[str, Value]) -> Sequence[np.ndarray]:
    return [graded(*(values[name] / 100 for name in ("saturation", "brightness", "contrast")))]


register_effect(
    EffectKind(
        "grade", "Grade", "Saturation, brightness and contrast", "Colour", EFFECT, PARAMETERS,
        by_steps(_steps), nothing_around, nothing_around, pointwise=_steps,
        neutral=lambda values: all(values[p.name] == p.default for p in PARAMETERS),
    )
)  # fmt: skip
