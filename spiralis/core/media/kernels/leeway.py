"""How many times further a pixel may be off than one in a calm area that changes with every picture."""

import numpy as np
from numba import njit

#: Contrast around a pixel, in levels, from which on errors are seen less; how many times more they may be at most.
_CALM, _MOST = np.float32(5.0), np.float32(8.0)


@njit(cache=True, nogil=True)
def fill(mean, squares, rests, steady_powers, lossy_powers, steady, lossy):
    """Fill ``steady`` and ``lossy``, float32 (h, w).

    ``mean`` and ``squares`` are those of lightness around each pixel, in levels, ``rests``, uint8, the number of
    pictures that it rests; each number has its factor in the powers.
    """
    for y in range(mean.shape[0]):
        for x in range(mean.shape[1]):
            variance = max(squares[y, x] - mean[y, x] * mean[y, x], np.float32(0.0))
            hidden = min(np.sqrt(np.float32(1.0) + variance / (_CALM * _CALM)), _MOST)
            steady[y, x] = np.sqrt(hidden) * steady_powers[rests[y, x]]
            lossy[y, x] = hidden * lossy_powers[rests[y, x]]
