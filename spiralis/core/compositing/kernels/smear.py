"""Motion blur: the mean of many placements of one picture, in linear light."""

import numpy as np
from numba import njit

from spiralis.core.compositing.kernels.lanes import fold8, lerp_sum8
from spiralis.core.compositing.kernels.light import encode_premultiplied
from spiralis.core.compositing.kernels.sampling import row_range

#: So many pixels of a line are added up together: one placement after the other, while their sums lie at hand.
_BLOCK = 32


@njit(cache=True, nogil=True)
def average(pixels, width, height, places, weight, x0, y0, out):
    """Write the sum of placements of premultiplied ``pixels`` (flat, with a clear ring), ``weight`` times, to ``out``.

    ``places`` (n, 6) map output pixels to source coordinates; ``out`` (h, w, 4) covers the output box that starts at
    (x0, y0).
    """
    _average(pixels, width, height, places, np.float32(weight), x0, y0, out, False)


@njit(cache=True, nogil=True)
def smear(pixels, width, height, places, weight, x0, y0, out):
    """Average placements of linear premultiplied ``pixels`` as ``average`` does, then encode to sRGB."""
    _average(pixels, width, height, places, np.float32(weight), x0, y0, out, True)


@njit(cache=True, nogil=True)
def _average(pixels, width, height, places, weight, x0, y0, out, encoding):
    count, wide = places.shape[0], out.shape[1]
    # As seen from the corner of the output box.
    moved = places.copy()
    for n in range(count):
        moved[n, 2] += places[n, 0] * x0 + places[n, 1] * y0
        moved[n, 5] += places[n, 3] * x0 + places[n, 4] * y0
    spans = np.empty((count, 2), dtype=np.int64)
    sums = np.empty(8 * _BLOCK, dtype=np.float32)
    corners = np.empty(_BLOCK, dtype=np.int32)
    across, down = np.empty(_BLOCK, dtype=np.float32), np.empty(_BLOCK, dtype=np.float32)
    for y in range(out.shape[0]):
        line = out[y].reshape(4 * wide)
        for n in range(count):
            spans[n, 0], spans[n, 1] = row_range(0, wide, y, moved[n], width, height)
        for start in range(0, wide, _BLOCK):
            stop = min(start + _BLOCK, wide)
            sums[:] = np.float32(0.0)
            for n in range(count):
                first, last = max(spans[n, 0], start), min(spans[n, 1], stop)
                if first < last:
                    _find(start, y, moved[n], width, height, corners, across, down)
                    for k in range(first - start, last - start):
                        lerp_sum8(sums, 8 * k, pixels, corners, across, down, k, 4 * width)
            for x in range(start, stop):
                fold8(line, 4 * x, sums, 8 * (x - start), weight)
        if encoding:
            encode_premultiplied(line)


@njit(cache=True, nogil=True)
def _find(start, y, place, width, height, corners, across, down):
    """Work out where a block of output pixels lies: the first item of the upper left pixel, and the way beyond it.

    Always for a whole block, and without a branch, so that several are worked out at once.
    """
    zero, right, bottom = np.float32(0.0), np.float32(width - 1), np.float32(height - 1)
    wide, last_u, last_v, four = np.int32(width), np.int32(width - 2), np.int32(height - 2), np.int32(4)
    du, u0 = np.float32(place[0]), np.float32(place[1] * y + place[2])
    dv, v0 = np.float32(place[3]), np.float32(place[4] * y + place[5])
    for k in range(_BLOCK):
        x = np.float32(np.int32(start + k))
        u, v = min(max(du * x + u0, zero), right), min(max(dv * x + v0, zero), bottom)
        iu, iv = min(np.int32(u), last_u), min(np.int32(v), last_v)
        across[k], down[k] = u - np.float32(iu), v - np.float32(iv)
        corners[k] = np.int32(np.int32(np.int32(iv * wide) + iu) * four)
