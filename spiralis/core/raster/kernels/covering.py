"""Pictures cut by a cover."""

import numpy as np
from numba import njit


@njit(cache=True, nogil=True)
def multiply(pixels, cover):
    """Multiply float32 (h, w, 4) pixels, in place, by a cover, uint8 (h, w): 0 is clear, 255 leaves them."""
    for y in range(cover.shape[0]):
        line, row = pixels[y], cover[y]
        for x in range(row.size):
            if row[x] != 255:
                share = np.float32(row[x]) * np.float32(1 / 255)
                for c in range(4):
                    line[x, c] *= share
