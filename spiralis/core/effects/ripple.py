"""Ripple: rings that run outwards from a centre."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from spiralis.core.effects.job import EffectJob, Margins, even
from spiralis.core.effects.remapping import CENTRE, EDGE, moved, where_clear
from spiralis.core.model.blocks import EFFECT, EffectKind, register_effect
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.raster.raster import Raster

PARAMETERS = (
    Parameter("height", "Height", Kind.NUMBER, 12.0, "How far points move from their place", "px", 0, 1000),
    Parameter("length", "Length", Kind.NUMBER, 80.0, "From one ring to the next", "px", 2, 20_000),
    Parameter("phase", "Phase", Kind.NUMBER, 0.0, "How far they have run; each 100 % is a whole ring", "%", -1e6, 1e6,
              period=100.0),
    Parameter("radius", "Radius", Kind.NUMBER, 400.0, "Where the rings have died away", "px", 1, 20_000),
    CENTRE, EDGE,
)  # fmt: skip


def _reads(values: Mapping[str, Value], scale: tuple[float, float]) -> Margins:
    return even(values["height"] * scale[0] + 1, values["height"] * scale[1] + 1)


def _run(job: EffectJob) -> Raster:
    values, (cx, cy), (x, y) = job.values, job.point("centre"), job.places()
    dx, dy = x - cx, y - cy
    far = np.hypot(dx, dy)
    fading = np.clip(1 - far / values["radius"], 0, 1)
    high = values["height"] * fading * np.sin(2 * np.pi * (far / values["length"] - values["phase"] / 100))
    # No further in than the middle itself.
    high = np.minimum(high, far) / np.maximum(far, 1e-6)
    return moved(job, -dx * high, -dy * high, values["edge"])


register_effect(
    EffectKind(
        "ripple", "Ripple", "Rings run outwards from a centre", "Bend", EFFECT, PARAMETERS,
        _run, where_clear(_reads), _reads, placed=True, holds=True, neutral=lambda values: values["height"] == 0,
    )
)  # fmt: skip
