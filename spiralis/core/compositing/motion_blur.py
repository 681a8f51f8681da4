"""Blur a moving picture over the open shutter: the mean of its placements, in linear light."""

from __future__ import annotations

from functools import partial

import numpy as np

from spiralis.core.cache import CacheSection
from spiralis.core.compositing.kernels import light as light_kernels
from spiralis.core.compositing.kernels import smear as smear_kernels
from spiralis.core.geometry import Affine, Box, box_around, intersect, rounded_out
from spiralis.core.raster.raster import Raster
from spiralis.core.rows import by_rows

#: So many samples take longer than handing half of them to another thread, by far.
_WORTH_TWO = 200_000
_halves: CacheSection[tuple[np.ndarray, Raster]] = CacheSection(lambda pair: pair[1].data.nbytes)
#: Linear-light copies by the identity of the pixels, which are kept beside them so that it stays theirs.
_linear: CacheSection[tuple[np.ndarray, np.ndarray]] = CacheSection(lambda pair: pair[1].nbytes)


def _decoded(data: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    linear = np.empty(data.size, dtype=np.float32)
    scale = np.float32(1 / 255 if data.dtype == np.uint8 else 1)
    light_kernels.decode_premultiplied(np.ascontiguousarray(data).reshape(-1), scale, linear)
    return data, linear


def in_linear_light(picture: Raster) -> np.ndarray:
    """Return a picture's pixels as premultiplied linear light, flat float32, not to be written to; kept beside it."""
    return _linear.get(id(picture.data), lambda: _decoded(picture.data))[1]


def half_in_linear_light(picture: Raster) -> Raster:
    """Return a picture of half the size of premultiplied linear light in a clear ring; kept beside it."""
    return _halves.get(id(picture.data), lambda: (picture.data, _halved(picture)))[1]


def _halved(picture: Raster) -> Raster:
    height, width = picture.data.shape[:2]
    even = np.zeros((height + height % 2, width + width % 2, 4), dtype=np.float32)
    even[:height, :width] = in_linear_light(picture).reshape(height, width, 4)
    half = np.zeros((len(even) // 2 + 2, even.shape[1] // 2 + 2, 4), dtype=np.float32)
    half[1:-1, 1:-1] = 0.25 * (even[::2, ::2] + even[1::2, ::2] + even[::2, 1::2] + even[1::2, 1::2])
    return Raster(half, picture.to_layer @ Affine(2.0, 0.0, 0.0, 2.0, -2.0, -2.0))


def smeared(drawing: Raster, matrices: list[Affine], frame: Box) -> Raster | None:
    """Return the mean of ``drawing`` placed by each matrix (layer units to output), cut to ``frame``.

    The result's ``to_layer`` maps straight to output pixels. None where nothing of it is seen.
    """
    height, width = drawing.data.shape[:2]
    placed = [matrix @ drawing.to_layer for matrix in matrices]
    boxes = [m.box((0.0, 0.0, float(width), float(height))) for m in placed]
    around = box_around(boxes)
    seen = intersect(around, (frame[0] - 1, frame[1] - 1, frame[2] + 1, frame[3] + 1))
    if seen is None:
        return None
    left, top, right, bottom = rounded_out(seen)
    inverses = [m.inverse() for m in placed]
    places = np.array(
        [(m.a, m.c, m.apply(0.5, 0.5)[0] - 0.5, m.b, m.d, m.apply(0.5, 0.5)[1] - 0.5) for m in inverses if m]
    ).reshape(-1, 6)
    if not len(places):
        return None
    weight = 1.0 / len(placed)
    linear = in_linear_light(drawing)
    out = np.zeros((bottom - top, right - left, 4), dtype=np.float32)

    draw = partial(smear_kernels.smear, linear, width, height, places, weight)
    if np.abs(places[:, [0, 1, 3, 4]] - (1, 0, 0, 1)).max() < 1e-9:
        shifts, shares = taps(places)
        draw = partial(smear_kernels.smear_shifted, linear, width, height, shifts, weight * shares)

    def smear(first: int, last: int) -> None:
        draw(left, top + first, out[first:last])

    by_rows(bottom - top, smear, worth=len(places) * (bottom - top) * (right - left) > _WORTH_TWO)
    return Raster(out, Affine.shift(left, top))


def taps(places: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Return what placements of a picture that is only moved add up to: whole shifts, int64 (m, 2), and their shares.

    A sample between pixels is the weighted sum of four, and moments lie close together: most share their pixels, so
    that far fewer are read.
    """
    whole = np.floor(places[:, [2, 5]])
    part = places[:, [2, 5]] - whole
    corners = np.concatenate([whole + corner for corner in ((0, 0), (1, 0), (0, 1), (1, 1))])
    across, down = np.stack([1 - part[:, 0], part[:, 0]]), np.stack([1 - part[:, 1], part[:, 1]])
    shares = np.concatenate([across[x] * down[y] for x, y in ((0, 0), (1, 0), (0, 1), (1, 1))])
    # By rows, as they lie in memory.
    shifts, of = np.unique(corners.astype(np.int64)[:, ::-1], axis=0, return_inverse=True)
    summed = np.bincount(of.ravel(), shares)
    there = summed > 1e-7
    return np.ascontiguousarray(shifts[there, ::-1]), summed[there]
