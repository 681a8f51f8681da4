"""Pixels changed as far as they are like one colour."""

import numpy as np
from numba import njit

_ZERO, _ONE, _THIRD = np.float32(0.0), np.float32(1.0), np.float32(1 / 3)


@njit(cache=True, nogil=True)
def replace_like(pixels, old, new, tolerance, softness, out):
    """Write flat float32 pixels to ``out`` where what is like a straight colour ``old`` (4,) becomes ``new`` (4,).

    Shades stay: the new colour takes on how much a pixel differs from the old one. Likeness is the root of the mean
    square difference of red, green and blue; up to ``tolerance`` all becomes new, ``softness`` further on nothing.
    """
    for i in range(0, pixels.size, 4):
        alpha = pixels[i + 3]
        if alpha <= _ZERO:
            for c in range(4):
                out[i + c] = pixels[i + c]
            continue
        away = _ZERO
        for c in range(3):
            away += (pixels[i + c] / alpha - old[c]) ** 2
        share = min(max(_ONE + (tolerance - np.sqrt(away * _THIRD)) / softness, _ZERO), _ONE)
        solid = alpha * new[3]
        for c in range(3):
            colour = max(new[c] + pixels[i + c] / alpha - old[c], _ZERO) * solid
            out[i + c] = pixels[i + c] + (colour - pixels[i + c]) * share
        out[i + 3] = alpha + (solid - alpha) * share


@njit(cache=True, nogil=True)
def clear_like(pixels, ground, way, luma, tints, tolerance, softness, cast, out):
    """Write flat float32 pixels to ``out`` where what is like a straight colour ``ground`` (3,) is clear.

    Args:
        pixels, out: premultiplied, four items each.
        ground: its tint alone, a colour less its brightness, where ``tints`` are compared.
        way: the direction (3,) of its tint, or nothing but noughts.
        luma: how bright red, green and blue are (3,).
        tints: whether tints are compared, or colours with their brightness.
        tolerance: up to so far, as the root of the mean square difference, all goes.
        softness: so much further on nothing does.
        cast: how much of the ground's tint is taken off colours whose tint is within 45 degrees of it.
    """
    for i in range(0, pixels.size, 4):
        alpha = pixels[i + 3]
        r = g = b = _ZERO
        if alpha > _ZERO:
            r, g, b = pixels[i] / alpha, pixels[i + 1] / alpha, pixels[i + 2] / alpha
        bright = r * luma[0] + g * luma[1] + b * luma[2]
        tr, tg, tb = r - bright, g - bright, b - bright
        if tints:
            away = (tr - ground[0]) ** 2 + (tg - ground[1]) ** 2 + (tb - ground[2]) ** 2
        else:
            away = (r - ground[0]) ** 2 + (g - ground[1]) ** 2 + (b - ground[2]) ** 2
        stays = min(max((np.sqrt(away * _THIRD) - tolerance) / softness, _ZERO), _ONE)
        along = tr * way[0] + tg * way[1] + tb * way[2]
        beside = np.sqrt(max(tr * tr + tg * tg + tb * tb - along * along, _ZERO))
        less = max(along - beside, _ZERO) * cast
        alpha *= stays
        out[i] = max(r - way[0] * less, _ZERO) * alpha
        out[i + 1] = max(g - way[1] * less, _ZERO) * alpha
        out[i + 2] = max(b - way[2] * less, _ZERO) * alpha
        out[i + 3] = alpha
