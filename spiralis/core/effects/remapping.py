"""Effects that take each pixel from elsewhere in the layer: places, edges, sampling."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping

import numpy as np

from spiralis.core.compositing.kernels import curves
from spiralis.core.effects.job import NO_MARGINS, EffectJob, Margins
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.raster.raster import Raster

EDGE = Parameter(
    "edge", "Beyond the edge", Kind.CHOICE, "clear",
    "What lies outside of the layer: nothing, its edge repeated, or the layer mirrored",
    choices=("clear", "repeat", "mirror"),
)  # fmt: skip
CENTRE = Parameter(
    "centre", "Centre", Kind.PAIR, (50.0, 50.0), "Where the middle is, across and down the layer", "%", -400, 500,
    spot=True,
)


def where_clear(reads: Callable[..., Margins]) -> Callable[..., Margins]:
    """Return how far a picture grows that takes pixels from as far as ``reads``: not at all with another edge."""

    def grows(values: Mapping[str, Value], scale: tuple[float, float]) -> Margins:
        return reads(values, scale) if values["edge"] == "clear" else NO_MARGINS

    return grows


def remapped(job: EffectJob, x: np.ndarray, y: np.ndarray, edge: str = "clear") -> Raster:
    """Return the region where each pixel shows what the layer shows at (x, y), float arrays in its own units."""
    (sx, sy), (ox, oy) = job.scale, job.origin
    left, top, right, bottom = job.box
    u, v = _within(x, left, right, edge) * sx + ox, _within(y, top, bottom, edge) * sy + oy
    if edge != "clear":
        # The last half pixel at an edge would mix with nothing.
        u = _held(u, left * sx + ox, right * sx + ox)
        v = _held(v, top * sy + oy, bottom * sy + oy)
    size = job.region[3] - job.region[1], job.region[2] - job.region[0]
    out = np.empty((*size, 4), dtype=np.float32)
    # Whole numbers are the middles of pixels.
    across, down = (
        np.ascontiguousarray(np.broadcast_to(place - np.float32(corner + 0.5), size), dtype=np.float32)
        for place, corner in ((u, job.source.corner[0]), (v, job.source.corner[1]))
    )
    sampled(job.source.as_float, across, down, out)
    return Raster(out, job.source.space, job.region[:2])


_EDGES = {"clear": 0, "repeat": 1, "mirror": 2}


def moved(job: EffectJob, across: np.ndarray, down: np.ndarray, edge: str = "clear") -> Raster:
    """Return the region where each pixel shows what the layer shows so far from it, float arrays in its own units.

    The same as ``remapped`` from ``job.places()`` moved by that, without arrays of all the places.
    """
    left, top, right, bottom = job.region
    moves = np.empty((2, bottom - top, right - left), dtype=np.float32)
    np.multiply(across, np.float32(job.scale[0]), out=moves[0], casting="unsafe")
    np.multiply(down, np.float32(job.scale[1]), out=moves[1], casting="unsafe")
    return moved_by(job, moves, edge)


def moved_by(job: EffectJob, moves: np.ndarray, edge: str = "clear") -> Raster:
    """Return the same for float32 (2, h, w) ways across and down in pixels of the grid."""
    (sx, sy), (ox, oy), source = job.scale, job.origin, job.source
    left, top, right, bottom = job.region
    # Whole numbers are the middles of pixels.
    u = np.arange(left - source.corner[0], right - source.corner[0], dtype=np.float32)
    v = np.arange(top - source.corner[1], bottom - source.corner[1], dtype=np.float32)
    box = (job.box[0] * sx + ox, job.box[1] * sy + oy, job.box[2] * sx + ox, job.box[3] * sy + oy)
    shift = np.array([-0.5 - part for part in source.corner] * 2, dtype=np.float32)
    inside = [math.floor(box[0] + 1e-3) + 0.5, math.floor(box[1] + 1e-3) + 0.5,
              math.ceil(box[2] - 1e-3) - 0.5, math.ceil(box[3] - 1e-3) - 0.5]  # fmt: skip
    held = np.array([*inside[:2], *(max(a, b) for a, b in zip(inside[:2], inside[2:], strict=True))], dtype=np.float32)
    pixels = source.as_float
    out = np.empty((bottom - top, right - left, 4), dtype=np.float32)
    curves.sample_moved(pixels.reshape(-1), pixels.shape[1], pixels.shape[0], u, v, moves,
                 np.array(box, dtype=np.float32) + shift, held + shift, _EDGES[edge], out.reshape(-1))  # fmt: skip
    return Raster(out, source.space, (left, top))


def _within(place: np.ndarray, low: float, high: float, edge: str) -> np.ndarray:
    size = max(high - low, 1e-6)
    if edge == "mirror":
        part = np.mod(place - low, 2 * size)
        return low + np.minimum(part, 2 * size - part)
    return np.clip(place, low, high) if edge == "repeat" else place


def _held(place: np.ndarray, low: float, high: float) -> np.ndarray:
    low, high = np.floor(low + 1e-3) + 0.5, np.ceil(high - 1e-3) - 0.5
    return np.clip(place, low, max(low, high))


def sampled(pixels: np.ndarray, x: np.ndarray, y: np.ndarray, out: np.ndarray) -> None:
    """Sample premultiplied float32 (h, w, 4) pixels bilinearly at float32 (n, m) places into ``out`` (n, m, 4).

    Whole numbers are the centres of pixels; around them all is clear.
    """
    height, width = pixels.shape[:2]
    curves.sample_places(pixels.reshape(-1), width, height, x.reshape(-1), y.reshape(-1), out.reshape(-1))


def ringed_pixels(picture: Raster) -> np.ndarray:
    """Return a picture's pixels as float32 (h, w, 4) with a clear ring of one pixel."""
    return picture.with_clear_ring().as_float
