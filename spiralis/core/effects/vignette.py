"""Vignette: a colour laid over the outer parts."""

from __future__ import annotations

import numpy as np

from spiralis.core.effects.colour_steps import mixed_towards
from spiralis.core.effects.job import EffectJob, nothing_around
from spiralis.core.effects.remapping import CENTRE
from spiralis.core.model.blocks import EFFECT, EffectKind, register_effect
from spiralis.core.model.parameter import Kind, Parameter
from spiralis.core.raster.raster import Raster

PARAMETERS = (
    Parameter("colour", "Colour", Kind.COLOUR, (0.0, 0.0, 0.0, 1.0), "What the outer parts take on"),
    Parameter("amount", "Amount", Kind.NUMBER, 70.0, "How much of it, at the corners", "%", 0, 100),
    Parameter("size", "Size", Kind.NUMBER, 60.0, "How far from the middle it begins; the corners are at 100 %", "%",
              0, 400),
    Parameter("softness", "Softness", Kind.NUMBER, 60.0, "Over how far it grows to its full", "%", 1, 400),
    CENTRE,
)  # fmt: skip


def _run(job: EffectJob) -> Raster:
    source = job.source_over((0, 0, 0, 0))
    (cx, cy), (x, y) = job.point("centre"), job.places()
    left, top, right, bottom = job.box
    far = np.hypot((x - cx) / max((right - left) / 2, 1e-6), (y - cy) / max((bottom - top) / 2, 1e-6)) / np.sqrt(2)
    share = np.clip((far - job.values["size"] / 100) / (job.values["softness"] / 100) + 0.5, 0, 1)
    share = share * share * (3 - 2 * share) * (job.values["amount"] / 100)
    return mixed_towards(source, job.values["colour"], share)


register_effect(
    EffectKind(
        "vignette", "Vignette", "Darkens, or colours, towards the corners", "Colour", EFFECT, PARAMETERS, _run,
        nothing_around, nothing_around, placed=True,
        neutral=lambda values: values["amount"] == 0 or values["colour"][3] == 0,
    )
)  # fmt: skip
