"""Where pixels lie in the coarse cells of a frame, and how much of them lies within it."""

import numpy as np
from numba import njit


@njit(cache=True, nogil=True)
def place(inverse, left, top, cells, size, across, down, cover):
    """Fill ``across`` and ``down``, how many cells beyond the middle of the first one each pixel's middle lies, and
    ``cover``, how much of it lies within (0, 0) to ``size`` units: float32 (h, w), the first pixel at (left, top).

    ``inverse``, six numbers, leads from pixels to units; ``cells`` are the width and height of a cell in units, and how
    many whole cells the first one lies beyond (0, 0). Places are rounded to 1/32 of a cell on the grid of all cells.
    """
    a, b, c, d, e, f = inverse
    wide, high, first_x, first_y = cells
    by_x, by_y = 1 / np.sqrt(a * a + c * c), 1 / np.sqrt(b * b + d * d)
    half, end_x, end_y = 0.5, size[0] * by_x + 0.5, size[1] * by_y + 0.5
    fine_x, fine_y = 32 / wide, 32 / high
    for row in range(cover.shape[0]):
        y = top + row + half
        for column in range(cover.shape[1]):
            x = left + column + half
            u, v = a * x + c * y + e, b * x + d * y + f
            across[row, column] = np.floor(u * fine_x + half) / 32 - (first_x + half)
            down[row, column] = np.floor(v * fine_y + half) / 32 - (first_y + half)
            inside_x = min(max(u * by_x + half, 0.0), 1.0) * min(max(end_x - u * by_x, 0.0), 1.0)
            inside_y = min(max(v * by_y + half, 0.0), 1.0) * min(max(end_y - v * by_y, 0.0), 1.0)
            cover[row, column] = inside_x * inside_y
