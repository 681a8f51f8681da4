"""Channel split: red and blue moved apart, green stays."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from spiralis.core.effects.job import EffectJob, Margins, even
from spiralis.core.effects.remapping import sampled
from spiralis.core.model.blocks import EFFECT, EffectKind, register_effect
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.raster.raster import Raster

PARAMETERS = (
    Parameter("red", "Red", Kind.PAIR, (-8.0, 0.0), "How far red is moved", "px", -2000, 2000),
    Parameter("blue", "Blue", Kind.PAIR, (8.0, 0.0), "How far blue is moved", "px", -2000, 2000),
)


def _reads(values: Mapping[str, Value], scale: tuple[float, float]) -> Margins:
    across = max(abs(values[name][0]) for name in ("red", "blue"))
    down = max(abs(values[name][1]) for name in ("red", "blue"))
    return even(across * scale[0] + 1, down * scale[1] + 1)


def _run(job: EffectJob) -> Raster:
    read = job.source_over(_reads(job.values, job.scale))
    x0, y0, x1, y1 = job.region
    columns = np.arange(x0, x1, dtype=np.float32)[None, :] - read.corner[0]
    rows = np.arange(y0, y1, dtype=np.float32)[:, None] - read.corner[1]
    out = np.zeros((y1 - y0, x1 - x0, 4), dtype=np.float32)
    moved, pixels = np.empty_like(out), read.as_float
    for channel, (dx, dy) in ((0, job.values["red"]), (1, (0.0, 0.0)), (2, job.values["blue"])):
        x = np.broadcast_to(columns - np.float32(dx * job.scale[0]), out.shape[:2]).astype(np.float32)
        y = np.broadcast_to(rows - np.float32(dy * job.scale[1]), out.shape[:2]).astype(np.float32)
        sampled(pixels, x, y, moved)
        out[..., channel] = moved[..., channel]
        np.maximum(out[..., 3], moved[..., 3], out=out[..., 3])
    return Raster(out, job.source.space, (x0, y0))


register_effect(
    EffectKind(
        "channel-split", "Channel split", "Red, green and blue drawn apart", "Break up", EFFECT, PARAMETERS, _run,
        _reads, _reads, neutral=lambda values: values["red"] == values["blue"] == (0.0, 0.0),
    )
)  # fmt: skip
