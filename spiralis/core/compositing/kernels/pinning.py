"""A picture set into a quadrilateral, in perspective: as many samples a pixel as it is made smaller there."""

import numpy as np
from numba import njit

from spiralis.core.compositing.kernels.lanes import lerp4, lerp_add4
from spiralis.core.compositing.kernels.sampling import bilinear_corner


@njit(cache=True, nogil=True, inline="always")
def _place(back, x, y):
    """Return where a place comes from; far outside where it lies behind the eye."""
    depth = back[6] * x + back[7] * y + back[8]
    if depth <= 1e-9:
        return -1e6, -1e6, 1.0
    return (back[0] * x + back[1] * y + back[2]) / depth, (back[3] * x + back[4] * y + back[5]) / depth, depth


@njit(cache=True, nogil=True)
def pin_pixels(pixels, width, height, back, left, top, most, out):
    """Add the mean of samples at each pixel to ``out`` (h, w, 4), which is clear.

    ``pixels`` (flat, with a clear ring) are sampled bilinearly where ``back`` (9, rows of a 3 by 3 map) takes the
    places of output pixels, counted from (left, top); whole numbers are centres of pixels of both. Where a pixel's
    picture is no larger than one of ``pixels`` and lies well inside, one sample is exact enough; else it takes 2 by 2
    or more, up to ``most`` by ``most``.
    """
    flat = out.reshape(-1)
    columns = out.shape[1]
    right, bottom = width - 3.0, height - 3.0
    for i in range(out.shape[0]):
        y = float(top + i)
        for j in range(columns):
            x = float(left + j)
            u, v, depth = _place(back, x, y)
            target = 4 * (i * columns + j)
            size = max(
                np.sqrt((back[0] - back[6] * u) ** 2 + (back[3] - back[6] * v) ** 2),
                np.sqrt((back[1] - back[7] * u) ** 2 + (back[4] - back[7] * v) ** 2),
            ) / depth
            if size <= 1.0 and 2.0 < u < right and 2.0 < v < bottom:
                p, fu, fv = bilinear_corner(u, v, width, height)
                lerp4(flat, target, pixels, p, p + 4 * width, fu, fv, np.float32(1.0))
                continue
            reach = 1.0 + size
            if u < -reach or v < -reach or u > width - 1 + reach or v > height - 1 + reach:
                continue
            count = min(max(int(np.ceil(2.0 * size)), 2), most)
            share = np.float32(1.0 / (count * count))
            for down in range(count):
                for across in range(count):
                    su, sv, _ = _place(back, x + (across + 0.5) / count - 0.5, y + (down + 0.5) / count - 0.5)
                    if -1.0 < su < width and -1.0 < sv < height:
                        p, fu, fv = bilinear_corner(su, sv, width, height)
                        lerp_add4(flat, target, pixels, p, p + 4 * width, fu, fv, share)
