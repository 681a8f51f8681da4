"""Displace by another layer (W3C Filter Effects, ``feDisplacementMap``)."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from spiralis.core.compositing.kernels import curves
from spiralis.core.effects.channels import channel_parameter, layer_parameter, map_pixels, weights
from spiralis.core.effects.job import EffectJob, Margins, even
from spiralis.core.effects.remapping import moved_by
from spiralis.core.model.blocks import EFFECT, EffectKind, register_effect
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.raster.raster import Raster

PARAMETERS = (
    layer_parameter("The layer whose colours say how far each point moves"),
    Parameter("across", "Across", Kind.NUMBER, 40.0, "How far a full difference moves it across", "px", -4000, 4000),
    channel_parameter("across_by", "Across by", "Which of its channels moves across"),
    Parameter("down", "Down", Kind.NUMBER, 40.0, "How far a full difference moves it down", "px", -4000, 4000),
    channel_parameter("down_by", "Down by", "Which of its channels moves down"),
)  # fmt: skip


def _reads(values: Mapping[str, Value], scale: tuple[float, float]) -> Margins:
    # A channel lies 0.5 at the most from its middle; sampling reads a pixel further.
    return even(abs(values["across"]) * scale[0] / 2 + 1, abs(values["down"]) * scale[1] / 2 + 1)


def _run(job: EffectJob) -> Raster:
    other, values, (sx, sy) = map_pixels(job), job.values, job.scale
    moves = np.empty((2, *other.shape[:2]), dtype=np.float32)
    across, down = (
        weights(values[f"{name}_by"], values[name] * s) for name, s in (("across", sx), ("down", sy))
    )
    curves.channel_moves(other.reshape(-1), across, down, moves.reshape(2, -1))
    return moved_by(job, moves)


def _neutral(values: Mapping[str, Value]) -> bool:
    return not values["map"] or (values["across"] == 0 and values["down"] == 0)


register_effect(
    EffectKind(
        "displace", "Displace", "Moves each point as far as another layer's colours say", "Bend", EFFECT, PARAMETERS,
        _run, _reads, _reads, neutral=_neutral,
    )
)  # fmt: skip
