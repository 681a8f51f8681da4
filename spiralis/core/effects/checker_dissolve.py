"""Checker dissolve: squares go one by one, in a seeded order."""

from __future__ import annotations

import numpy as np

from spiralis.core.effects.job import EffectJob, nothing_around
from spiralis.core.effects.strips import even_numbers
from spiralis.core.model.blocks import EFFECT, EffectKind, register_effect
from spiralis.core.model.parameter import Kind, Parameter
from spiralis.core.raster.raster import Raster

PARAMETERS = (
    Parameter("gone", "Gone", Kind.NUMBER, 50.0, "How many of the squares are gone", "%", 0, 100),
    Parameter("size", "Size", Kind.NUMBER, 40.0, "How large a square is", "px", 1, 4000),
    Parameter("softness", "Softness", Kind.NUMBER, 10.0, "How gradually each goes", "%", 0, 100),
    Parameter("seed", "Seed", Kind.NUMBER, 1.0, "Another number, another order", "", 0, 99_999, steady=True),
)


def _run(job: EffectJob) -> Raster:
    values, (x, y) = job.values, job.places()
    column = np.floor((x - job.box[0]) / values["size"]).astype(np.int64)
    row = np.floor((y - job.box[1]) / values["size"]).astype(np.int64)
    turn = even_numbers(int(values["seed"]), column + 4096 * row, 5)
    soft = max(values["softness"] / 100, 1e-4)
    stays = np.clip((turn * (1 - soft) + soft - values["gone"] / 100 * (1 + 1e-6)) / soft, 0, 1)
    source = job.source_over((0, 0, 0, 0))
    return Raster(source.as_float * stays[..., None].astype(np.float32), source.space, source.corner)


register_effect(
    EffectKind(
        "checker-dissolve", "Checker dissolve", "Squares go one by one", "Break up", EFFECT, PARAMETERS, _run,
        nothing_around, nothing_around, placed=True, neutral=lambda values: values["gone"] == 0,
    )
)  # fmt: skip
