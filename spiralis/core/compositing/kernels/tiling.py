"""A picture again and again, side by side."""

import numpy as np
from numba import njit

from spiralis.core.compositing.kernels.sampling import AT_ONCE, batch, sample_open


@njit(cache=True, nogil=True, inline="always")
def _odd(number):
    return number - 2.0 * np.floor(number / 2.0) == 1.0


@njit(cache=True, nogil=True)
def _within(tile, mirrored, start, size, first, last):
    """Return where in the pixels a place in tiles lies along one axis: whole numbers are the middles of pixels."""
    whole = np.floor(tile)
    part = tile - whole
    part = 1.0 - part if mirrored and _odd(whole) else part
    return min(max(start + part * size, first), last) - 0.5


@njit(cache=True, nogil=True)
def _columns(to_tiles, count, moved, mirrored, box, whole, left, u):
    """Write where the columns of a pattern that is not turned lie: ``u`` (w,), -10 where no tile stands."""
    for k in range(u.size):
        a = to_tiles[0] * (left + k + 0.5) + to_tiles[2]
        at = _within(a - moved, mirrored, box[0], box[2], whole[0], whole[2])
        u[k] = at if count == 0 or abs(a - 0.5) <= count / 2 else -10.0


@njit(cache=True, nogil=True)
def tile_pixels(pixels, width, height, to_tiles, counts, moved, mirrored, box, whole, left, top, out):
    """Write what tiles show to ``out`` (h, w, 4), whose first pixel is the one at (left, top) of the grid.

    ``pixels`` are flat, around them all is clear. ``to_tiles`` (6,) takes the middle of a pixel to tiles across and
    down, by rows; the layer's own lies from 0 to 1. ``counts`` says how many stand beside and below each other about
    it, 0 for ever. ``moved`` holds the offset across and down and what each second row is moved, in tiles. A tile is
    the ``box`` (left, top, width, height) of the pixels, and nothing is taken from beyond the middles of the outermost
    pixels that lie wholly in it: ``whole`` (left, top, right, bottom), so that nothing mixes with what lies outside.
    """
    if to_tiles[1] == 0.0 and to_tiles[3] == 0.0:
        _tile_upright(pixels, width, height, to_tiles, counts, moved, mirrored, box, whole, left, top, out)
    else:
        _tile_turned(pixels, width, height, to_tiles, counts, moved, mirrored, box, whole, left, top, out)


@njit(cache=True, nogil=True)
def _tile_upright(pixels, width, height, to_tiles, counts, moved, mirrored, box, whole, left, top, out):
    """Columns do not depend on the row, but for those of each second row: they are worked out once."""
    columns, one = out.shape[1], np.float32(1.0)
    flat = out.reshape(out.size)
    _, v, corners, across, down = batch()
    even, odd = np.empty(columns, np.float32), np.empty(columns, np.float32)
    _columns(to_tiles, counts[0], moved[0], mirrored, box, whole, left, even)
    _columns(to_tiles, counts[0], moved[0] + moved[2], mirrored, box, whole, left, odd)
    for i in range(out.shape[0]):
        b = to_tiles[4] * (top + i + 0.5) + to_tiles[5]
        inside = counts[1] == 0 or abs(b - 0.5) <= counts[1] / 2
        row = np.floor(b - moved[1])
        at = np.float32(_within(b - moved[1], mirrored, box[1], box[3], whole[1], whole[3]) if inside else -10.0)
        u = odd if _odd(row) else even
        for k in range(AT_ONCE):
            v[k] = at
        for start in range(0, columns, AT_ONCE):
            count = min(AT_ONCE, columns - start)
            o = 4 * (i * columns + start)
            sample_open(flat, o, u[start:], v, count, pixels, width, height, one, False, corners, across, down)


@njit(cache=True, nogil=True)
def _tile_turned(pixels, width, height, to_tiles, counts, moved, mirrored, box, whole, left, top, out):
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
                at, below = (
                    _within(a, mirrored, box[0], box[2], whole[0], whole[2]),
                    _within(b, mirrored, box[1], box[3], whole[1], whole[3]),
                )
                u[k] = at if inside else -10.0
                v[k] = below if inside else -10.0
            o = 4 * (i * columns + start)
            sample_open(flat, o, u, v, count, pixels, width, height, one, False, corners, across, down)
