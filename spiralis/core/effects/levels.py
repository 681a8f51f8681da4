"""Levels: which values become black and white, and where the middle lies."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from spiralis.core.effects.job import EffectJob, nothing_around
from spiralis.core.effects.tables import through_curves
from spiralis.core.model.blocks import EFFECT, EffectKind, register_effect
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.raster.raster import Raster

PARAMETERS = (
    Parameter("in_black", "Black from", Kind.NUMBER, 0.0, "What is as dark as this becomes black", "%", 0, 100),
    Parameter("in_white", "White from", Kind.NUMBER, 100.0, "What is as light as this becomes white", "%", 0, 100),
    Parameter("gamma", "Middle", Kind.NUMBER, 1.0, "Over 1 the middle gets lighter, under 1 darker", "", 0.1, 10,
              step=0.05),
    Parameter("out_black", "Black to", Kind.NUMBER, 0.0, "What black becomes", "%", 0, 100),
    Parameter("out_white", "White to", Kind.NUMBER, 100.0, "What white becomes", "%", 0, 100),
)  # fmt: skip


def _curve(values: Mapping[str, Value], colour: np.ndarray) -> np.ndarray:
    low, high, to_low, to_high = (values[name] / 100 for name in ("in_black", "in_white", "out_black", "out_white"))
    share = np.clip((colour - low) / max(high - low, 1e-6), 0.0, 1.0)
    return np.asarray(to_low + (to_high - to_low) * share ** (1.0 / values["gamma"]))


def _run(job: EffectJob) -> Raster:
    return through_curves(job, lambda colour: _curve(job.values, colour))


register_effect(
    EffectKind(
        "levels", "Levels", "Sets black, white and the middle", "Colour", EFFECT, PARAMETERS, _run, nothing_around,
        nothing_around, neutral=lambda values: all(values[p.name] == p.default for p in PARAMETERS),
    )
)  # fmt: skip
