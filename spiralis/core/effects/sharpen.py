"""Sharpen: differences to a softened picture made stronger (unsharp masking)."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from spiralis.core.effects.job import EffectJob, Margins, even, nothing_around
from spiralis.core.model.blocks import EFFECT, EffectKind, register_effect
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.raster.blurring import reach, softened
from spiralis.core.raster.raster import Raster

PARAMETERS = (
    Parameter("amount", "Amount", Kind.NUMBER, 80.0, "How much stronger differences get", "%", 0, 1000),
    Parameter("radius", "Radius", Kind.NUMBER, 2.0, "How wide the differences are: the sigma of a Gaussian", "px",
              0.1, 200),
)  # fmt: skip


def _reads(values: Mapping[str, Value], scale: tuple[float, float]) -> Margins:
    return even(*(reach(values["radius"] * s) for s in scale))


def _run(job: EffectJob) -> Raster:
    read = job.source_over(_reads(job.values, job.scale))
    pixels, (sx, sy) = read.as_float, job.scale
    soft = softened(pixels, job.values["radius"] * sx, job.values["radius"] * sy, read.corner)
    sharp = pixels + (pixels - soft) * np.float32(job.values["amount"] / 100)
    # The outline stays: only colours change, within what the alpha can hold.
    sharp[..., 3] = pixels[..., 3]
    sharp[..., :3] = np.clip(sharp[..., :3], 0, np.maximum(pixels[..., 3:], pixels[..., :3]))
    return job.result(sharp, read.corner)


register_effect(
    EffectKind(
        "sharpen", "Sharpen", "Makes edges within the picture crisper", "Soften", EFFECT, PARAMETERS, _run,
        nothing_around, _reads, neutral=lambda values: values["amount"] == 0,
    )
)  # fmt: skip
