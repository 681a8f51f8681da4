"""Palette indices: the nearest colour of each cell of a colour cube, and whole frames by that table."""

import numpy as np
from numba import njit


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
