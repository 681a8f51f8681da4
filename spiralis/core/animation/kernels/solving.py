"""Solve CSS cubic-bezier easings: given x, find y.

x(s) and y(s) are cubic Beziers from (0, 0) to (1, 1). x(s) = x is solved by Newton steps inside a shrinking
bracket, so that flat places cannot throw it off, to better than 1e-12 in s.
"""

import numpy as np
from numba import njit


@njit(cache=True, nogil=True)
def solve_one(x1, y1, x2, y2, wanted):
    """Return y for one x within [0, 1]."""
    if wanted <= 0.0:
        return 0.0
    if wanted >= 1.0:
        return 1.0
    a, b, c = 1.0 - 3.0 * x2 + 3.0 * x1, 3.0 * x2 - 6.0 * x1, 3.0 * x1
    low, high, s = 0.0, 1.0, wanted
    for _ in range(60):
        x = ((a * s + b) * s + c) * s
        if x < wanted:
            low = s
        else:
            high = s
        slope = (3.0 * a * s + 2.0 * b) * s + c
        following = s - (x - wanted) / slope if slope > 1e-12 else -1.0
        if not (low < following < high):
            following = 0.5 * (low + high)
        settled = abs(following - s) < 1e-13
        s = following
        if settled:
            break
    return (((1.0 - 3.0 * y2 + 3.0 * y1) * s + (3.0 * y2 - 6.0 * y1)) * s + 3.0 * y1) * s


@njit(cache=True, nogil=True)
def solve_segments(handles, segments, shares, out):
    """Write y for each share (n,) of its segment (n,), whose handles are a row of ``handles`` (segments, 4).

    Rows of NaN stand for other easings; their items of ``out`` are left alone.
    """
    for i in range(len(shares)):
        x1, y1, x2, y2 = handles[segments[i]]
        if not np.isnan(x1):
            out[i] = solve_one(x1, y1, x2, y2, shares[i])
