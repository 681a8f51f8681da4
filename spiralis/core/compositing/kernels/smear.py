"""Motion blur: the mean of many placements of one picture, in linear light."""

import numpy as np
from numba import njit

from spiralis.core.compositing.kernels.light import encode_premultiplied
from spiralis.core.compositing.kernels.sampling import add_bilinear, row_range


@njit(cache=True, nogil=True)
def average(pixels, width, height, places, weights, x0, y0, out):
    """Add up placements of premultiplied ``pixels`` (flat, with a clear ring) times their weights in ``out`` (h, w, 4).

    ``places`` (n, 6) map output pixels to source coordinates; ``out`` covers the output box that starts at (x0, y0).
    """
    for y in range(out.shape[0]):
        _average_row(pixels, width, height, places, weights, x0, y0, y, out[y].reshape(4 * out.shape[1]))


@njit(cache=True, nogil=True)
def _average_row(pixels, width, height, places, weights, x0, y0, y, line):
    place = np.empty(6, dtype=np.float64)
    line[:] = np.float32(0.0)
    for n in range(places.shape[0]):
        place[:] = places[n]
        place[2] += place[0] * x0 + place[1] * y0
        place[5] += place[3] * x0 + place[4] * y0
        start, stop = row_range(0, line.size // 4, y, place, width, height)
        add_bilinear(line, start, stop, y, place, pixels, width, height, weights[n])


@njit(cache=True, nogil=True)
def smear(pixels, width, height, places, weights, x0, y0, out):
    """Average placements of linear premultiplied ``pixels`` as ``average`` does, then encode to sRGB.

    ``weights`` (n,) add up to at most 1.
    """
    for y in range(out.shape[0]):
        line = out[y].reshape(4 * out.shape[1])
        _average_row(pixels, width, height, places, weights, x0, y0, y, line)
        encode_premultiplied(line)
