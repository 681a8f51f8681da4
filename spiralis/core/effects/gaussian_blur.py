"""Gaussian blur, across and down each by its own sigma."""

from __future__ import annotations

from collections.abc import Mapping

from spiralis.core.effects.job import EffectJob, Margins, even
from spiralis.core.model.blocks import EFFECT, EffectKind, register_effect
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.raster.blurring import reach, softened
from spiralis.core.raster.raster import Raster

PARAMETERS = (
    Parameter("across", "Across", Kind.NUMBER, 12.0, "Softness across: the sigma of a Gaussian", "px", 0, 500),
    Parameter("down", "Down", Kind.NUMBER, 12.0, "Softness down: the sigma of a Gaussian", "px", 0, 500),
    Parameter("edge", "Beyond the edge", Kind.CHOICE, "clear",
              "What lies outside: nothing, so that the edge fades, or the edge repeated, so that it stays",
              choices=("clear", "repeat")),
)  # fmt: skip


def sigmas(values: Mapping[str, Value], scale: tuple[float, float]) -> tuple[float, float]:
    """Return both sigmas in grid pixels."""
    return values["across"] * scale[0], values["down"] * scale[1]


def _reads(values: Mapping[str, Value], scale: tuple[float, float]) -> Margins:
    return even(*(reach(sigma) for sigma in sigmas(values, scale)))


def _grows(values: Mapping[str, Value], scale: tuple[float, float]) -> Margins:
    return even(0.0, 0.0) if values["edge"] == "repeat" else _reads(values, scale)


def _run(job: EffectJob) -> Raster:
    across, down = sigmas(job.values, job.scale)
    repeat = job.values["edge"] == "repeat"
    read = job.source if repeat else job.source_over(_reads(job.values, job.scale))
    return job.result(softened(read.as_float, across, down, read.corner, repeat), read.corner)


register_effect(
    EffectKind(
        "gaussian-blur", "Gaussian blur", "Softens evenly, or more across than down", "Soften", EFFECT,
        PARAMETERS, _run, _grows, _reads, holds=True,
        neutral=lambda values: values["across"] <= 0 and values["down"] <= 0,
    )
)  # fmt: skip
