"""A picture again and again, side by side."""

import numpy as np
from numba import njit

from spiralis.core.compositing.kernels.sampling import AT_ONCE, batch, sample_open


@njit(cache=True, nogil=True, inline="always")
def _odd(number):
    return number - 2.0 * np.floor(number / 2.0) == 1.0


@njit(cache=True, nogil=True)
def tile_pixels(pixels, width, height, to_tiles, counts, moved, mirrored, box, whole, left, top, out):
    """Write what tiles show to ``out`` (h, w, 4), whose first pixel is the one at (left, top) of the grid.

    ``pixels`` are flat, around them all is clear. ``to_tiles`` (6,) takes the middle of a pixel to tiles across and
    down, by rows; the layer's own lies from 0 to 1. ``counts`` says how many stand beside and below each other about
    it, 0 for ever. ``moved`` holds the offset across and down and what each second row is moved, in tiles. A tile is
    the ``box`` (left, top, width, height) of the pixels, and nothing is taken from beyond the middles of the outermost
    pixels that lie wholly in it: ``whole`` (left, top, right, bottom), so that nothing mixes with what lies outside.
    """
    columns, one = out.shape[1], np.float32(1.0)
    flat = out.reshape(out.size)
    u, v, corners, across, down = batch()
    for i in range(out.shape[0]):
        y = top + i + 0.5
        for start in range(0, columns, AT_ONCE):
            count = min(AT_ONCE, columns - start)
            for k in range(count):
                x = left + start + k + 0.5
                a = to_tiles[0] * x + to_tiles[1] * y + to_tiles[2]
                b = to_tiles[3] * x + to_tiles[4] * y + to_tiles[5]
                inside = (counts[0] == 0 or abs(a - 0.5) <= counts[0] / 2) and (
                    counts[1] == 0 or abs(b - 0.5) <= counts[1] / 2
                )
                b -= moved[1]
                row = np.floor(b)
                a -= moved[0] + (moved[2] if _odd(row) else 0.0)
                column = np.floor(a)
                a, b = a - column, b - row
                if mirrored:
                    a = 1.0 - a if _odd(column) else a
                    b = 1.0 - b if _odd(row) else b
                a = min(max(box[0] + a * box[2], whole[0]), whole[2])
                b = min(max(box[1] + b * box[3], whole[1]), whole[3])
                # Whole numbers are the middles of pixels.
                u[k] = a - 0.5 if inside else -10.0
                v[k] = b - 0.5 if inside else -10.0
            o = 4 * (i * columns + start)
            sample_open(flat, o, u, v, count, pixels, width, height, one, False, corners, across, down)
