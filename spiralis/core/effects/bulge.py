"""Bulge and pinch: the middle seems larger, or smaller."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from spiralis.core.effects.job import EffectJob, Margins, even
from spiralis.core.effects.remapping import CENTRE, EDGE, remapped, where_clear
from spiralis.core.model.blocks import EFFECT, EffectKind, register_effect
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.raster.raster import Raster

PARAMETERS = (
    Parameter("amount", "Amount", Kind.NUMBER, 60.0, "Over 0 the middle bulges, under 0 it is pinched", "%", -100, 100),
    Parameter("radius", "Radius", Kind.NUMBER, 200.0, "Where it ends", "px", 1, 20_000),
    CENTRE, EDGE,
)  # fmt: skip


def _reads(values: Mapping[str, Value], scale: tuple[float, float]) -> Margins:
    return even(values["radius"] * scale[0] + 1, values["radius"] * scale[1] + 1)


def _run(job: EffectJob) -> Raster:
    (cx, cy), (x, y) = job.point("centre"), job.places()
    dx, dy = x - cx, y - cy
    far = np.clip(np.hypot(dx, dy) / job.values["radius"], 1e-6, 1)
    # Towards the middle places come from nearer to it (a power of the distance), so that it looks larger.
    power = 2.0 ** (2 * job.values["amount"] / 100)
    pull = far ** (power - 1)
    return remapped(job, cx + dx * pull, cy + dy * pull, job.values["edge"])


register_effect(
    EffectKind(
        "bulge", "Bulge and pinch", "The middle seems larger, or smaller", "Bend", EFFECT, PARAMETERS, _run,
        where_clear(_reads), _reads, placed=True, holds=True, neutral=lambda values: values["amount"] == 0,
    )
)  # fmt: skip
