"""Places on a cubic way by how much of its length has been travelled."""

import math

import numpy as np
from numba import njit

#: Newton steps at the most, and what is too small a step to go on.
_STEPS, _SETTLED = 8, 1e-13


@njit(cache=True, nogil=True, inline="always")
def _speed(bends, s):
    u = 1.0 - s
    first, second, third = 3.0 * u * u, 6.0 * u * s, 3.0 * s * s
    across = first * bends[0, 0] + second * bends[1, 0] + third * bends[2, 0]
    down = first * bends[0, 1] + second * bends[1, 1] + third * bends[2, 1]
    return math.sqrt(across * across + down * down)


@njit(cache=True, nogil=True, inline="always")
def _piece_at(lengths, wanted):
    """Return the last piece that begins at a length or before it; the first where none does."""
    low, high = 0, lengths.size - 2
    while low < high:
        middle = (low + high + 1) // 2
        if lengths[middle] <= wanted:
            low = middle
        else:
            high = middle - 1
    return low


@njit(cache=True, nogil=True)
def parameters_at(points, ends, lengths, nodes, weights, wanted):
    """Return the parameters (n,) at which a cubic with control points (4, 2) has the lengths ``wanted`` (n,).

    ``ends`` and ``lengths`` (pieces + 1) are parameters and lengths where its pieces end. Within a piece the length is
    inverted by a linear guess and Newton steps, with Gauss-Legendre quadrature (``nodes``, ``weights``) of the speed.
    """
    bends = points[1:] - points[:-1]
    found = np.empty(wanted.size)
    for n in range(wanted.size):
        piece = _piece_at(lengths, wanted[n])
        low, high = ends[piece], ends[piece + 1]
        size = lengths[piece + 1] - lengths[piece]
        s = low + ((wanted[n] - lengths[piece]) / size if size > 0.0 else 0.0) * (high - low)
        for _ in range(_STEPS):
            half, travelled = 0.5 * (s - low), lengths[piece]
            for k in range(nodes.size):
                travelled += weights[k] * half * _speed(bends, low + half * (nodes[k] + 1.0))
            slope = _speed(bends, s)
            step = (travelled - wanted[n]) / slope if slope > 1e-9 else 0.0
            following = min(max(s - step, low), high)
            settled = abs(following - s) < _SETTLED
            s = following
            if settled:
                break
        found[n] = s
    return found
