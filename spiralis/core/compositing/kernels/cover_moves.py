"""One channel that says how far a picture covers: moved by parts of pixels, and given a colour."""

import numpy as np
from numba import njit

from spiralis.core.compositing.kernels.lanes import scale4


@njit(cache=True, nogil=True)
def move_cover(cover, x, y, fx, fy, out):
    """Write float32 (h, w) ``cover`` moved by whole pixels x, y and parts fx, fy of 0 to 1, bilinearly, to ``out``.

    What comes in at the edges is clear.
    """
    height, width = cover.shape
    clear = np.zeros(width, dtype=np.float32)
    one = np.float32(1.0)
    first, last = min(max(x + 1, 0), width), max(min(width + x, width), 0)
    for i in range(height):
        near = cover[i - y] if 0 <= i - y < height else clear
        far = cover[i - y - 1] if 0 <= i - y - 1 < height else clear
        line = out[i]
        line[:] = np.float32(0.0)
        if 0 <= x < width:
            line[x] = (one - fx) * ((one - fy) * near[0] + fy * far[0])
        if first < last:
            count = last - first
            there, before = near[first - x : first - x + count], near[first - x - 1 : first - x - 1 + count]
            below, beside = far[first - x : first - x + count], far[first - x - 1 : first - x - 1 + count]
            part = line[first:last]
            for j in range(count):
                upper = there[j] + fx * (before[j] - there[j])
                lower = below[j] + fx * (beside[j] - below[j])
                part[j] = upper + fy * (lower - upper)
        if 0 <= width + x < width:
            line[width + x] = fx * ((one - fy) * near[width - 1] + fy * far[width - 1])


@njit(cache=True, nogil=True)
def colour_cover(cover, left, top, colour, out):
    """Write a premultiplied colour (4,) as far as ``cover`` (float32, from column left and row top on) to ``out``."""
    columns = out.shape[1]
    flat = out.reshape(out.size)
    for i in range(out.shape[0]):
        part = cover[top + i, left : left + columns]
        for j in range(columns):
            scale4(flat, 4 * (i * columns + j), colour, 0, part[j])
