"""Tint: one colour for all, by brightness."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from spiralis.core.effects.colour_steps import LUMA, by_steps, step
from spiralis.core.effects.job import nothing_around
from spiralis.core.model.blocks import EFFECT, EffectKind, register_effect
from spiralis.core.model.parameter import Kind, Parameter, Value

PARAMETERS = (
    Parameter("colour", "Colour", Kind.COLOUR, (0.96, 0.70, 0.24, 1.0), "What white becomes; its opacity counts too"),
    Parameter("amount", "Amount", Kind.NUMBER, 100.0, "How much of the own colours goes", "%", 0, 100),
)


def _steps(values: Mapping[str, Value]) -> Sequence[np.ndarray]:
    share = values["amount"] / 100 * values["colour"][3]
    return [step((1 - share) * np.eye(3) + share * np.outer(values["colour"][:3], LUMA))]


register_effect(
    EffectKind(
        "tint", "Tint", "Shades of one colour", "Colour", EFFECT, PARAMETERS,
        by_steps(_steps), nothing_around, nothing_around,
        pointwise=_steps, neutral=lambda values: values["amount"] == 0 or values["colour"][3] == 0,
    )
)  # fmt: skip
