"""The blend formulas, per pixel and per row.

Source: W3C, *Compositing and Blending Level 1*, sections 9 and 10. Pixels are premultiplied; the mixed
colour is B(cb, cs) on straight colours, laid over by source-over. Modes are numbered as in BLEND_MODES.
"""

import numpy as np
from numba import njit

from spiralis.core.compositing.kernels.modes import (
    burn_pixels,
    cling_pixels,
    cut_through_pixels,
    darken_pixels,
    difference_pixels,
    dodge_pixels,
    exclusion_pixels,
    hard_light_pixels,
    keep_within_pixels,
    lighten_pixels,
    multiply_pixels,
    over_pixels,
    overlay_pixels,
    plus_lighter_pixels,
    screen_pixels,
    slip_under_pixels,
    soft_light_pixels,
)

NORMAL, MULTIPLY, SCREEN, OVERLAY, DARKEN, LIGHTEN, DODGE, BURN = range(8)
HARD_LIGHT, SOFT_LIGHT, DIFFERENCE, EXCLUSION, HUE, SATURATION, COLOR, LUMINOSITY, PLUS_LIGHTER = range(8, 17)
CUT_THROUGH, CLING, KEEP_WITHIN, SLIP_UNDER = range(17, 21)


@njit(cache=True, nogil=True, inline="always")
def _lum(r, g, b):
    return np.float32(0.3) * r + np.float32(0.59) * g + np.float32(0.11) * b


@njit(cache=True, nogil=True)
def _set_lum(r, g, b, lum):
    one = np.float32(1.0)
    d = lum - _lum(r, g, b)
    r, g, b = r + d, g + d, b + d
    lum = _lum(r, g, b)
    low, high = min(r, g, b), max(r, g, b)
    # Rounding can leave a grey a hair outside, where there is nothing to pull in and no range to divide by.
    if low < 0.0 and lum > low:
        k = lum / (lum - low)
        r, g, b = lum + (r - lum) * k, lum + (g - lum) * k, lum + (b - lum) * k
    if high > one and high > lum:
        k = (one - lum) / (high - lum)
        r, g, b = lum + (r - lum) * k, lum + (g - lum) * k, lum + (b - lum) * k
    return r, g, b


@njit(cache=True, nogil=True)
def _set_sat(r, g, b, sat):
    low, high = min(r, g, b), max(r, g, b)
    zero = np.float32(0.0)
    if high <= low:
        return zero, zero, zero
    k = sat / (high - low)
    return (r - low) * k, (g - low) * k, (b - low) * k


@njit(cache=True, nogil=True)
def _non_separable(mode, br, bg, bb, sr, sg, sb):
    if mode == HUE:
        r, g, b = _set_sat(sr, sg, sb, max(br, bg, bb) - min(br, bg, bb))
        return _set_lum(r, g, b, _lum(br, bg, bb))
    if mode == SATURATION:
        r, g, b = _set_sat(br, bg, bb, max(sr, sg, sb) - min(sr, sg, sb))
        return _set_lum(r, g, b, _lum(br, bg, bb))
    if mode == COLOR:
        return _set_lum(sr, sg, sb, _lum(br, bg, bb))
    return _set_lum(br, bg, bb, _lum(sr, sg, sb))


@njit(cache=True, nogil=True)
def over_row(source, target):
    """Lay float32 source pixels over the target's; both flat, four items a pixel, of one size."""
    over_pixels(target, source)


@njit(cache=True, nogil=True)
def _blend_row_premultiplied(mode, source, target):
    """Do the modes whose channels are mixed each by itself; return whether it is one of those."""
    if mode == NORMAL:
        over_pixels(target, source)
    elif mode == MULTIPLY:
        multiply_pixels(target, source)
    elif mode == SCREEN:
        screen_pixels(target, source)
    elif mode == OVERLAY:
        overlay_pixels(target, source)
    elif mode == DARKEN:
        darken_pixels(target, source)
    elif mode == LIGHTEN:
        lighten_pixels(target, source)
    elif mode == DODGE:
        dodge_pixels(target, source)
    elif mode == BURN:
        burn_pixels(target, source)
    elif mode == SOFT_LIGHT:
        soft_light_pixels(target, source)
    elif mode == HARD_LIGHT:
        hard_light_pixels(target, source)
    elif mode == DIFFERENCE:
        difference_pixels(target, source)
    elif mode == EXCLUSION:
        exclusion_pixels(target, source)
    elif mode == PLUS_LIGHTER:
        plus_lighter_pixels(target, source)
    elif mode == CUT_THROUGH:
        cut_through_pixels(target, source)
    elif mode == CLING:
        cling_pixels(target, source)
    elif mode == KEEP_WITHIN:
        keep_within_pixels(target, source)
    elif mode == SLIP_UNDER:
        slip_under_pixels(target, source)
    else:
        return False
    return True


@njit(cache=True, nogil=True)
def blend_row(mode, source, target):
    """Blend float32 source pixels onto the target's in one of the modes; arguments as for ``over_row``."""
    if _blend_row_premultiplied(mode, source, target):
        return
    one = np.float32(1.0)
    for i in range(0, target.size, 4):
        sa, ba = source[i + 3], target[i + 3]
        if sa <= 0.0:
            continue
        if ba <= 0.0:
            for c in range(4):
                target[i + c] = source[i + c]
            continue
        sr, sg, sb = source[i] / sa, source[i + 1] / sa, source[i + 2] / sa
        br, bg, bb = target[i] / ba, target[i + 1] / ba, target[i + 2] / ba
        r, g, b = _non_separable(mode, br, bg, bb, sr, sg, sb)
        both = sa * ba
        target[i] = (one - ba) * source[i] + (one - sa) * target[i] + both * r
        target[i + 1] = (one - ba) * source[i + 1] + (one - sa) * target[i + 1] + both * g
        target[i + 2] = (one - ba) * source[i + 2] + (one - sa) * target[i + 2] + both * b
        target[i + 3] = sa + ba - both
