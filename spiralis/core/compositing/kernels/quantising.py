"""Palette indices: the nearest colour of each cell of a colour cube, and whole frames by that table."""

import numpy as np
from numba import njit

from spiralis.core.compositing.kernels.output import THRESHOLDS, TILE


@njit(cache=True, nogil=True)
def _nearest(colours, r, g, b):
    best, least = 0, np.float32(1e12)
    for k in range(colours.shape[0]):
        # Weights after the eye's sensitivity (BT.709 luma, softened towards equal).
        dr, dg, db = colours[k, 0] - r, colours[k, 1] - g, colours[k, 2] - b
        distance = np.float32(0.3) * dr * dr + np.float32(0.5) * dg * dg + np.float32(0.2) * db * db
        if distance < least:
            best, least = k, distance
    return best, least


@njit(cache=True, nogil=True)
def nearest_table(colours, side):
    """Return the nearest colour's index for each cell of a colour cube, uint8 (side ** 3,)."""
    table = np.empty(side * side * side, dtype=np.uint8)
    step = np.float32(256.0 / side)
    half = np.float32(0.5)
    for r in range(side):
        for g in range(side):
            for b in range(side):
                found = _nearest(colours, (r + half) * step - half, (g + half) * step - half, (b + half) * step - half)
                table[(r * side + g) * side + b] = found[0]
    return table


@njit(cache=True, nogil=True)
def index_pixels(rgba, colours, transparent, lookup, reach, out):
    """Write the palette index of each straight uint8 pixel; ``reach`` is the dither's width in levels."""
    for y in range(rgba.shape[0]):
        for x in range(rgba.shape[1]):
            if transparent >= 0 and rgba[y, x, 3] < 128:
                out[y, x] = transparent
                continue
            r, g, b = np.int32(rgba[y, x, 0]), np.int32(rgba[y, x, 1]), np.int32(rgba[y, x, 2])
            near = lookup[((r >> 2) * 64 + (g >> 2)) * 64 + (b >> 2)]
            if colours[near, 0] == r and colours[near, 1] == g and colours[near, 2] == b:
                out[y, x] = near
                continue
            t = (THRESHOLDS[y % TILE, x % TILE] - np.float32(0.5)) * reach
            r = np.int32(min(max(r + t, np.float32(0.0)), np.float32(255.0)))
            g = np.int32(min(max(g + t, np.float32(0.0)), np.float32(255.0)))
            b = np.int32(min(max(b + t, np.float32(0.0)), np.float32(255.0)))
            out[y, x] = lookup[((r >> 2) * 64 + (g >> 2)) * 64 + (b >> 2)]
