"""Colours through tables: each channel by its own curve, or all by brightness; and exposure in linear light."""

import numpy as np
from numba import njit

from spiralis.core.compositing.kernels.light import _decoded, _encoded


@njit(cache=True, nogil=True, inline="always")
def _at(table, start, last, value):
    """Return what a table of ``last`` + 1 items from ``start`` says for a value of 0 to 1, mixed between items."""
    place = min(max(value, np.float32(0.0)), np.float32(1.0)) * np.float32(last)
    low = min(int(place), last - 1)
    share = place - np.float32(low)
    return table[start + low] + share * (table[start + low + 1] - table[start + low])


@njit(cache=True, nogil=True)
def curve_pixels(pixels, tables, out):
    """Write premultiplied pixels (flat, 4 items each) with each straight channel through its table to ``out``.

    ``tables`` are three float32 tables of one length, one after the other.
    """
    count = tables.size // 3
    for i in range(0, pixels.size, 4):
        a = pixels[i + 3]
        k = np.float32(1.0) / a if a > 0.0 else np.float32(0.0)
        for c in range(3):
            out[i + c] = _at(tables, c * count, count - 1, pixels[i + c] * k) * a
        out[i + 3] = a


@njit(cache=True, nogil=True)
def tone_pixels(pixels, tables, out):
    """Write premultiplied pixels (flat) as the colours that a table gives their straight brightness (BT.709 weights).

    ``tables`` are four float32 tables of one length: red, green, blue and alpha of the straight new colour.
    """
    count = tables.size // 4
    red, green, blue = np.float32(0.2126), np.float32(0.7152), np.float32(0.0722)
    for i in range(0, pixels.size, 4):
        a = pixels[i + 3]
        k = np.float32(1.0) / a if a > 0.0 else np.float32(0.0)
        y = (red * pixels[i] + green * pixels[i + 1] + blue * pixels[i + 2]) * k
        own = _at(tables, 3 * count, count - 1, y) * a
        for c in range(3):
            out[i + c] = _at(tables, c * count, count - 1, y) * own
        out[i + 3] = own


@njit(cache=True, nogil=True)
def expose_pixels(pixels, gain, out):
    """Write premultiplied pixels (flat) with their linear light times ``gain`` to ``out``; values over 1 stay."""
    for i in range(0, pixels.size, 4):
        a = pixels[i + 3]
        k = np.float32(1.0) / a if a > 0.0 else np.float32(0.0)
        for c in range(3):
            out[i + c] = _encoded(_decoded(max(pixels[i + c] * k, np.float32(0.0))) * gain) * a
        out[i + 3] = a


@njit(cache=True, nogil=True)
def mean_of_places(pixels, width, height, places, x0, y0, out):
    """Fill ``out`` (h, w, 4) with the mean of premultiplied ``pixels`` (flat) sampled bilinearly under many maps.

    ``places`` (n, 6) map pixels of the grid, the first of ``out`` being (x0, y0), to pixels of the source as
    u = p0 x + p1 y + p2, v = p3 x + p4 y + p5; outside all is clear.
    """
    share = np.float32(1.0 / places.shape[0])
    for row in range(out.shape[0]):
        for column in range(out.shape[1]):
            x, y = x0 + column, y0 + row
            for c in range(4):
                out[row, column, c] = np.float32(0.0)
            for n in range(places.shape[0]):
                u = places[n, 0] * x + places[n, 1] * y + places[n, 2]
                v = places[n, 3] * x + places[n, 4] * y + places[n, 5]
                if not (-1.0 < u < width and -1.0 < v < height):
                    continue
                left, top = int(np.floor(u)), int(np.floor(v))
                fx, fy = np.float32(u - left), np.float32(v - top)
                for corner in range(4):
                    cx, cy = left + (corner & 1), top + (corner >> 1)
                    if 0 <= cx < width and 0 <= cy < height:
                        wx = fx if corner & 1 else np.float32(1.0) - fx
                        wy = fy if corner >> 1 else np.float32(1.0) - fy
                        weight = share * wx * wy
                        p = 4 * (cy * width + cx)
                        for c in range(4):
                            out[row, column, c] += weight * pixels[p + c]
