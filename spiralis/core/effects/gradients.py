"""Gradients across a layer, as effects paint with them."""

from __future__ import annotations

import math

import numpy as np

from spiralis.core.effects.job import EffectJob
from spiralis.core.effects.tables import along, steps
from spiralis.core.model.parameter import Kind, Parameter, Value

_STOPS = ((0.0, 1.0, 0.78, 0.36, 1.0), (1.0, 0.92, 0.27, 0.45, 1.0))


def gradient_parameters(needs: tuple[str, tuple[Value, ...]]) -> tuple[Parameter, Parameter]:
    """Return the parameters of a gradient, which matter for some values of another one."""
    return (
        Parameter("stops", "Gradient", Kind.STOPS, _STOPS, "The colours, from one side to the other", needs=needs),
        Parameter("angle", "Angle", Kind.NUMBER, 90.0, "Where the gradient goes to (0° right, 90° down)", "°", -36_000,
                  36_000, period=360.0, needs=needs),
    )  # fmt: skip


def gradient_over(job: EffectJob) -> np.ndarray:
    """Return premultiplied float32 (h, w, 4) colours over the job's region; the gradient spans the layer's box."""
    (x, y), (left, top, right, bottom) = job.places(), job.box
    angle = math.radians(job.values["angle"])
    cos, sin = math.cos(angle), math.sin(angle)
    ends = [px * cos + py * sin for px in (left, right) for py in (top, bottom)]
    place = np.clip((x * cos + y * sin - min(ends)) / max(max(ends) - min(ends), 1e-6), 0, 1)
    stops = np.array(sorted(job.values["stops"]))
    table = along(stops[:, 0], stops[:, 1:]).astype(np.float32)
    table[:, :3] *= table[:, 3:]
    return np.asarray(table[np.rint(place * (len(steps()) - 1)).astype(np.int32)])
