"""From float32 premultiplied pixels to what leaves the program: 8-bit RGBA and 8-bit YUV 4:2:0.

Dithering is ordered, by interleaved gradient noise (Jimenez, *Next Generation Post Processing*, 2014): the
threshold depends on the place alone, so flat areas stand still from frame to frame. A value that is an
exact 8-bit level comes out as that level.
"""

import numpy as np
from numba import njit

from spiralis.core.compositing.kernels.lanes import bytes4
from spiralis.core.compositing.kernels.light_lanes import CLEAR
from spiralis.core.compositing.kernels.planes import chroma8, luma8

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
def store_rgba(source, first, out, y0, y1, width, dither, straight, left=0, top=0):
    """Write rows y0..y1 of ``out`` (height, width, 4) uint8; row y0 starts at item ``first`` of ``source``.

    ``out`` is the part of a picture that begins at (left, top): a part is dithered as the whole is.
    ``straight`` divides by alpha (for files), else the result stays premultiplied (for the screen).
    """
    full, half, one = np.float32(255.0), np.float32(0.5), np.float32(1.0)
    flat = out.reshape(out.size)
    for y in range(y0, y1):
        i, thresholds = first + 4 * width * (y - y0), THRESHOLDS[(y + top) % TILE]
        if not straight:
            o = 4 * width * y
            for x in range(width):
                t = thresholds[(x + left) % TILE] if dither else half
                bytes4(flat, o + 4 * x, source, i + 4 * x, t)
            continue
        for x in range(width):
            t = thresholds[(x + left) % TILE] if dither else half
            a = min(max(source[i + 3], np.float32(0.0)), one)
            k = full / a if a > CLEAR else np.float32(0.0)
            out[y, x, 0] = _level(source[i] * k + t, full)
            out[y, x, 1] = _level(source[i + 1] * k + t, full)
            out[y, x, 2] = _level(source[i + 2] * k + t, full)
            out[y, x, 3] = _level(a * full + half, full)
            i += 4


@njit(cache=True, nogil=True)
def _store_block(pixels, upper, lower, thresholds, t, luma, o, wide, cb, cr, q):
    """Write the planes of 16 by 2 pixels; items and places are of flat arrays, a row of ``luma`` is ``wide``."""
    for x in (0, 8):
        luma8(pixels, upper + 4 * x, thresholds, t + x, luma, o + x)
        luma8(pixels, lower + 4 * x, thresholds, t + TILE + x, luma, o + wide + x)
    chroma8(pixels, upper, lower, thresholds, t, cb, cr, q)


@njit(cache=True, nogil=True)
def _store_last(source, upper, lower, count, thresholds, t, luma, o, wide, cb, cr, q):
    """Write what is left of a row: fewer than 16 pixels, of which the last is repeated."""
    pixels = np.empty(128, dtype=np.float32)
    lights, blues, reds = np.empty(32, dtype=np.uint8), np.empty(8, dtype=np.uint8), np.empty(8, dtype=np.uint8)
    for k in range(16):
        for c in range(4):
            i = 4 * min(k, count - 1) + c
            pixels[4 * k + c], pixels[64 + 4 * k + c] = source[upper + i], source[lower + i]
    _store_block(pixels, 0, 64, thresholds, t, lights, 0, 16, blues, reds, 0)
    even = count + count % 2
    for k in range(even):
        luma[o + k], luma[o + wide + k] = lights[k], lights[16 + k]
    for k in range(even // 2):
        cb[q + k], cr[q + k] = blues[k], reds[k]


@njit(cache=True, nogil=True)
def store_yuv(source, first, luma, cb, cr, y0, y1, width, height, dither):
    """Write rows y0..y1 (y0 even) as BT.709 limited range planes; the picture lies over black.

    Source: ITU-R BT.709-6. The planes have even sizes; a missing last column or row repeats its neighbour.
    Chroma is the mean of two by two pixels.
    """
    wide = luma.shape[1]
    rows = luma.shape[0] if y1 == height else y1
    thresholds = np.full(TILE * TILE, np.float32(0.5), dtype=np.float32)
    if dither:
        thresholds = THRESHOLDS.reshape(TILE * TILE)
    light, blue, red = luma.reshape(luma.size), cb.reshape(cb.size), cr.reshape(cr.size)
    whole = width // 16 * 16
    for y in range(y0, rows, 2):
        upper = first + 4 * width * (min(y, height - 1) - y0)
        lower = first + 4 * width * (min(y + 1, height - 1) - y0)
        o, q, t = wide * y, wide // 2 * (y // 2), TILE * (y % TILE)
        for x in range(0, whole, 16):
            u, v, n = upper + 4 * x, lower + 4 * x, t + x % TILE
            _store_block(source, u, v, thresholds, n, light, o + x, wide, blue, red, q + x // 2)
        if whole < width:
            u, v, n = upper + 4 * whole, lower + 4 * whole, t + whole % TILE
            left = width - whole
            _store_last(source, u, v, left, thresholds, n, light, o + whole, wide, blue, red, q + whole // 2)
