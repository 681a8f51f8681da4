"""Outline: a line around what the layer shows, outside, over or inside of its edge."""

from __future__ import annotations

import math
from collections.abc import Mapping

import numpy as np

from spiralis.core.effects.edges import in_colour, narrowed, widened
from spiralis.core.effects.gradients import gradient_over, gradient_parameters
from spiralis.core.effects.job import EffectJob, Finish, Margins, even
from spiralis.core.model.blocks import FINISH, EffectKind, register_effect
from spiralis.core.model.kinds import LOCAL_MODES
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.raster.raster import Raster

PARAMETERS = (
    Parameter("paint", "Paint", Kind.CHOICE, "colour", "One colour, or a gradient across the layer",
              choices=("colour", "gradient")),
    Parameter("colour", "Colour", Kind.COLOUR, (1.0, 1.0, 1.0, 1.0), "The colour of the line",
              needs=("paint", ("colour",))),
    *gradient_parameters(("paint", ("gradient",))),
    Parameter("width", "Width", Kind.NUMBER, 6.0, "How wide it is", "px", 0, 400),
    Parameter("place", "Place", Kind.CHOICE, "outside", "Where it lies to the edge",
              choices=("outside", "centre", "inside")),
    Parameter("gap", "Gap", Kind.NUMBER, 0.0, "How far off the edge it begins", "px", 0, 400),
    Parameter("blend", "Blend", Kind.CHOICE, "normal", "How it mixes with what lies beneath", choices=LOCAL_MODES),
)  # fmt: skip


def _reads(values: Mapping[str, Value], scale: tuple[float, float]) -> Margins:
    far = math.ceil((values["width"] + values["gap"]) * max(scale) + 2)
    return even(far, far)


def _run(job: EffectJob) -> Finish:
    values = job.values
    alpha, corner = job.alpha_over(_reads(values, job.scale))
    size = (job.scale[0] + job.scale[1]) / 2
    width, gap = values["width"] * size, values["gap"] * size
    behind: np.ndarray | None = None
    front: np.ndarray | None = None
    match values["place"]:
        case "outside":
            # Beneath the content as well where there is no gap, so that no seam shows between the two; by and by less
            # where a gap of a pixel opens.
            behind = widened(alpha, gap + width) - (min(gap, 1.0) * widened(alpha, gap) if gap > 0 else 0)
        case "inside":
            front = narrowed(alpha, gap) - narrowed(alpha, gap + width)
        case _:
            front = widened(alpha, width / 2) - narrowed(alpha, width / 2)
    made = [None if cover is None else _painted(job, np.clip(cover, 0, 1), corner) for cover in (behind, front)]
    return Finish(made[0], made[1], values["blend"])


def _painted(job: EffectJob, cover: np.ndarray, corner: tuple[int, int]) -> Raster:
    """Return the line in its paint over the region."""
    if job.values["paint"] == "colour":
        return in_colour(job, cover, corner, job.values["colour"])
    line = in_colour(job, cover, corner, (1.0, 1.0, 1.0, 1.0))
    return Raster(line.data * gradient_over(job), line.space, line.corner)


register_effect(
    EffectKind(
        "outline", "Outline", "A line around what the layer shows", "Finish", FINISH, PARAMETERS, _run, _reads, _reads,
        placed=True,
        neutral=lambda values: values["width"] == 0 or (values["paint"] == "colour" and values["colour"][3] == 0),
    )
)  # fmt: skip
