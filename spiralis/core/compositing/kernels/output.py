"""From float32 premultiplied pixels to what leaves the program: 8-bit RGBA and 8-bit YUV 4:2:0.

Dithering is ordered, by interleaved gradient noise (Jimenez, *Next Generation Post Processing*, 2014): the
threshold depends on the place alone, so flat areas stand still from frame to frame. A value that is an
exact 8-bit level comes out as that level.
"""

import numpy as np
from numba import njit

from spiralis.core.compositing.kernels.lanes import bytes4

TILE = 128


def _thresholds() -> np.ndarray:
    """Return the dither thresholds of a tile that repeats, float32 within 1/64 to 63/64."""
    y, x = np.mgrid[0:TILE, 0:TILE].astype(np.float64)
    inner = 52.9829189 * ((0.06711056 * x + 0.00583715 * y) % 1.0)
    return (0.015625 + 0.96875 * (inner % 1.0)).astype(np.float32)


THRESHOLDS = _thresholds()


@njit(cache=True, nogil=True, inline="always")
def _level(value, limit):
    return np.uint8(min(max(value, np.float32(0.0)), limit))


@njit(cache=True, nogil=True)
def store_rgba(source, first, out, y0, y1, width, dither, straight):
    """Write rows y0..y1 of ``out`` (height, width, 4) uint8; row y0 starts at item ``first`` of ``source``.

    ``straight`` divides by alpha (for files), else the result stays premultiplied (for the screen).
    """
    full, half, one = np.float32(255.0), np.float32(0.5), np.float32(1.0)
    flat = out.reshape(out.size)
    for y in range(y0, y1):
        i = first + 4 * width * (y - y0)
        if not straight:
            o = 4 * width * y
            for x in range(width):
                t = THRESHOLDS[y % TILE, x % TILE] if dither else half
                bytes4(flat, o + 4 * x, source, i + 4 * x, t)
            continue
        for x in range(width):
            t = THRESHOLDS[y % TILE, x % TILE] if dither else half
            a = min(max(source[i + 3], np.float32(0.0)), one)
            k = full / a if a > 0.0 else np.float32(0.0)
            out[y, x, 0] = _level(source[i] * k + t, full)
            out[y, x, 1] = _level(source[i + 1] * k + t, full)
            out[y, x, 2] = _level(source[i + 2] * k + t, full)
            out[y, x, 3] = _level(a * full + half, full)
            i += 4


@njit(cache=True, nogil=True)
def store_yuv(source, first, luma, cb, cr, y0, y1, width, height, dither):
    """Write rows y0..y1 (y0 even) as BT.709 limited range planes; the picture lies over black.

    Source: ITU-R BT.709-6. The planes have even sizes; a missing last column or row repeats its neighbour.
    Chroma is the mean of two by two pixels.
    """
    half = np.float32(0.5)
    wide = luma.shape[1]
    rows = luma.shape[0] if y1 == height else y1
    top = np.float32(255.0)
    for y in range(y0, rows):
        i = first + 4 * width * (min(y, height - 1) - y0)
        for x in range(wide):
            j = i + 4 * min(x, width - 1)
            value = np.float32(0.2126) * source[j] + np.float32(0.7152) * source[j + 1]
            value = min(max(value + np.float32(0.0722) * source[j + 2], np.float32(0.0)), np.float32(1.0))
            t = THRESHOLDS[y % TILE, x % TILE] if dither else half
            luma[y, x] = _level(np.float32(16.0) + np.float32(219.0) * value + t, top)
    for y in range(y0, rows, 2):
        upper = first + 4 * width * (min(y, height - 1) - y0)
        lower = first + 4 * width * (min(y + 1, height - 1) - y0)
        for x in range(0, wide, 2):
            left, right = 4 * min(x, width - 1), 4 * min(x + 1, width - 1)
            r = g = b = np.float32(0.0)
            for base in (upper + left, upper + right, lower + left, lower + right):
                r += min(max(source[base], np.float32(0.0)), np.float32(1.0))
                g += min(max(source[base + 1], np.float32(0.0)), np.float32(1.0))
                b += min(max(source[base + 2], np.float32(0.0)), np.float32(1.0))
            light = np.float32(0.2126) * r + np.float32(0.7152) * g + np.float32(0.0722) * b
            t = THRESHOLDS[y % TILE, x % TILE] if dither else half
            blue = np.float32(224.0 * 0.25 / 1.8556) * (b - light)
            red = np.float32(224.0 * 0.25 / 1.5748) * (r - light)
            cb[y // 2, x // 2] = _level(np.float32(128.0) + blue + t, top)
            cr[y // 2, x // 2] = _level(np.float32(128.0) + red + t, top)
