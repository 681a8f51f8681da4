"""Long shadow: the outline drawn out to one side."""

from __future__ import annotations

import math
from collections.abc import Mapping

import numpy as np

from spiralis.core.effects.edges import TURNS, in_colour, shifted, way
from spiralis.core.effects.job import EffectJob, Finish, Margins, even
from spiralis.core.model.blocks import FINISH, EffectKind, register_effect
from spiralis.core.model.kinds import LOCAL_MODES
from spiralis.core.model.parameter import Kind, Parameter, Value

PARAMETERS = (
    Parameter("colour", "Colour", Kind.COLOUR, (0.0, 0.0, 0.0, 0.35), "The colour of the shadow, with its density"),
    Parameter("angle", "Angle", Kind.NUMBER, 45.0, "Where it is drawn to: 0° to the right, 90° down", "°", -36_000,
              36_000, period=360.0),
    Parameter("length", "Length", Kind.NUMBER, 120.0, "How far it is drawn", "px", 0, 4000),
    Parameter("fade", "Fade", Kind.NUMBER, 60.0, "How much of it has gone at its end", "%", 0, 100),
    TURNS,
    Parameter("blend", "Blend", Kind.CHOICE, "normal", "How it mixes with what lies beneath", choices=LOCAL_MODES),
)  # fmt: skip


def _reads(values: Mapping[str, Value], scale: tuple[float, float]) -> Margins:
    dx, dy = way(values["angle"], values["length"])
    return even(abs(dx) * scale[0] + 2, abs(dy) * scale[1] + 2)


def _run(job: EffectJob) -> Finish:
    values = job.values
    alpha, corner = job.alpha_over(_reads(values, job.scale))
    dx, dy = (d * s for d, s in zip(way(values["angle"], values["length"]), job.scale, strict=True))
    steps = max(math.ceil(math.hypot(dx, dy)), 1)
    # What is left after one of the steps; in the end as much as was asked for (a hundredth counts as nothing).
    left = max(1 - values["fade"] / 100, 0.01) ** (1 / steps)
    cover, done = alpha, 1
    # Each round draws it out twice as far: the largest of what is there, and the same moved on and faded.
    while done <= steps:
        go = min(done, steps + 1 - done)
        cover = np.maximum(cover, shifted(cover, dx / steps * go, dy / steps * go) * np.float32(left**go))
        done += go
    return Finish(behind=in_colour(job, cover, corner, values["colour"]), blend=values["blend"])


register_effect(
    EffectKind(
        "long-shadow", "Long shadow", "The outline drawn out to one side", "Finish", FINISH, PARAMETERS, _run, _reads,
        _reads, neutral=lambda values: values["colour"][3] == 0 or values["length"] == 0,
    )
)  # fmt: skip
