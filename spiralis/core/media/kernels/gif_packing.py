"""GIF pictures: which palette colour each pixel gets and keeps, and how they are packed (LZW, variable width)."""

import numpy as np
from numba import njit

#: Codes are 12 bits wide at most.
MOST = 4096


@njit(cache=True, nogil=True)
def _far(colours, k, r, g, b):
    """Return the squared difference of a palette colour from another, weighted after the eye (BT.709, softened)."""
    dr, dg, db = colours[k, 0] - r, colours[k, 1] - g, colours[k, 2] - b
    return np.float32(0.3) * dr * dr + np.float32(0.5) * dg * dg + np.float32(0.2) * db * db


@njit(cache=True, nogil=True)
def _nearest(colours, lookup, beside, r, g, b):
    """Return the palette colour nearest to r, g, b in levels: that of their cell, or one of those beside it."""
    cell = ((np.int32(r) >> 2) * 64 + (np.int32(g) >> 2)) * 64 + (np.int32(b) >> 2)
    best = np.int32(lookup[cell])
    least = _far(colours, best, r, g, b)
    if least > 0:
        for n in range(beside.shape[1]):
            other = beside[lookup[cell], n]
            if other < 0:
                break
            distance = _far(colours, other, r, g, b)
            if distance < least:
                best, least = other, distance
    return best, least


@njit(cache=True, nogil=True)
def choose(rgba, colours, transparent, lookup, beside, thresholds, reach, steady, before, out):
    """Write the palette index of each straight uint8 pixel (h, w, 4).

    ``lookup`` and ``beside`` are the palette's. ``thresholds`` (n, n), 0 to 1, is a dither's pattern and ``reach`` its
    width in levels. A pixel keeps its index of ``before`` (h, w; 255 and more than the palette: none) while that is off
    by ``steady`` levels at most, beside what the dither itself is off.
    """
    side, count = thresholds.shape[0], colours.shape[0]
    most = (steady + np.float32(0.5) * reach) ** 2
    keeps = steady > 0
    for y in range(rgba.shape[0]):
        for x in range(rgba.shape[1]):
            if transparent >= 0 and rgba[y, x, 3] < 128:
                out[y, x] = transparent
                continue
            r, g, b = np.float32(rgba[y, x, 0]), np.float32(rgba[y, x, 1]), np.float32(rgba[y, x, 2])
            near, least = _nearest(colours, lookup, beside, r, g, b)
            held = before[y, x]
            if keeps and held < count and held != near and _far(colours, held, r, g, b) <= max(most, least):
                out[y, x] = held
                continue
            if least == 0 or reach == 0:
                out[y, x] = near
                continue
            t = (thresholds[y % side, x % side] - np.float32(0.5)) * reach
            r = min(max(r + t, np.float32(0.0)), np.float32(255.0))
            g = min(max(g + t, np.float32(0.0)), np.float32(255.0))
            b = min(max(b + t, np.float32(0.0)), np.float32(255.0))
            out[y, x] = _nearest(colours, lookup, beside, r, g, b)[0]


