"""Colour steps on rows of premultiplied pixels, several fused into one pass."""

import numpy as np
from numba import njit

from spiralis.core.compositing.kernels.lanes import colour4

_BLOCK = 4096


@njit(cache=True, nogil=True)
def colour_row(line, x0, x1, steps, count, share):
    """Change pixels x0..x1 of a flat float32 row by ``count`` steps, in place, by a ``share`` of 0 to 1.

    ``steps`` holds 16 float32 a step, four columns of four: what one unit of red, green, blue and alpha gives of each
    (alpha stays as it is). After each step nothing is below zero.
    """
    part = np.float32(share)
    before = np.empty(4, dtype=np.float32)
    for i in range(4 * x0, 4 * x1, 4):
        for c in range(4):
            before[c] = line[i + c]
        for step in range(count):
            colour4(line, i, steps, 16 * step)
        if part != np.float32(1.0):
            for c in range(4):
                line[i + c] = before[c] + (line[i + c] - before[c]) * part


@njit(cache=True, nogil=True)
def mix_towards(pixels, colour, share, out):
    """Write float32 (h, w, 4) premultiplied pixels to ``out``, each mixed with a straight colour (3,) by its share of
    0 to 1, (h, w); alpha stays."""
    for i in range(out.shape[0]):
        for j in range(out.shape[1]):
            part, alpha = share[i, j], pixels[i, j, 3]
            for c in range(3):
                out[i, j, c] = pixels[i, j, c] + (colour[c] * alpha - pixels[i, j, c]) * part
            out[i, j, 3] = alpha


@njit(cache=True, nogil=True)
def colour_pixels(pixels, steps, count):
    """Change flat float32 pixels (4 items each) by ``count`` steps in place; see ``colour_row``."""
    # So many at a time stay in the fastest cache for all of the steps.
    for first in range(0, pixels.size, _BLOCK):
        last = min(first + _BLOCK, pixels.size)
        for step in range(count):
            for i in range(first, last, 4):
                colour4(pixels, i, steps, 16 * step)
