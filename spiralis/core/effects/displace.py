"""Displace by another layer (W3C Filter Effects, ``feDisplacementMap``)."""

from __future__ import annotations

from collections.abc import Mapping

import cv2
import numpy as np

from spiralis.core.effects.job import EffectJob, Margins, even
from spiralis.core.effects.remapping import ringed_pixels, sampled
from spiralis.core.model.blocks import EFFECT, EffectKind, register_effect
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.raster.raster import Raster

CHANNELS = ("red", "green", "blue", "alpha", "brightness")
_WEIGHTS = {
    "red": (1.0, 0.0, 0.0), "green": (0.0, 1.0, 0.0), "blue": (0.0, 0.0, 1.0), "brightness": (0.2126, 0.7152, 0.0722),
}  # fmt: skip

PARAMETERS = (
    Parameter("map", "By", Kind.LAYER, "", "The layer whose colours say how far each point moves", steady=True),
    Parameter("across", "Across", Kind.NUMBER, 40.0, "How far a full difference moves it across", "px", -4000, 4000),
    Parameter("across_by", "Across by", Kind.CHOICE, "brightness", "Which of its channels moves across",
              choices=CHANNELS),
    Parameter("down", "Down", Kind.NUMBER, 40.0, "How far a full difference moves it down", "px", -4000, 4000),
    Parameter("down_by", "Down by", Kind.CHOICE, "brightness", "Which of its channels moves down", choices=CHANNELS),
)  # fmt: skip


def _reads(values: Mapping[str, Value], scale: tuple[float, float]) -> Margins:
    # A channel lies 0.5 at the most from its middle; sampling reads a pixel further.
    return even(abs(values["across"]) * scale[0] / 2 + 1, abs(values["down"]) * scale[1] / 2 + 1)


def _channel(picture: np.ndarray, name: str) -> np.ndarray:
    """Return one channel of premultiplied float32 (h, w, 4) pixels, straight, from 0 to 1: float32 (h, w)."""
    alpha = picture[..., 3]
    if name == "alpha":
        return np.clip(alpha, 0, 1)
    channel = cv2.transform(picture, np.array([[*_WEIGHTS[name], 0.0]], dtype=np.float32))
    straight = np.divide(channel, alpha, out=np.zeros_like(channel), where=alpha > 0)
    return np.asarray(np.clip(straight, 0, 1, out=straight))


def _run(job: EffectJob) -> Raster:
    found = job.input("map", job.region)
    if found is None and not job.values["map"]:
        return job.source.spread_over(job.region)
    left, top, right, bottom = job.region
    width, height = right - left, bottom - top
    clear = Raster(np.zeros((height, width, 4), dtype=np.float32), corner=(left, top))
    moves = (found or clear).spread_over(job.region).as_float
    read = job.source_over(_reads(job.values, job.scale))
    x0, y0 = left - read.corner[0], top - read.corner[1]
    x = np.arange(x0, x0 + width, dtype=np.float32)[None, :] + np.float32(job.values["across"] * job.scale[0]) * (
        _channel(moves, job.values["across_by"]) - np.float32(0.5)
    )
    y = np.arange(y0, y0 + height, dtype=np.float32)[:, None] + np.float32(job.values["down"] * job.scale[1]) * (
        _channel(moves, job.values["down_by"]) - np.float32(0.5)
    )
    out = np.empty((height, width, 4), dtype=np.float32)
    sampled(ringed_pixels(read), x, y, out)
    return Raster(out, job.source.space, (left, top))


def _neutral(values: Mapping[str, Value]) -> bool:
    return not values["map"] or (values["across"] == 0 and values["down"] == 0)


register_effect(
    EffectKind(
        "displace", "Displace", "Moves each point as far as another layer's colours say", "Bend", EFFECT, PARAMETERS,
        _run, _reads, _reads, neutral=_neutral,
    )
)  # fmt: skip
