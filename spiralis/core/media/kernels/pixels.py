"""Premultiply, trim and halve 8-bit pictures, each with a transparent ring of one pixel around it."""

import numpy as np
from numba import njit

#: So many items are looked at together.
_AT_ONCE = 16


@njit(cache=True, nogil=True)
def visible_bounds(rgba):
    """Return (left, top, right, bottom) of the pixels of ``rgba`` (h, w, 4) that are not clear; zeros for none."""
    height, width = rgba.shape[0], rgba.shape[1]
    left, right, top, bottom = width, 0, height, 0
    for y in range(height):
        first = -1
        for x in range(width):
            if rgba[y, x, 3] != 0:
                first = x
                break
        if first < 0:
            continue
        top, bottom = min(top, y), y + 1
        left = min(left, first)
        for x in range(width - 1, max(first, right - 1) - 1, -1):
            if rgba[y, x, 3] != 0:
                right = max(right, x + 1)
                break
    if bottom == 0:
        return 0, 0, 0, 0
    return left, top, right, bottom


@njit(cache=True, nogil=True)
def _clear(row, start):
    """Whether the next ``_AT_ONCE`` items of a row are all 0; without a branch, so that they are read at once."""
    found = row[start]
    for k in range(1, _AT_ONCE):
        found |= row[start + k]
    return found == 0


@njit(cache=True, nogil=True)
def filled_bounds(words):
    """Return (left, top, right, bottom) of the items of unsigned ``words`` (h, w) that are not 0; zeros for none."""
    height, width = words.shape
    left, right, top, bottom = width, 0, height, 0
    for y in range(height):
        row = words[y]
        first = 0
        while first + _AT_ONCE <= width and _clear(row, first):
            first += _AT_ONCE
        while first < width and row[first] == 0:
            first += 1
        if first == width:
            continue
        top, bottom = min(top, y), y + 1
        left = min(left, first)
        last, least = width, max(right, first + 1)
        while last - _AT_ONCE >= least and _clear(row, last - _AT_ONCE):
            last -= _AT_ONCE
        while last > least and row[last - 1] == 0:
            last -= 1
        right = max(right, last)
    if bottom == 0:
        return 0, 0, 0, 0
    return left, top, right, bottom


@njit(cache=True, nogil=True)
def premultiply_into(rgba, left, top, out):
    """Write the part of straight ``rgba`` that begins at (left, top), premultiplied, inside the ring of ``out``.

    Both hold a pixel as one little-endian uint32 (h, w). Division by 255, rounded, goes without dividing
    (Blinn, *Three Wrongs Make a Right*, 1995), red and blue in one multiplication.
    """
    pair, half = np.uint32(0xFF00FF), np.uint32(0x800080)
    eight, low, one_half = np.uint32(8), np.uint32(0xFF), np.uint32(0x80)
    for y in range(1, out.shape[0] - 1):
        source = rgba[top + y - 1]
        target = out[y]
        for x in range(1, out.shape[1] - 1):
            pixel = source[left + x - 1]
            alpha = pixel >> np.uint32(24)
            outer = (pixel & pair) * alpha + half
            outer = ((outer + ((outer >> eight) & pair)) >> eight) & pair
            green = ((pixel >> eight) & low) * alpha + one_half
            green = ((green + (green >> eight)) >> eight) & low
            target[x] = (alpha << np.uint32(24)) | (green << eight) | outer


@njit(cache=True, nogil=True)
def halve_into(pixels, out):
    """Write the mean of two by two pixels inside the ring; both have rings, and odd edges count as clear.

    Both hold a pixel as one uint32 (h, w); two channels are summed at a time.
    """
    height, width = pixels.shape[0], pixels.shape[1]
    pair, half = np.uint32(0xFF00FF), np.uint32(0x20002)
    two, eight = np.uint32(2), np.uint32(8)
    for y in range(1, out.shape[0] - 1):
        upper = pixels[2 * y - 1]
        # The ring beyond an odd edge is clear, so it stands in for the pixels that are missing.
        lower = pixels[min(2 * y, height - 1)]
        target = out[y]
        for x in range(1, out.shape[1] - 1):
            near, far = 2 * x - 1, min(2 * x, width - 1)
            a, b, c, d = upper[near], upper[far], lower[near], lower[far]
            outer = ((a & pair) + (b & pair) + (c & pair) + (d & pair) + half) >> two
            inner = ((a >> eight) & pair) + ((b >> eight) & pair) + ((c >> eight) & pair) + ((d >> eight) & pair)
            inner = (inner + half) >> two
            target[x] = (outer & pair) | ((inner & pair) << eight)
