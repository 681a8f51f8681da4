"""Between sRGB-encoded and linear light, premultiplied, values over 1 kept (IEC 61966-2-1)."""

import numpy as np
from numba import njit

from spiralis.core.compositing.kernels.light_lanes import CLEAR, decode4, decode16, encode4, encode16, within4, within16

#: Light that lies over what is hardly there is no brighter than this, beside its alpha, as float32 holds no more.
_BRIGHTEST = np.float32(1e6)


@njit(cache=True, nogil=True, inline="always")
def decoded(value):
    """Return the linear light of an sRGB value, exactly."""
    return np.float32(((value + 0.055) / 1.055) ** 2.4 if value > 0.04045 else max(value, 0.0) / 12.92)


@njit(cache=True, nogil=True, inline="always")
def encoded(value):
    """Return the sRGB value of linear light, exactly."""
    return np.float32(1.055 * value ** (1.0 / 2.4) - 0.055 if value > 0.0031308 else max(value, 0.0) * 12.92)


@njit(cache=True, nogil=True)
def decode_premultiplied(pixels, scale, out):
    """Write sRGB premultiplied ``pixels`` (flat, times ``scale``) as linear premultiplied float32 to ``out``.

    Both may be the same array. Within 1e-6 of the standard's curve; four pixels at once where none is over 1.
    """
    for start in range(0, pixels.size, 16):
        if start + 16 <= pixels.size and within16(pixels, start, scale):
            decode16(out, start, pixels, scale)
            continue
        # What a pixel becomes never depends on those beside it.
        for i in range(start, min(start + 16, pixels.size), 4):
            if within4(pixels, i, scale):
                decode4(out, i, pixels, scale)
                continue
            a = np.float32(pixels[i + 3]) * scale
            k = scale / a if a > CLEAR else np.float32(0.0)
            for c in range(3):
                out[i + c] = decoded(min(np.float32(pixels[i + c]) * k, _BRIGHTEST)) * a
            out[i + 3] = a


@njit(cache=True, nogil=True)
def encode_premultiplied(line):
    """Turn linear premultiplied float32 pixels (flat) into sRGB premultiplied ones, in place, within 1e-6."""
    one = np.float32(1.0)
    for start in range(0, line.size, 16):
        if start + 16 <= line.size and within16(line, start, one):
            encode16(line, start, line, one)
            continue
        for i in range(start, min(start + 16, line.size), 4):
            a = line[i + 3]
            if within4(line, i, one):
                encode4(line, i, line, one)
            elif a > CLEAR:
                for c in range(3):
                    line[i + c] = encoded(line[i + c] / a) * a
