"""Motion blur: the mean of many placements of one picture, in linear light."""

import numpy as np
from numba import njit

from spiralis.core.compositing.kernels.sampling import row_range, sample_bilinear


@njit(cache=True, nogil=True)
def _decode(value):
    if value <= np.float32(0.04045):
        return value * np.float32(1.0 / 12.92)
    return ((value + np.float32(0.055)) * np.float32(1.0 / 1.055)) ** np.float32(2.4)


@njit(cache=True, nogil=True)
def _encode(value):
    if value <= np.float32(0.0031308):
        return value * np.float32(12.92)
    return np.float32(1.055) * value ** np.float32(1.0 / 2.4) - np.float32(0.055)


@njit(cache=True, nogil=True)
def decode_premultiplied(pixels, scale, out):
    """Write sRGB premultiplied ``pixels`` (flat, times ``scale``) as linear premultiplied float32 to ``out``."""
    for i in range(0, pixels.size, 4):
        a = np.float32(pixels[i + 3]) * scale
        out[i + 3] = a
        for c in range(3):
            out[i + c] = _decode(np.float32(pixels[i + c]) * scale / a) * a if a > 0.0 else np.float32(0.0)


@njit(cache=True, nogil=True)
def smear(pixels, width, height, places, weights, x0, y0, out):
    """Average placements of linear premultiplied ``pixels`` into ``out`` (h, w, 4), then encode to sRGB.

    ``places`` (n, 6) map output pixels to source coordinates, ``weights`` (n,) add up to at most 1;
    ``out`` covers the output box that starts at (x0, y0).
    """
    rows, columns = out.shape[0], out.shape[1]
    row = np.empty(4 * columns, dtype=np.float32)
    place = np.empty(6, dtype=np.float64)
    for y in range(rows):
        line = out[y].reshape(4 * columns)
        line[:] = np.float32(0.0)
        for n in range(places.shape[0]):
            place[:] = places[n]
            place[2] += place[0] * x0 + place[1] * y0
            place[5] += place[3] * x0 + place[4] * y0
            start, stop = row_range(0, columns, y, place, width, height)
            sample_bilinear(row, start, stop, y, place, pixels, width, height, weights[n])
            for i in range(4 * start, 4 * stop):
                line[i] += row[i]
        for i in range(0, 4 * columns, 4):
            a = line[i + 3]
            if a > 0.0:
                for c in range(3):
                    line[i + c] = _encode(line[i + c] / a) * a
