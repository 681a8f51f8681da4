"""Screens of dots and lines, as print has them."""

import numpy as np
from numba import njit

_ZERO, _ONE, _HALF = np.float32(0.0), np.float32(1.0), np.float32(0.5)


@njit(cache=True, nogil=True)
def print_screen(pixels, near, across, down, shape, heights, pixel, own, tone, ink, paper, out):
    """Write what is printed of float32 (h, w, 4) premultiplied ``pixels`` to ``out``.

    The screen is the sum of two waves, cut at the height above which it has as much of its area as is to be inked:
    round dots where there is little ink, round holes where there is much.

    Args:
        near: the pixels softened, which say how bright it is around each.
        across, down: cosine and sine of both waves' phases, (4, w) for the columns and (4, h) for the rows: the phase
            of a pixel is the sum of its column's and its row's.
        shape: how much each wave counts (2,).
        heights: the heights above which the screen has 0 to all of its area, in equal steps.
        pixel: how much of a dot's distance a pixel is.
        own: whether what is inked keeps its colours, else it is ``ink``, premultiplied (4,); so is ``paper``.
        tone: brightness of red, green and blue, then what is added to it (4,): how much is inked.
    """
    height, width = out.shape[:2]
    steepest, least = np.float32(2 * np.pi) * pixel, pixel
    if shape[0] > 0:
        least = np.float32(np.pi) * pixel * pixel
    gentlest = _HALF * (np.float32(np.pi) * pixel) ** 2
    fine = min(max(_HALF / pixel - _ONE, _ZERO), _ONE)
    last = heights.size - 1
    for i in range(height):
        ca, sa, cd, sd = down[0, i], down[1, i], down[2, i], down[3, i]
        for j in range(width):
            alpha, seen = pixels[i, j, 3], near[i, j, 3]
            bright = _ONE
            if seen > np.float32(1e-6):
                r, g, b = near[i, j, 0], near[i, j, 1], near[i, j, 2]
                bright = min(max((r * tone[0] + g * tone[1] + b * tone[2]) / seen, _ZERO), _ONE)
            share = abs(bright - tone[3])
            place = share * np.float32(last)
            step = min(int(place), last - 1)
            high = heights[step] + (heights[step + 1] - heights[step]) * (place - np.float32(step))
            # The cosine and sine of a sum of two phases.
            a, c = across[0, j] * ca - across[1, j] * sa, across[2, j] * cd - across[3, j] * sd
            b, d = across[1, j] * ca + across[0, j] * sa, across[3, j] * cd + across[2, j] * sd
            hills = shape[0] * a + shape[1] * c
            steep = steepest * np.sqrt((shape[0] * b) ** 2 + (shape[1] * d) ** 2)
            cover = min(max(_HALF + (hills - high) / max(steep, gentlest), _ZERO), _ONE)
            # What is smaller than a pixel fades, and so do holes; a screen finer than the pixels is an even tone.
            cover *= min(share / least, _ONE)
            cover = _ONE - (_ONE - cover) * min((_ONE - share) / least, _ONE)
            cover = share + (cover - share) * fine
            for k in range(4):
                inked = pixels[i, j, k] if own else ink[k] * alpha
                out[i, j, k] = inked * cover + paper[k] * alpha * (_ONE - cover)
