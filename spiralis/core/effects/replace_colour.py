"""Replace a colour: what is like one colour becomes another."""

from __future__ import annotations

import numpy as np

from spiralis.core.effects.job import EffectJob, nothing_around
from spiralis.core.model.blocks import EFFECT, EffectKind, register_effect
from spiralis.core.model.parameter import Kind, Parameter
from spiralis.core.raster.raster import Raster

PARAMETERS = (
    Parameter("old", "Colour", Kind.COLOUR, (1.0, 0.0, 0.0, 1.0), "What is to go"),
    Parameter("new", "Becomes", Kind.COLOUR, (0.0, 0.5, 1.0, 1.0), "What comes instead; clear where it is clear"),
    Parameter("tolerance", "Tolerance", Kind.NUMBER, 20.0, "How unlike a colour may be", "%", 0, 100),
    Parameter("softness", "Softness", Kind.NUMBER, 15.0, "How gradually it ends", "%", 0.1, 100),
)


def _run(job: EffectJob) -> Raster:
    pixels, values = job.source.as_float, job.values
    alpha = pixels[..., 3:]
    straight = np.divide(pixels[..., :3], alpha, out=np.zeros_like(pixels[..., :3]), where=alpha > 0)
    away = np.sqrt(np.mean((straight - np.array(values["old"][:3], dtype=np.float32)) ** 2, axis=-1, keepdims=True))
    share = np.clip(1 + (values["tolerance"] / 100 - away) / (values["softness"] / 100), 0, 1).astype(np.float32)
    # Shades stay: the new colour takes on how much the pixel differs from the old one.
    new = np.array(values["new"][:3], dtype=np.float32) + straight - np.array(values["old"][:3], dtype=np.float32)
    solid = alpha * np.float32(values["new"][3])
    colour = np.concatenate([np.clip(new, 0, None), np.ones_like(alpha)], axis=-1) * solid
    return Raster(pixels + (colour - pixels) * share, job.source.space, job.source.corner)


register_effect(
    EffectKind(
        "replace-colour", "Replace a colour", "What is like one colour becomes another", "Colour", EFFECT, PARAMETERS,
        _run, nothing_around, nothing_around, neutral=lambda values: values["old"] == values["new"],
    )
)  # fmt: skip
