"""Motion blur: the mean of many placements of one picture, in linear light."""

import numpy as np
from numba import njit

from spiralis.core.colour import linear_to_srgb, srgb_to_linear
from spiralis.core.compositing.kernels.sampling import add_bilinear, row_range

_STEPS = 4096


def _table(curve) -> np.ndarray:
    return curve(np.linspace(0.0, 1.0, _STEPS + 1)).astype(np.float32)


#: sRGB to linear by value; linear to sRGB by the value's square root, where the curve is nearly straight.
TO_LINEAR = _table(srgb_to_linear)
FROM_LINEAR = _table(lambda root: linear_to_srgb(root * root))


@njit(cache=True, nogil=True, inline="always")
def _look_up(table, place):
    place = min(max(place, np.float32(0.0)), np.float32(1.0)) * np.float32(_STEPS)
    low = min(int(place), _STEPS - 1)
    return table[low] + (place - np.float32(low)) * (table[low + 1] - table[low])


@njit(cache=True, nogil=True)
def decode_premultiplied(pixels, scale, out):
    """Write sRGB premultiplied ``pixels`` (flat, times ``scale``) as linear premultiplied float32 to ``out``."""
    for i in range(0, pixels.size, 4):
        a = np.float32(pixels[i + 3]) * scale
        out[i + 3] = a
        k = scale / a if a > 0.0 else np.float32(0.0)
        for c in range(3):
            out[i + c] = _look_up(TO_LINEAR, np.float32(pixels[i + c]) * k) * a


@njit(cache=True, nogil=True)
def encode_premultiplied(line):
    """Turn linear premultiplied float32 pixels (flat) into sRGB premultiplied ones, in place."""
    for i in range(0, line.size, 4):
        a = line[i + 3]
        if a > 0.0:
            k = np.float32(1.0) / a
            for c in range(3):
                line[i + c] = _look_up(FROM_LINEAR, np.sqrt(max(line[i + c], np.float32(0.0)) * k)) * a


@njit(cache=True, nogil=True)
def smear(pixels, width, height, places, weights, x0, y0, out):
    """Average placements of linear premultiplied ``pixels`` into ``out`` (h, w, 4), then encode to sRGB.

    ``places`` (n, 6) map output pixels to source coordinates, ``weights`` (n,) add up to at most 1;
    ``out`` covers the output box that starts at (x0, y0).
    """
    rows, columns = out.shape[0], out.shape[1]
    place = np.empty(6, dtype=np.float64)
    for y in range(rows):
        line = out[y].reshape(4 * columns)
        line[:] = np.float32(0.0)
        for n in range(places.shape[0]):
            place[:] = places[n]
            place[2] += place[0] * x0 + place[1] * y0
            place[5] += place[3] * x0 + place[4] * y0
            start, stop = row_range(0, columns, y, place, width, height)
            add_bilinear(line, start, stop, y, place, pixels, width, height, weights[n])
        encode_premultiplied(line)
