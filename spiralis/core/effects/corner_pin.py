"""Corner pin: the layer set into four corners, in perspective."""

from __future__ import annotations

import math
from collections.abc import Mapping

import numpy as np

from spiralis.core.effects.job import EffectJob, anywhere, nothing_around
from spiralis.core.effects.remapping import remapped, ringed_pixels
from spiralis.core.geometry import Projection, projection, rounded_out
from spiralis.core.model.blocks import EFFECT, EffectKind, register_effect
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.raster.raster import Raster

NAME = "corner-pin"
CORNERS = (
    ("top_left", "Top left", (0.0, 0.0)), ("top_right", "Top right", (100.0, 0.0)),
    ("bottom_right", "Bottom right", (100.0, 100.0)), ("bottom_left", "Bottom left", (0.0, 100.0)),
)  # fmt: skip
PARAMETERS = tuple(
    Parameter(name, label, Kind.PAIR, place, "Where this corner goes, across and down the layer", "%", -1000, 1000,
              spot=True)
    for name, label, place in CORNERS
)  # fmt: skip
#: So many samples a pixel and axis at the most, where the layer is made much smaller.
_FINEST = 6


def pinned(job: EffectJob) -> Projection | None:
    """Return the map of the layer's box to the four corners, in its units; None for corners that are not convex."""
    return Projection.pinning(job.box, [job.point(name) for name, _, _ in CORNERS])


def _run(job: EffectJob) -> Raster:
    left, top, right, bottom = job.region
    out = np.zeros((bottom - top, right - left, 4), dtype=np.float32)
    to_corners = pinned(job)
    back = to_corners.inverse() if to_corners is not None else None
    if back is None:
        return Raster(out, job.source.space, (left, top))
    (sx, sy), (ox, oy) = job.scale, job.origin
    points = [job.point(name) for name, _, _ in CORNERS]
    across, down = [x * sx + ox for x, _ in points], [y * sy + oy for _, y in points]
    seen = rounded_out((min(across), min(down), max(across), max(down)))
    x0, y0, x1, y1 = max(seen[0], left), max(seen[1], top), min(seen[2], right), min(seen[3], bottom)
    if x1 <= x0 or y1 <= y0:
        return Raster(out, job.source.space, (left, top))
    part = EffectJob(job.source, (x0, y0, x1, y1), job.values, job.scale, job.frame, job.input, job.origin, job.box)
    out[y0 - top : y1 - top, x0 - left : x1 - left] = _sampled(part, projection(back), points)
    return Raster(out, job.source.space, (left, top))


def _sampled(job: EffectJob, back: Projection, points: list[tuple[float, float]]) -> np.ndarray:
    """Return the mean of several samples a pixel, as many as the layer is made smaller, so that nothing shimmers."""
    count = min(max(math.ceil(2 * max(_shrunk(back, *point) for point in points)), 2), _FINEST)
    x, y = (place.astype(np.float64) for place in job.places())
    total: np.ndarray | None = None
    ringed = ringed_pixels(job.source)
    for down in range(count):
        for across in range(count):
            px = x + ((across + 0.5) / count - 0.5) / job.scale[0]
            py = y + ((down + 0.5) / count - 0.5) / job.scale[1]
            depth = back.g * px + back.h * py + back.i
            u = (back.a * px + back.b * py + back.c) / depth
            v = (back.d * px + back.e * py + back.f) / depth
            made = remapped(job, u, v, ringed=ringed).data
            total = made if total is None else np.add(total, made, out=total)
    assert total is not None
    return total / np.float32(count * count)


def _shrunk(back: Projection, x: float, y: float) -> float:
    """Return by how much the layer is made smaller at a place: the longer side of a unit's picture, taken back."""
    at = back.apply(x, y)
    steps = [back.apply(x + dx, y + dy) for dx, dy in ((0.01, 0.0), (0.0, 0.01))]
    return max(math.hypot(u - at[0], v - at[1]) / 0.01 for u, v in steps)


def _neutral(values: Mapping[str, Value]) -> bool:
    return all(values[name] == place for name, _, place in CORNERS)


register_effect(
    EffectKind(
        NAME, "Corner pin", "Sets the layer into four corners, in perspective", "Bend", EFFECT, PARAMETERS,
        _run, anywhere, nothing_around, whole=True, neutral=_neutral,
    )
)  # fmt: skip
