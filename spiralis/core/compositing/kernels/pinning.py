"""A picture set into a quadrilateral, in perspective: as many samples a pixel as it is made smaller there."""

import numpy as np
from numba import njit

from spiralis.core.compositing.kernels.sampling import AT_ONCE, batch, sample_open

#: So many times smaller a picture may be made by one sample a pixel.
_ONE_WILL_DO = 1.1


@njit(cache=True, nogil=True)
def _samples(back, x0, x1, y, right, bottom):
    """Return how many samples across and down pixels x0 to x1 of a row need: none where all of them are clear.

    One where a pixel's picture is hardly larger than one that is sampled, as for layers that are scaled; else two,
    and more where it is made smaller. Along a row places lie on a straight line, and how much smaller they get goes
    one way, so that the two ends say enough.
    """
    most_across = most_down = 0.0
    low_u = low_v = 1e30
    high_u = high_v = -1e30
    before = True
    for x in (float(x0), float(x1)):
        depth = max(back[6] * x + back[7] * y + back[8], 1e-9)
        u, v = (back[0] * x + back[1] * y + back[2]) / depth, (back[3] * x + back[4] * y + back[5]) / depth
        across = np.sqrt((back[0] - back[6] * u) ** 2 + (back[3] - back[6] * v) ** 2) / depth
        down = np.sqrt((back[1] - back[7] * u) ** 2 + (back[4] - back[7] * v) ** 2) / depth
        most_across, most_down = max(most_across, across), max(most_down, down)
        low_u, high_u, low_v, high_v = min(low_u, u), max(high_u, u), min(low_v, v), max(high_v, v)
        before &= depth > 1e-9
    # Both ends lie beyond one edge, by more than samples within a pixel are apart.
    away = 2.0 + most_across + most_down
    if before and (low_u > right + away or high_u < -away or low_v > bottom + away or high_v < -away):
        return 0, 0
    if before and max(most_across, most_down) <= _ONE_WILL_DO:
        return 1, 1
    # Bilinear samples somewhat closer than a pixel leave nothing out.
    return max(int(min(np.ceil(1.5 * most_across), 64.0)), 2), max(int(min(np.ceil(1.5 * most_down), 64.0)), 2)


@njit(cache=True, nogil=True)
def _places(back, x, y, count, u, v):
    """Fill where pixels from x on come from; what lies behind the eye comes from far outside."""
    away = np.float32(-1e6)
    for k in range(count):
        place = x + float(k)
        depth = back[6] * place + back[7] * y + back[8]
        share = 1.0 / max(depth, 1e-9)
        across = np.float32((back[0] * place + back[1] * y + back[2]) * share)
        down = np.float32((back[3] * place + back[4] * y + back[5]) * share)
        u[k], v[k] = across if depth > 1e-9 else away, down if depth > 1e-9 else away


@njit(cache=True, nogil=True)
def pin_pixels(pixels, width, height, back, left, top, most, weight, out):
    """Add the mean of samples at each pixel times a ``weight`` to ``out`` (h, w, 4).

    ``pixels`` (flat; around them all is clear) are sampled bilinearly where ``back`` (9, rows of a 3 by 3 map) takes
    the places of output pixels, counted from (left, top); whole numbers are centres of pixels of both. Pixels that lie
    beside each other share how many samples they take, up to ``most`` by ``most``; which those are depends on their
    places alone, so that a part equals the whole.
    """
    flat = out.reshape(-1)
    columns = out.shape[1]
    u, v, corners, across, down = batch()
    for i in range(out.shape[0]):
        row = float(top + i)
        for start in range(left - left % AT_ONCE, left + columns, AT_ONCE):
            wide, high = _samples(back, start, start + AT_ONCE - 1, row, width - 2.0, height - 2.0)
            wide, high = min(wide, most), min(high, most)
            share = np.float32(weight / max(wide * high, 1))
            first = max(start, left)
            count = min(start + AT_ONCE, left + columns) - first
            target = 4 * (i * columns + first - left)
            for n in range(wide * high):
                x, y = (n % wide + 0.5) / wide - 0.5, (n // wide + 0.5) / high - 0.5
                _places(back, first + x, row + y, count, u, v)
                sample_open(flat, target, u, v, count, pixels, width, height, share, True, corners, across, down)
