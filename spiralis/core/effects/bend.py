"""Bend: the layer's level middle line becomes an arc of a circle."""

from __future__ import annotations

import math
from collections.abc import Mapping

import numpy as np

from spiralis.core.effects.job import EffectJob, anywhere, nothing_around
from spiralis.core.effects.remapping import remapped
from spiralis.core.geometry import Box
from spiralis.core.model.blocks import ALL, EFFECT, EffectKind, register_effect
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.raster.raster import Raster

PARAMETERS = (
    Parameter("angle", "Angle", Kind.NUMBER, 60.0, "How much of a circle the layer becomes; below 0 it bends down", "°",
              -350, 350),
)  # fmt: skip

#: How many points of an arc are looked at.
_POINTS = 65


def _run(job: EffectJob) -> Raster:
    left, top, right, bottom = job.box
    x, y = job.places()
    # By the bend's curvature rather than its radius, which grows beyond all bounds towards no bend at all. The arc's
    # centre lies below the middle line where it bends up.
    curve = math.radians(job.values["angle"]) / max(right - left, 1e-3)
    across, down = x - (left + right) / 2, y - (top + bottom) / 2
    aside, ahead = across * np.float32(curve), 1 - down * np.float32(curve)
    far = np.hypot(aside, ahead)
    with np.errstate(divide="ignore", invalid="ignore"):
        near = down - across * aside / (far + ahead)
    sunk = np.where(ahead > 0, near, (1 - far) / np.float32(curve))
    return remapped(job, (left + right) / 2 + np.arctan2(aside, ahead) / np.float32(curve), (top + bottom) / 2 + sunk)


def _fills(values: Mapping[str, Value], source: Box, box: Box) -> Box:
    middle = (box[0] + box[2]) / 2, (box[1] + box[3]) / 2
    radius = max(box[2] - box[0], 1e-3) / math.radians(values["angle"])
    # Beyond half a circle to each side, and beyond the centre, nothing of the source is shown.
    along = np.clip((np.linspace(source[0], source[2], _POINTS) - middle[0]) / radius, -math.pi, math.pi)
    out = [max((radius - (y - middle[1])) * math.copysign(1.0, radius), 0.0) for y in (source[1], source[3])]
    out = [math.copysign(far, radius) for far in out]
    x = np.concatenate([far * np.sin(along) for far in out])
    y = np.concatenate([radius - far * np.cos(along) for far in out])
    # Between two points an arc reaches by a part of its length over both.
    over = float(max(abs(out[0]), abs(out[1])) * np.ptp(along) / _POINTS)
    return (middle[0] + float(x.min()) - over, middle[1] + float(y.min()) - over,
            middle[0] + float(x.max()) + over, middle[1] + float(y.max()) + over)  # fmt: skip


register_effect(
    EffectKind(
        "bend", "Bend", "Bends the layer to an arc", "Bend", EFFECT, PARAMETERS, _run, anywhere, nothing_around,
        takes=ALL, fills=_fills, neutral=lambda values: abs(values["angle"]) < 1e-3,
    )
)  # fmt: skip
