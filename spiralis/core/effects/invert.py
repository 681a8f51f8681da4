"""Invert (W3C Filter Effects, ``invert``)."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from spiralis.core.effects.colour_steps import by_steps, step
from spiralis.core.effects.job import nothing_around
from spiralis.core.model.blocks import EFFECT, EffectKind, register_effect
from spiralis.core.model.parameter import Kind, Parameter, Value

PARAMETERS = (
    Parameter("amount", "Amount", Kind.NUMBER, 100.0, "0 % changes nothing, 50 % is grey, 100 % the opposite", "%",
              0, 100),
)  # fmt: skip


def _steps(values: Mapping[str, Value]) -> Sequence[np.ndarray]:
    share = values["amount"] / 100
    return [step(np.eye(3) * (1 - 2 * share), [share] * 3)]


register_effect(
    EffectKind(
        "invert", "Invert", "Every colour becomes its opposite", "Colour", EFFECT, PARAMETERS,
        by_steps(_steps), nothing_around,
        nothing_around, pointwise=_steps, neutral=lambda values: values["amount"] == 0,
    )
)  # fmt: skip
