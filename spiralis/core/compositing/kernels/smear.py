"""Motion blur: the mean of many placements of one picture, in linear light."""

import numpy as np
from numba import njit

from spiralis.core.compositing.kernels.lanes import fold8, lerp_sum8
from spiralis.core.compositing.kernels.light import encode_premultiplied
from spiralis.core.compositing.kernels.sampling import BLOCK, find, row_range


@njit(cache=True, nogil=True)
def average(pixels, width, height, places, weights, x0, y0, out):
    """Write the weighted sum of placements of premultiplied ``pixels`` (flat, with a clear ring) to ``out``.

    ``places`` (n, 6) map output pixels to source coordinates, each counts ``weights`` (n,) times; ``out`` (h, w, 4)
    covers the output box that starts at (x0, y0).
    """
    _average(pixels, width, height, places, weights, x0, y0, out, False)


@njit(cache=True, nogil=True)
def smear(pixels, width, height, places, weights, x0, y0, out):
    """Average placements of linear premultiplied ``pixels`` as ``average`` does, then encode to sRGB."""
    _average(pixels, width, height, places, weights, x0, y0, out, True)


@njit(cache=True, nogil=True)
def _add_times(sums, items, share):
    """Add items times a share; on slices, whose bounds are known, several are added at once."""
    by = np.float32(share)
    for k in range(sums.size):
        sums[k] += by * items[k]


@njit(cache=True, nogil=True)
def smear_shifted(pixels, width, height, shifts, shares, x0, y0, out):
    """Write the sum of linear premultiplied ``pixels`` (flat, clear around) moved by whole pixels to ``out``, encoded.

    ``shifts`` (n, 2) lead from output pixels to those that count for them across and down, each ``shares`` (n,) times;
    ``out`` (h, w, 4) begins at (x0, y0).
    """
    wide = out.shape[1]
    for i in range(out.shape[0]):
        line = out[i].reshape(4 * wide)
        line[:] = np.float32(0.0)
        for n in range(shifts.shape[0]):
            row, left = y0 + i + shifts[n, 1], x0 + shifts[n, 0]
            if row < 0 or row >= height:
                continue
            first, last = max(-left, 0), min(width - left, wide)
            if first < last:
                start = 4 * (row * width + left)
                _add_times(line[4 * first : 4 * last], pixels[start + 4 * first : start + 4 * last], shares[n])
        encode_premultiplied(line)


@njit(cache=True, nogil=True)
def smear_projected(pixels, width, height, backs, weights, left, top, out):
    """Write the weighted sum of linear premultiplied ``pixels`` (flat, with a clear ring) seen in perspective to
    ``out`` (h, w, 4), encoded to sRGB.

    ``backs`` (n, 9), rows of 3 by 3 maps, take output pixels to source coordinates, whole numbers being centres of
    pixels of both; ``out`` begins at (left, top). One sample a pixel and moment; what lies behind the eye is clear.
    """
    wide, count = out.shape[1], backs.shape[0]
    sums, corners, across, down = _room()
    for i in range(out.shape[0]):
        line = out[i].reshape(4 * wide)
        for start in range(0, wide, BLOCK):
            stop = min(start + BLOCK, wide)
            sums[:] = np.float32(0.0)
            for n in range(count):
                if _beside(backs[n], left + start, left + start + BLOCK - 1, top + i, width, height):
                    continue
                _find_projected(left + start, top + i, backs[n], width, height, corners, across, down)
                weight = np.float32(weights[n])
                for k in range(stop - start):
                    lerp_sum8(sums, 8 * k, pixels, corners, across, down, k, 4 * width, weight)
            for x in range(start, stop):
                fold8(line, 4 * x, sums, 8 * (x - start))
        encode_premultiplied(line)


@njit(cache=True, nogil=True)
def _room():
    """Return room for the sums of a block, and for where its pixels come from."""
    part = np.empty(BLOCK, dtype=np.float32)
    return np.empty(8 * BLOCK, dtype=np.float32), np.empty(BLOCK, dtype=np.int32), part, part.copy()


@njit(cache=True, nogil=True)
def _average(pixels, width, height, places, weights, x0, y0, out, encoding):
    count, wide = places.shape[0], out.shape[1]
    # As seen from the corner of the output box.
    moved = places.copy()
    for n in range(count):
        moved[n, 2] += places[n, 0] * x0 + places[n, 1] * y0
        moved[n, 5] += places[n, 3] * x0 + places[n, 4] * y0
    spans = np.empty((count, 2), dtype=np.int64)
    sums, corners, across, down = _room()
    for y in range(out.shape[0]):
        line = out[y].reshape(4 * wide)
        for n in range(count):
            spans[n, 0], spans[n, 1] = row_range(0, wide, y, moved[n], width, height)
        for start in range(0, wide, BLOCK):
            stop = min(start + BLOCK, wide)
            sums[:] = np.float32(0.0)
            for n in range(count):
                first, last = max(spans[n, 0], start), min(spans[n, 1], stop)
                if first < last:
                    weight = np.float32(weights[n])
                    find(start, y, moved[n], width, height, corners, across, down)
                    for k in range(first - start, last - start):
                        lerp_sum8(sums, 8 * k, pixels, corners, across, down, k, 4 * width, weight)
            for x in range(start, stop):
                fold8(line, 4 * x, sums, 8 * (x - start))
        if encoding:
            encode_premultiplied(line)


@njit(cache=True, nogil=True)
def _find_projected(start, y, back, width, height, corners, across, down):
    """Do as ``find`` under a projective map."""
    right, bottom = float(width - 1), float(height - 1)
    wide, last_u, last_v, four = np.int32(width), np.int32(width - 2), np.int32(height - 2), np.int32(4)
    u0, v0, w0 = back[1] * y + back[2], back[4] * y + back[5], back[7] * y + back[8]
    du, dv, dw = back[0], back[3], back[6]
    for k in range(BLOCK):
        x = float(np.int32(start + k))
        depth = dw * x + w0
        share = 1.0 / max(depth, 1e-9)
        u, v = min(max((du * x + u0) * share, 0.0), right), min(max((dv * x + v0) * share, 0.0), bottom)
        u = u if depth > 1e-9 else 0.0
        iu, iv = min(np.int32(u), last_u), min(np.int32(v), last_v)
        across[k], down[k] = np.float32(u - iu), np.float32(v - iv)
        corners[k] = np.int32(np.int32(np.int32(iv * wide) + iu) * four)


@njit(cache=True, nogil=True)
def _beside(back, x0, x1, y, width, height):
    """Whether pixels x0 to x1 of a row all lie beyond one edge: their places lie on a line, so its ends tell."""
    low_u = low_v = 1e30
    high_u = high_v = -1e30
    for x in (float(x0), float(x1)):
        depth = back[6] * x + back[7] * y + back[8]
        if depth <= 1e-9:
            return False
        u, v = (back[0] * x + back[1] * y + back[2]) / depth, (back[3] * x + back[4] * y + back[5]) / depth
        low_u, high_u, low_v, high_v = min(low_u, u), max(high_u, u), min(low_v, v), max(high_v, v)
    return low_u >= width or high_u <= -1.0 or low_v >= height or high_v <= -1.0
