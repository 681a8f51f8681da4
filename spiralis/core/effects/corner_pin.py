"""Corner pin: the layer set into four corners, in perspective."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from spiralis.core.compositing.kernels import pinning as pinning_kernels
from spiralis.core.effects.job import EffectJob, anywhere, nothing_around
from spiralis.core.geometry import (
    Affine,
    Box,
    Projection,
    box_around_points,
    box_of,
    corners_of,
    point_in,
    projection,
    rounded_out,
)  # fmt: skip
from spiralis.core.model.blocks import ALL, EFFECT, EffectKind, register_effect
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
_FINEST = 8
#: What lies beyond the layer's box may come so much nearer to the eye than the nearest of its corners.
_NEAREST = 0.25


def pinned(job: EffectJob) -> Projection | None:
    """Return the map of the layer's box to the four corners, in its units; None for corners that are not convex."""
    return Projection.pinning(job.box, [job.point(name) for name, _, _ in CORNERS])


def _run(job: EffectJob) -> Raster:
    left, top, right, bottom = job.region
    to_corners = pinned(job)
    back = to_corners.inverse() if to_corners is not None else None
    if to_corners is None or back is None:
        return _nothing(job)
    (sx, sy), (ox, oy) = job.scale, job.origin
    to_grid = job.to_grid
    points = [job.point(name) for name, _, _ in CORNERS]
    across, down = [x * sx + ox for x, _ in points], [y * sy + oy for _, y in points]
    held = (Affine.scaling(1 / sx, 1 / sy) @ Affine.shift(-ox, -oy)).box(box_of(job.source.box))
    seen = rounded_out(to_grid.box(_set(to_corners, held, job.box)))
    x0, y0, x1, y1 = max(seen[0], left), max(seen[1], top), min(seen[2], right), min(seen[3], bottom)
    if x1 <= x0 or y1 <= y0:
        return _nothing(job)
    pixels = job.source.as_float
    part = np.zeros((y1 - y0, x1 - x0, 4), dtype=np.float32)
    to_pixels = _scaling(sx, sy, ox - job.source.corner[0] - 0.5, oy - job.source.corner[1] - 0.5)
    to_units = np.linalg.inv(_scaling(sx, sy, ox - 0.5, oy - 0.5))
    places = to_pixels @ projection(back).array @ to_units
    # A map times any number is the same map; here what is seen lies before the eye.
    middle = sum(across) / 4 - 0.5, sum(down) / 4 - 0.5, 1.0
    places = np.ascontiguousarray((places * np.sign(places[2] @ middle)).reshape(-1))
    flat, (height, width) = pixels.reshape(-1), pixels.shape[:2]
    pinning_kernels.pin_pixels(flat, width, height, places, x0, y0, _FINEST, 1.0, part)
    return Raster(part, job.source.space, (x0, y0))


def _set(to_corners: Projection, source: Box, box: Box) -> Box:
    """Return the box around what a source that reaches beyond the layer's box becomes: strokes and soft edges are set
    into the corners with it, as far as they stay well before the eye."""
    pairs = list(zip(corners_of(box), corners_of(source), strict=True))
    depths = [(to_corners.depth(*own), to_corners.depth(*far)) for own, far in pairs]
    least = _NEAREST * min(own for own, _ in depths)
    share = min([1.0, *((own - least) / (own - far) for own, far in depths if far < least)])
    placed = [
        to_corners.apply(x + share * (far_x - x), y + share * (far_y - y)) for (x, y), (far_x, far_y) in pairs
    ]  # fmt: skip
    return box_around_points(placed)


def _fills(values: Mapping[str, Value], source: Box, box: Box) -> Box:
    to_corners = Projection.pinning(box, [point_in(box, values[name]) for name, _, _ in CORNERS])
    return _set(to_corners, source, box) if to_corners is not None else box


def _nothing(job: EffectJob) -> Raster:
    return Raster(np.zeros((1, 1, 4), dtype=np.float32), job.source.space, job.region[:2])


def _scaling(sx: float, sy: float, x: float, y: float) -> np.ndarray:
    """Return the matrix (3, 3) of a map of units to pixels."""
    return np.array([[sx, 0.0, x], [0.0, sy, y], [0.0, 0.0, 1.0]])


def _neutral(values: Mapping[str, Value]) -> bool:
    return all(values[name] == place for name, _, place in CORNERS)


register_effect(
    EffectKind(
        NAME, "Corner pin", "Sets the layer into four corners, in perspective", "Bend", EFFECT, PARAMETERS,
        _run, anywhere, nothing_around, takes=ALL, fills=_fills, neutral=_neutral,
    )
)  # fmt: skip