@njit(cache=True, nogil=True)
def diffuse(rgba, colours, transparent, lookup, beside, share, steady, before, out):
    """Write palette indices as ``choose`` does, each pixel's error handed on to its neighbours to the given ``share``.

    Source of the weights: Floyd and Steinberg (1976); rows run there and back in turn.
    """
    height, width, count = rgba.shape[0], rgba.shape[1], colours.shape[0]
    errors = np.zeros((2, width + 2, 3), dtype=np.float32)
    most, keeps = np.float32(steady * steady), steady > 0
    for y in range(height):
        here, below = errors[y % 2], errors[(y + 1) % 2]
        below[:] = 0
        step = 1 if y % 2 == 0 else -1
        x = 0 if step > 0 else width - 1
        for _ in range(width):
            if transparent >= 0 and rgba[y, x, 3] < 128:
                out[y, x] = transparent
                x += step
                continue
            r = min(max(rgba[y, x, 0] + here[x + 1, 0], np.float32(0.0)), np.float32(255.0))
            g = min(max(rgba[y, x, 1] + here[x + 1, 1], np.float32(0.0)), np.float32(255.0))
            b = min(max(rgba[y, x, 2] + here[x + 1, 2], np.float32(0.0)), np.float32(255.0))
            k, _ = _nearest(colours, lookup, beside, r, g, b)
            held = before[y, x]
            free = keeps and held < count and held != k
            if free and _far(colours, held, r, g, b) <= max(most, _far(colours, k, r, g, b)):
                k = held
            out[y, x] = k
            for c in range(3):
                value = r if c == 0 else (g if c == 1 else b)
                error = (value - colours[k, c]) * share
                here[x + 1 + step, c] += error * np.float32(7 / 16)
                below[x + 1 - step, c] += error * np.float32(3 / 16)
                below[x + 1, c] += error * np.float32(5 / 16)
                below[x + 1 + step, c] += error * np.float32(1 / 16)
            x += step


@njit(cache=True, nogil=True)
def changed_box(index, before):
    """Return left, top, right, bottom of what differs; empty where nothing does."""
    left, top, right, bottom = index.shape[1], index.shape[0], 0, 0
    for y in range(index.shape[0]):
        for x in range(index.shape[1]):
            if index[y, x] != before[y, x]:
                left, right = min(left, x), max(right, x + 1)
                top, bottom = min(top, y), max(bottom, y + 1)
    return left, top, right, bottom


@njit(cache=True, nogil=True)
def pack(index, before, left, top, right, bottom, clear, near, bits, table, stamp, out):
    """Pack a box of palette indices with LZW into ``out``; return how many bytes that took and the next stamp.

    Where a pixel is what it was ``before`` it may also be written as ``clear`` (-1: no such index): whichever goes on
    with the string that is under way. ``near`` (n, m) lists for each colour those that may stand for it, nearest first,
    -1 for no more; what is written in its stead is put into ``index``. ``table`` is int32 (4096, 256) and keeps strings
    as stamp * 4096 + code, so that it need not be emptied. Source: GIF89a, appendix F.
    """
    start, stop = 1 << bits, (1 << bits) + 1
    width, following = bits + 1, stop + 1
    place, held, count = 0, 0, 0
    held |= start << count
    count += width
    node = -1
    for y in range(top, bottom):
        for x in range(left, right):
            own = np.int32(index[y, x])
            free = clear >= 0 and index[y, x] == before[y, x]
            if node < 0:
                node = clear if free else own
                continue
            child = -1
            symbol = own
            if free:
                entry = table[node, clear]
                if entry >> 12 == stamp:
                    child, symbol = entry & 4095, clear
            if child < 0:
                entry = table[node, own]
                if entry >> 12 == stamp:
                    child = entry & 4095
            if child < 0 and not free:
                for n in range(near.shape[1]):
                    other = near[own, n]
                    if other < 0:
                        break
                    entry = table[node, other]
                    if entry >> 12 == stamp:
                        child = entry & 4095
                        index[y, x] = other
                        break
            if child >= 0:
                node = child
                continue
            held |= node << count
            count += width
            while count >= 8:
                out[place] = held & 255
                place += 1
                held >>= 8
                count -= 8
            symbol = clear if free else own
            if following < MOST:
                table[node, symbol] = (stamp << 12) | following
                if following == 1 << width:
                    width += 1
                following += 1
            else:
                held |= start << count
                count += width
                while count >= 8:
                    out[place] = held & 255
                    place += 1
                    held >>= 8
                    count -= 8
                stamp += 1
                width, following = bits + 1, stop + 1
            node = symbol
    if node >= 0:
        held |= node << count
        count += width
        while count >= 8:
            out[place] = held & 255
            place += 1
            held >>= 8
            count -= 8
        if following == 1 << width and width < 12:
            width += 1
    held |= stop << count
    count += width
    while count > 0:
        out[place] = held & 255
        place += 1
        held >>= 8
        count -= 8
    return place, stamp + 1
