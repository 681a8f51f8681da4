"""GIF pictures: which palette colour each pixel gets and keeps, and how they are packed (LZW, variable width)."""

import numpy as np
from numba import njit

#: Codes are 12 bits wide at most.
MOST = 4096
#: A full table is kept while it serves: it is emptied once so many codes hold fewer pixels than this share of what they
#: held at best since it is full.
_WINDOW, _SERVES = 64, 0.9
#: So many strings of the table are followed at a time where pixels can be written in two ways.
_PATHS = 24
#: How much of what each of two neighbours is off draws on a colour that has to stand in.
_DRAWN_ON = np.float32(0.15)


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
def choose(rgba, colours, transparent, lookup, beside, thresholds, reach, before, out, excess):
    """Write the palette index of each straight uint8 pixel (h, w, 4), and how many levels more another would be off.

    ``lookup`` and ``beside`` are the palette's. ``thresholds`` (n, n), 0 to 1, is a dither's pattern and ``reach`` its
    width in levels. ``excess``, float32 (h, w), is for the index that a pixel had ``before`` (h, w; infinite where that
    is none of the palette's): how much further off than the nearest colour, beside what the dither itself is off.
    """
    side, count = thresholds.shape[0], colours.shape[0]
    for y in range(rgba.shape[0]):
        for x in range(rgba.shape[1]):
            excess[y, x] = np.inf
            if transparent >= 0 and rgba[y, x, 3] < 128:
                out[y, x] = transparent
                continue
            r, g, b = np.float32(rgba[y, x, 0]), np.float32(rgba[y, x, 1]), np.float32(rgba[y, x, 2])
            near, least = _nearest(colours, lookup, beside, r, g, b)
            held = before[y, x]
            if held < count:
                excess[y, x] = np.sqrt(_far(colours, held, r, g, b)) - np.sqrt(least) - np.float32(0.5) * reach
            if least == 0 or reach == 0:
                out[y, x] = near
                continue
            t = (thresholds[y % side, x % side] - np.float32(0.5)) * reach
            r = min(max(r + t, np.float32(0.0)), np.float32(255.0))
            g = min(max(g + t, np.float32(0.0)), np.float32(255.0))
            b = min(max(b + t, np.float32(0.0)), np.float32(255.0))
            out[y, x] = _nearest(colours, lookup, beside, r, g, b)[0]


@njit(cache=True, nogil=True)
def diffuse(rgba, colours, transparent, lookup, beside, share, allowed, before, out):
    """Write palette indices as ``choose`` does, each pixel's error handed on to its neighbours to the given ``share``.

    A pixel keeps its index of ``before`` while that is off by no more levels than ``allowed``, float32 (h, w), beside
    what the nearest is off. Source of the weights: Floyd and Steinberg (1976); rows run there and back in turn.
    """
    height, width, count = rgba.shape[0], rgba.shape[1], colours.shape[0]
    errors = np.zeros((2, width + 2, 3), dtype=np.float32)
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
            k, least = _nearest(colours, lookup, beside, r, g, b)
            held = before[y, x]
            free = allowed[y, x] > 0 and held < count and held != k
            if free and np.sqrt(_far(colours, held, r, g, b)) <= np.sqrt(least) + allowed[y, x]:
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
def _emit(state, out, code, width):
    """Put a code of ``width`` bits behind what is there; ``state`` is (bytes written, bits held, how many of them)."""
    state[1] |= code << state[2]
    state[2] += width
    while state[2] >= 8:
        out[state[0]] = state[1] & 255
        state[0] += 1
        state[1] >>= 8
        state[2] -= 8


@njit(cache=True, nogil=True)
def _follow(table, stamp, node, symbol, last, begin, coming):
    """Return the string that goes on from ``node`` with a symbol, or -1.

    ``coming`` is the string that is entered next: ``last`` and the first symbol of what follows it, so it can be
    followed already by what begins as ``last`` does (``begin``).
    """
    entry = table[node, symbol]
    if entry >> 12 == stamp:
        return entry & 4095
    if node == last and symbol == begin and coming > 0:
        return coming
    return -1


@njit(cache=True, nogil=True)
def _wanted(index, aim, colours, y, x):
    """Return the colour to come near to at a pixel: its own, drawn on by what those above and to the left are off.

    What is off evenly is seen less than what is off from pixel to pixel.
    """
    r, g, b = np.float32(aim[y, x, 0]), np.float32(aim[y, x, 1]), np.float32(aim[y, x, 2])
    if x > 0 and y > 0:
        over, left = index[y - 1, x], index[y, x - 1]
        if over < colours.shape[0] and left < colours.shape[0]:
            r += _DRAWN_ON * (colours[over, 0] - aim[y - 1, x, 0] + colours[left, 0] - aim[y, x - 1, 0])
            g += _DRAWN_ON * (colours[over, 1] - aim[y - 1, x, 1] + colours[left, 1] - aim[y, x - 1, 1])
            b += _DRAWN_ON * (colours[over, 2] - aim[y - 1, x, 2] + colours[left, 2] - aim[y, x - 1, 2])
    return r, g, b


