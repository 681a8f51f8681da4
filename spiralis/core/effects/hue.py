"""Hue, saturation and lightness in one step (W3C Filter Effects, ``hue-rotate`` and ``saturate``)."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence

import numpy as np

from spiralis.core.effects.colour_steps import LUMA, by_steps, step
from spiralis.core.effects.job import nothing_around
from spiralis.core.model.blocks import EFFECT, EffectKind, register_effect
from spiralis.core.model.parameter import Kind, Parameter, Value

PARAMETERS = (
    Parameter("hue", "Hue", Kind.NUMBER, 0.0, "Turns all colours around the wheel", "°", -36_000, 36_000, period=360.0),
    Parameter("saturation", "Saturation", Kind.NUMBER, 100.0, "0 % is grey, 200 % doubly colourful", "%", 0, 400),
    Parameter("lightness", "Lightness", Kind.NUMBER, 0.0, "Towards white, or below zero towards black", "%", -100, 100),
)
_WEIGHTS = np.array([0.213, 0.715, 0.072])


def turned(degrees: float) -> np.ndarray:
    """Return the matrix that turns hues: float64 (3, 3) on straight colours (W3C Filter Effects, 12.1)."""
    cos, sin = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    grey = np.tile(_WEIGHTS, (3, 1))
    third = np.array([[-0.213, -0.715, 0.928], [0.143, 0.140, -0.283], [-0.787, 0.715, 0.072]])
    return np.asarray(grey + cos * (np.eye(3) - grey) + sin * third)


def _steps(values: Mapping[str, Value]) -> Sequence[np.ndarray]:
    grey = np.tile(LUMA, (3, 1))
    vivid = grey + (np.eye(3) - grey) * values["saturation"] / 100
    light = values["lightness"] / 100
    lit = step(np.eye(3) * (1 - abs(light)), [max(light, 0.0)] * 3)
    return [step(turned(values["hue"])), step(vivid), lit]


register_effect(
    EffectKind(
        "hue", "Hue and lightness", "Turns hues, changes saturation and lightness", "Colour", EFFECT, PARAMETERS,
        by_steps(_steps), nothing_around, nothing_around, pointwise=_steps,
        neutral=lambda v: v["hue"] % 360 == 0 and v["saturation"] == 100 and v["lightness"] == 0,
    )
)  # fmt: skip
