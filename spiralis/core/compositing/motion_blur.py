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
#: Moments go together over such a part of the whole way at most.
FEWEST_GROUPS = 4
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
    turned = [(m, inverse) for m in placed if (inverse := m.inverse()) is not None]
    if not turned:
        return None
    places = np.array([inverse.between_pixels() for _, inverse in turned])
    share = 1.0 / len(placed)
    linear = in_linear_light(drawing)
    out = np.zeros((bottom - top, right - left, 4), dtype=np.float32)

    if np.abs(places[:, [0, 1, 3, 4]] - (1, 0, 0, 1)).max() < 1e-9:
        shifts, shares = taps(places)
        draw = partial(smear_kernels.smear_shifted, linear, width, height, shifts, share * shares)
    else:
        starts = group_starts(np.array([m for m, _ in turned]), width, height)
        counts = np.diff(np.append(starts, len(places)))
        places = np.add.reduceat(places, starts) / counts[:, None]
        draw = partial(smear_kernels.smear, linear, width, height, places, share * counts)

    def smear(first: int, last: int) -> None:
        draw(left, top + first, out[first:last])

    by_rows(bottom - top, smear, worth=len(places) * (bottom - top) * (right - left) > _WORTH_TWO)
    return Raster(out, Affine.shift(left, top))


def group_starts(matrices: np.ndarray, width: int, height: int) -> np.ndarray:
    """Return at which moments groups begin that count as one, int64 (m,): within each, nothing moves by over a pixel.

    Moments lie evenly in time: where a picture is fast for a part of it, those of the rest hardly differ. However
    little moves, no group takes more than about a quarter of the way.

    Args:
        matrices: float64 (n, 6), the ``Affine`` of each moment.
        width, height: of the picture that they place.
    """
    a, b, c, d, e, f = matrices.T
    corners = [(x, y) for x in (0.0, width) for y in (0.0, height)]
    ways = [np.hypot(np.diff(a * x + c * y + e), np.diff(b * x + d * y + f)) for x, y in corners]
    steps = np.max(ways, axis=0)
    # The time of a moment reaches half way to those beside it.
    padded = np.concatenate([steps[:1], steps, steps[-1:]]) if len(steps) else np.zeros(2)
    lengths = 0.5 * (padded[:-1] + padded[1:])
    most = min(1.0, float(lengths.sum()) / FEWEST_GROUPS)
    starts, length = [0], 0.0
    for moment, way in enumerate(lengths.tolist()):
        if length + way > most + 1e-9 and moment > starts[-1]:
            starts.append(moment)
            length = 0.0
        length += way
    return np.array(starts)


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
