"""Between sRGB-encoded and linear light, premultiplied, values over 1 kept (IEC 61966-2-1)."""

import numpy as np
from numba import njit

from spiralis.core.colour import linear_to_srgb, srgb_to_linear
from spiralis.core.compositing.kernels.lanes import lookup4, lookup_root4

_STEPS = 4096
#: What is clearer than this is clear: one over its alpha would leave what float32 can hold. Light that lies over
#: what is hardly there is no brighter than this, beside its alpha, for the same reason.
CLEAR = np.float32(1e-20)
_BRIGHTEST = np.float32(1e6)


def _table(curve) -> np.ndarray:
    return curve(np.linspace(0.0, 1.0, _STEPS + 1)).astype(np.float32)


#: sRGB to linear by value; linear to sRGB by the value's square root, where the curve is nearly straight.
TO_LINEAR = _table(srgb_to_linear)
FROM_LINEAR = _table(lambda root: linear_to_srgb(root * root))


@njit(cache=True, nogil=True, inline="always")
def looked_up(table, start, last, value):
    """Return what a table of ``last`` + 1 items from ``start`` says for a value of 0 to 1, mixed between items."""
    place = min(max(value, np.float32(0.0)), np.float32(1.0)) * np.float32(last)
    low = min(int(place), last - 1)
    share = place - np.float32(low)
    return table[start + low] + share * (table[start + low + 1] - table[start + low])


@njit(cache=True, nogil=True, inline="always")
def decoded(value):
    """Return the linear light of an sRGB value."""
    if value <= np.float32(1.0):
        return looked_up(TO_LINEAR, 0, _STEPS, value)
    return np.float32(((value + 0.055) / 1.055) ** 2.4)


@njit(cache=True, nogil=True, inline="always")
def encoded(value):
    """Return the sRGB value of linear light."""
    if value <= np.float32(1.0):
        return looked_up(FROM_LINEAR, 0, _STEPS, np.sqrt(max(value, np.float32(0.0))))
    return np.float32(1.055 * value ** (1.0 / 2.4) - 0.055)


@njit(cache=True, nogil=True)
def decode_premultiplied(pixels, scale, out):
    """Write sRGB premultiplied ``pixels`` (flat, times ``scale``) as linear premultiplied float32 to ``out``.

    Both may be the same array.
    """
    one = np.float32(1.0)
    for i in range(0, pixels.size, 4):
        a = np.float32(pixels[i + 3]) * scale
        k = scale / a if a > CLEAR else np.float32(0.0)
        if max(pixels[i], pixels[i + 1], pixels[i + 2]) * k <= one:
            lookup4(out, i, pixels, i, k, TO_LINEAR, 0, _STEPS, a)
            continue
        for c in range(3):
            out[i + c] = decoded(min(np.float32(pixels[i + c]) * k, _BRIGHTEST)) * a
        out[i + 3] = a


@njit(cache=True, nogil=True)
def encode_premultiplied(line):
    """Turn linear premultiplied float32 pixels (flat) into sRGB premultiplied ones, in place."""
    for i in range(0, line.size, 4):
        a = line[i + 3]
        if a > CLEAR:
            k = np.float32(1.0) / a
            if max(line[i], line[i + 1], line[i + 2]) * k <= np.float32(1.0):
                lookup_root4(line, i, line, i, k, FROM_LINEAR, 0, _STEPS, a)
                continue
            for c in range(3):
                line[i + c] = encoded(line[i + c] * k) * a