@njit(cache=True, nogil=True)
def _stand_in(table, stamp, nodes, colours, beside, own, held, clear, r, g, b, allowed):
    """Return the string and the symbol nearest to a pixel's colour that may go on from one of ``nodes``, or -1s."""
    least = _far(colours, own, r, g, b)
    most = (np.sqrt(least) + allowed) ** 2
    string, found = -1, -1
    for n in range(-1, beside.shape[1]):
        symbol = clear if n < 0 else beside[own, n]
        shown = held if n < 0 else symbol
        if symbol < 0 or shown >= colours.shape[0]:
            continue
        off = _far(colours, shown, r, g, b)
        if off > most:
            continue
        for p in range(len(nodes)):
            entry = table[nodes[p], symbol]
            if entry >> 12 == stamp:
                string, found, most = entry & 4095, symbol, off
                break
    return string, found


@njit(cache=True, nogil=True)
def pack(index, before, aim, leeway, colours, beside, lossy, box, clear, bits, table, stamp, out):
    """Pack a box of palette indices with LZW into ``out``; return how many bytes that took and the next stamp.

    Where a pixel is what it was ``before`` it may also be written as ``clear`` (-1: no such index): all ways to write
    such pixels are followed, and the longest string is taken. With ``lossy`` over 0 a pixel that ends every string may
    be any colour that is off from ``aim`` (h, w, 3 or 4; uint8) by that many levels, times its ``leeway`` (h, w), more
    than its own, where that goes on; what is written is put into ``index``. ``box`` is left, top, right, bottom.
    ``table`` is int32 (4096, 256) and keeps strings as stamp * 4096 + code, so that it need not be emptied.
    Source: GIF89a, appendix F.
    """
    start, stop = 1 << bits, (1 << bits) + 1
    width, following = bits + 1, stop + 1
    state, firsts = np.zeros(3, dtype=np.int64), np.arange(MOST).astype(np.int32)
    nodes, paths, now = np.empty((2, _PATHS), dtype=np.int32), 0, 0
    last, begin, coming = -1, -1, 0
    codes, since, best = 0, 0, 0
    _emit(state, out, start, width)
    left, top, right, bottom = box
    across = right - left
    total = across * (bottom - top)
    for place in range(total + 1):
        found, other, free, own, y, x = 0, 1 - now, False, -1, 0, 0
        if place < total:
            y, x = top + place // across, left + place % across
            own = np.int32(index[y, x])
            free = clear >= 0 and own == before[y, x]
            # What stays comes first: among equals it keeps the strings of calm areas alike.
            for turn in range(2 if free else 1):
                symbol = clear if free and turn == 0 else own
                for p in range(paths):
                    child = _follow(table, stamp, nodes[now, p], symbol, last, begin, coming)
                    if child >= 0 and found < _PATHS:
                        nodes[other, found] = child
                        found += 1
            if found == 0 and paths > 0 and lossy > 0 and own < colours.shape[0]:
                r, g, b = _wanted(index, aim, colours, y, x)
                held, allowed = before[y, x], lossy * leeway[y, x]
                node, symbol = _stand_in(table, stamp, nodes[now, :paths], colours, beside, own, held, clear,
                                         r, g, b, allowed)  # fmt: skip
                if node >= 0:
                    nodes[other, 0], found = node, 1
                    index[y, x] = held if symbol == clear else symbol
        if found > 0:
            paths, now = found, other
            continue
        if paths > 0:
            node = nodes[now, 0]
            if coming > 0:
                table[last, begin if node == coming else firsts[node]] = (stamp << 12) | coming
                firsts[coming] = begin
            _emit(state, out, node, width)
            last, begin, coming = node, firsts[node], 0
            if following < MOST:
                coming = following
                if following == 1 << width:
                    width += 1
                following += 1
                if following == MOST:
                    codes, since = 0, place
            elif place < total:
                codes += 1
                if codes == _WINDOW:
                    best = max(best, place - since)
                    if place - since < _SERVES * best:
                        _emit(state, out, start, width)
                        stamp += 1
                        width, following, best = bits + 1, stop + 1, 0
                    codes, since = 0, place
        paths = 0
        if place < total:
            nodes[now, 0], nodes[now, 1], paths = (clear, own, 2) if free else (own, own, 1)
    _emit(state, out, stop, width)
    while state[2] > 0:
        _emit(state, out, 0, 8 - state[2] % 8)
    return state[0], stamp + 1
