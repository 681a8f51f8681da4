"""Gaussian blur of four-channel pictures, one direction after the other."""

import numpy as np
from numba import njit


@njit(cache=True, nogil=True)
def blur_rows(source, weights, out):
    """Convolve the rows of ``source`` (h, w, 4) with ``weights`` (2 r + 1,) into ``out`` (w, h, 4), turned over.

    What lies outside the picture counts as clear. Turned twice it stands as before.
    """
    height, width = source.shape[0], source.shape[1]
    radius = weights.size // 2
    row = np.zeros(4 * (width + 2 * radius), dtype=np.float32)
    for y in range(height):
        for x in range(width):
            for c in range(4):
                row[4 * (x + radius) + c] = source[y, x, c]
        for x in range(width):
            r = g = b = a = np.float32(0.0)
            for k in range(weights.size):
                w = weights[k]
                i = 4 * (x + k)
                r += w * row[i]
                g += w * row[i + 1]
                b += w * row[i + 2]
                a += w * row[i + 3]
            out[x, y, 0] = r
            out[x, y, 1] = g
            out[x, y, 2] = b
            out[x, y, 3] = a
