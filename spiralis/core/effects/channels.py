"""Single channels of a picture, as effects that go by another layer read them."""

from __future__ import annotations

import cv2
import numpy as np

from spiralis.core.effects.job import EffectJob
from spiralis.core.model.parameter import Kind, Parameter
from spiralis.core.raster.raster import Raster

CHANNELS = ("red", "green", "blue", "alpha", "brightness")
_WEIGHTS = {
    "red": (1.0, 0.0, 0.0), "green": (0.0, 1.0, 0.0), "blue": (0.0, 0.0, 1.0), "brightness": (0.2126, 0.7152, 0.0722),
}  # fmt: skip


def layer_parameter(help: str) -> Parameter:
    """Return the parameter ``map``: the other layer that an effect goes by."""
    return Parameter("map", "By", Kind.LAYER, "", help, steady=True)


def channel_parameter(name: str, label: str, help: str) -> Parameter:
    """Return a parameter that names one of the other layer's channels."""
    return Parameter(name, label, Kind.CHOICE, "brightness", help, choices=CHANNELS)


def channel_of(picture: np.ndarray, name: str) -> np.ndarray:
    """Return one channel of premultiplied float32 (h, w, 4) pixels, straight, from 0 to 1: float32 (h, w)."""
    alpha = picture[..., 3]
    if name == "alpha":
        return np.clip(alpha, 0, 1)
    channel = cv2.transform(picture, np.array([[*_WEIGHTS[name], 0.0]], dtype=np.float32))
    straight = np.divide(channel, alpha, out=np.zeros_like(channel), where=alpha > 0)
    return np.asarray(np.clip(straight, 0, 1, out=straight))


def weights(name: str, way: float) -> np.ndarray:
    """Return what a channel takes of red, green, blue and alpha, then a way, as ``channel_moves`` wants it."""
    taken = (0.0, 0.0, 0.0, 1.0) if name == "alpha" else (*_WEIGHTS[name], 0.0)
    return np.array((*taken, way), dtype=np.float32)


def map_pixels(job: EffectJob) -> np.ndarray:
    """Return what the layer ``map`` shows over the job's region, premultiplied float32 (h, w, 4); clear for nothing."""
    found = job.input("map", job.region)
    if found is None:
        left, top, right, bottom = job.region
        return np.zeros((bottom - top, right - left, 4), dtype=np.float32)
    return np.ascontiguousarray(found.spread_over(job.region).as_float)


def channel_over(job: EffectJob, name: str) -> np.ndarray:
    """Return one channel of the layer ``map`` over the job's region, float32 (h, w)."""
    return channel_of(map_pixels(job), name)


def shown_as_far_as(job: EffectJob, share: np.ndarray) -> Raster:
    """Return the region of the source, each pixel as dense as a share of 0 to 1 says, (h, w) or broadcastable."""
    source = job.source_over((0, 0, 0, 0))
    whole = np.broadcast_to(share, source.data.shape[:2])[..., None].astype(np.float32)
    return Raster(source.as_float * whole, source.space, source.corner)
