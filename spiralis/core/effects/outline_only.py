"""Outline only: nothing of the layer but a line along its edge."""

from __future__ import annotations

import math
from collections.abc import Mapping

import numpy as np

from spiralis.core.effects.edges import in_colour, narrowed, widened
from spiralis.core.effects.job import EffectJob, Margins, even
from spiralis.core.model.blocks import EFFECT, EffectKind, register_effect
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.raster.raster import Raster

PARAMETERS = (
    Parameter("colour", "Colour", Kind.COLOUR, (1.0, 1.0, 1.0, 1.0), "The colour of the line"),
    Parameter("width", "Width", Kind.NUMBER, 4.0, "How wide it is", "px", 0.25, 400),
    Parameter("place", "Place", Kind.CHOICE, "centre", "Where it lies to the edge",
              choices=("outside", "centre", "inside")),
)  # fmt: skip


def _reads(values: Mapping[str, Value], scale: tuple[float, float]) -> Margins:
    far = math.ceil(values["width"] * max(scale) + 2)
    return even(far, far)


def _run(job: EffectJob) -> Raster:
    alpha, corner = job.alpha_over(_reads(job.values, job.scale))
    width = job.values["width"] * (job.scale[0] + job.scale[1]) / 2
    out, within = {"outside": (width, 0.0), "inside": (0.0, width)}.get(job.values["place"], (width / 2, width / 2))
    line = np.clip(widened(alpha, out) - narrowed(alpha, within), 0, 1)
    return in_colour(job, line, corner, job.values["colour"])


register_effect(
    EffectKind(
        "outline-only", "Outline only", "A line along the edge, and nothing of what it goes around", "Reveal", EFFECT,
        PARAMETERS, _run, _reads, _reads, neutral=lambda values: False,
    )
)  # fmt: skip
