"""Where many layers stand at one frame: their threads of place and opacity, then the map of each."""

import math

import numpy as np
from numba import njit

from spiralis.core.animation.kernels.solving import solve_one
from spiralis.core.compositing.kernels.sampling import doubles_at

#: What a layer's row holds: position, scale, rotation, skew, pivot, opacity.
POSITION, SCALE, ROTATION, SKEW, PIVOT, OPACITY, COLUMNS = 0, 2, 4, 5, 7, 9, 10
#: A key in memory: its frame, two components of its value, the four handles of the ease to the next one.
KEY = 7


@njit(cache=True, nogil=True)
def _write(row, column, parts, keys, count, frame):
    """Write a thread's value at a frame by the sums of ``animation/tracks.py``: a straight mix of two keys."""
    if frame < keys[0] or count == 1:
        for part in range(parts):
            row[column + part] = keys[1 + part]
        return
    last, progress = (count - 2) * KEY, 1.0
    if frame < keys[(count - 1) * KEY]:
        low, high = 0, count - 1
        while high - low > 1:
            middle = (low + high) // 2
            if keys[middle * KEY] <= frame:
                low = middle
            else:
                high = middle
        last = low * KEY
        share = (frame - keys[last]) / (keys[last + KEY] - keys[last])
        progress = solve_one(keys[last + 3], keys[last + 4], keys[last + 5], keys[last + 6], share)
    for part in range(parts):
        start, end = keys[last + 1 + part], keys[last + KEY + 1 + part]
        row[column + part] = start + progress * (end - start)


@njit(cache=True, nogil=True)
def _turn(degrees):
    """Return cosine and sine as ``Affine.rotation`` has them: exact at right angles."""
    quarter, rest = np.floor(degrees / 90.0), degrees % 90.0
    if rest == 0.0:
        which = int(quarter) % 4
        return float((which == 0) - (which == 2)), float((which == 1) - (which == 3))
    return math.cos(math.radians(degrees)), math.sin(math.radians(degrees))


@njit(cache=True, nogil=True)
def place_all(frame, tracks, low, high, boxes, to_grid, rows, maps):
    """Evaluate ``tracks`` at a frame into ``rows``, and write the map of each layer to the grid.

    Args:
        tracks: int64 (t, 5): the row, the first column, how many components, how many keys, the address of the keys.
        low, high: float64 (COLUMNS,), what values are clipped to.
        boxes: float64 (n, 4), the content box of each layer.
        to_grid: float64 (6,), from the composition to the grid.
        rows: float64 (n, COLUMNS), holding what rests.
        maps: float64 (n, 6), written: the numbers of ``Affine``, the same as ``geometry.placement`` gives.
    """
    for t in range(tracks.shape[0]):
        keys = doubles_at(tracks[t, 4], tracks[t, 3] * KEY)
        row, column = rows[tracks[t, 0]], tracks[t, 1]
        _write(row, column, tracks[t, 2], keys, tracks[t, 3], frame)
        for part in range(column, column + tracks[t, 2]):
            row[part] = min(max(row[part], low[part]), high[part])
    ga, gb, gc, gd, ge, gf = to_grid
    for n in range(rows.shape[0]):
        row, box = rows[n], boxes[n]
        x = box[0] + (box[2] - box[0]) * row[PIVOT] / 100
        y = box[1] + (box[3] - box[1]) * row[PIVOT + 1] / 100
        cosine, sine = _turn(row[ROTATION])
        a, b, c, d = cosine, sine, -sine, cosine
        if row[SKEW] != 0.0 or row[SKEW + 1] != 0.0:
            v, w = math.tan(math.radians(row[SKEW + 1])), math.tan(math.radians(row[SKEW]))
            a, b, c, d = a + c * v, b + d * v, a * w + c, b * w + d
        across, down = row[SCALE] / 100, row[SCALE + 1] / 100
        a, b, c, d = a * across, b * across, c * down, d * down
        e, f = row[POSITION] - a * x - c * y, row[POSITION + 1] - b * x - d * y
        m = maps[n]
        m[0], m[1], m[2], m[3] = ga * a + gc * b, gb * a + gd * b, ga * c + gc * d, gb * c + gd * d
        m[4], m[5] = ga * e + gc * f + ge, gb * e + gd * f + gf
