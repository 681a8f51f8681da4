"""Fill: what the layer shows in one gradient, or in another layer's picture; its outline stays."""

from __future__ import annotations

import math
from collections.abc import Mapping

import numpy as np
from attrs import evolve

from spiralis.core.effects.channels import layer_parameter, map_pixels
from spiralis.core.effects.job import EffectJob, nothing_around
from spiralis.core.effects.tables import along, steps
from spiralis.core.model.blocks import EFFECT, EffectKind, register_effect
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.raster.raster import Raster

_STOPS = ((0.0, 1.0, 0.78, 0.36, 1.0), (1.0, 0.92, 0.27, 0.45, 1.0))
_GRADIENT = ("with", ("gradient",))
PARAMETERS = (
    Parameter("with", "With", Kind.CHOICE, "gradient", "A gradient across the layer, or what another layer shows",
              choices=("gradient", "layer")),
    Parameter("stops", "Gradient", Kind.STOPS, _STOPS, "The colours, from one side to the other", needs=_GRADIENT),
    Parameter("angle", "Angle", Kind.NUMBER, 90.0, "Where the gradient goes to (0° right, 90° down)", "°", -36_000,
              36_000, period=360.0, needs=_GRADIENT),
    evolve(layer_parameter("The layer whose picture it is filled with"), needs=("with", ("layer",))),
    Parameter("amount", "Amount", Kind.NUMBER, 100.0, "How much of the own colours goes", "%", 0, 100),
)  # fmt: skip


def _gradient(job: EffectJob) -> np.ndarray:
    """Return premultiplied colours along the gradient, which spans the layer's box from corner to corner."""
    (x, y), (left, top, right, bottom) = job.places(), job.box
    angle = math.radians(job.values["angle"])
    cos, sin = math.cos(angle), math.sin(angle)
    ends = [px * cos + py * sin for px in (left, right) for py in (top, bottom)]
    place = np.clip((x * cos + y * sin - min(ends)) / max(max(ends) - min(ends), 1e-6), 0, 1)
    stops = np.array(sorted(job.values["stops"]))
    table = along(stops[:, 0], stops[:, 1:]).astype(np.float32)
    table[:, :3] *= table[:, 3:]
    return table[np.rint(place * (len(steps()) - 1)).astype(np.int32)]


def _run(job: EffectJob) -> Raster:
    source = job.source_over((0, 0, 0, 0))
    own, alpha = source.as_float, source.as_float[..., 3:]
    colours = map_pixels(job) if job.values["with"] == "layer" else _gradient(job)
    # Over the own colours where the filling is not solid, and within the own outline.
    filled = colours * alpha + own * (1 - colours[..., 3:])
    share = np.float32(job.values["amount"] / 100)
    return Raster(np.asarray(own + (filled - own) * share, dtype=np.float32), source.space, source.corner)


def _neutral(values: Mapping[str, Value]) -> bool:
    return values["amount"] == 0 or (values["with"] == "layer" and not values["map"])


register_effect(
    EffectKind(
        "fill", "Fill", "Fills what the layer shows with a gradient or another layer's picture", "Reveal", EFFECT,
        PARAMETERS, _run, nothing_around, nothing_around, placed=True, neutral=_neutral,
    )
)  # fmt: skip
