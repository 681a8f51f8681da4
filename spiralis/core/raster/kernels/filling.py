"""Outlines filled with colours: how much of each pixel lies within, worked out exactly from the edges.

Each edge adds, to the pixels that it passes, how much of their height it takes up and how far left it lies; the sum
from the left along a row then is how often the outline goes around each pixel, as an area. The method is that of
accumulated signed areas, as rasterisers of fonts use it; where parts of an outline overlap they count once.
"""

import numpy as np
from numba import njit

#: How far, in pixels, the straight pieces of a curve may lie beside it.
_AWAY = 0.02
#: No curve is cut into more pieces.
_MOST_PIECES = 200


@njit(cache=True, nogil=True)
def fill(out, cover, matrix, curves, degrees, begins, boxes, outlines, maps, colours, groups):
    """Lay outlines over premultiplied pixels, uint32 (h, w) of four bytes each, in place; the outermost ring stays.
    ``cover``, uint8 (h, w), is clear and is so again afterwards.

    Curves (m, 8) hold two, three or four points by their ``degrees`` (m,): those of outline k are ``begins[k]`` to
    ``begins[k + 1]``, within ``boxes[k]``. Item n is ``outlines[n]`` under ``maps[n]``, six numbers, then ``matrix``,
    which leads to pixels. Items of one group, ``groups[g]`` to ``groups[g + 1]``, count once where they overlap;
    group g has ``colours[g]``, premultiplied, 0 to 255.
    """
    height, width = out.shape
    seen, largest = np.empty((outlines.size, 4), dtype=np.int64), 0
    for n in range(outlines.size):
        _extent(boxes[outlines[n]], _product(matrix, maps[n]), width, height, seen[n])
        largest = max(largest, (seen[n, 2] - seen[n, 0] + 1) * (seen[n, 3] - seen[n, 1]))
    room = np.empty(largest, dtype=np.float32)
    for g in range(groups.size - 1):
        for n in range(groups[g], groups[g + 1]):
            left, top, right, bottom = seen[n]
            if right > left and bottom > top:
                outline, rows, columns = outlines[n], bottom - top, right - left + 1
                part = room[: rows * columns].reshape(rows, columns)
                part[:] = 0
                whole = _product(matrix, maps[n])
                _trace(part, curves, degrees, begins[outline], begins[outline + 1], whole, left, top)
                _gather(cover, part, left, top)
        for n in range(groups[g], groups[g + 1]):
            _lay(out, cover, seen[n], colours[g])


@njit(cache=True, nogil=True)
def _product(outer, inner):
    a, b, c, d, e, f = outer
    p, q, r, s, t, u = inner
    return a * p + c * q, b * p + d * q, a * r + c * s, b * r + d * s, a * t + c * u + e, b * t + d * u + f


@njit(cache=True, nogil=True)
def _extent(box, whole, width, height, seen):
    """Say which pixels within the ring a box reaches under a map: left, top, right and bottom, none where it is
    nowhere."""
    a, b, c, d, e, f = whole
    x, y = a * box[0] + c * box[1] + e, b * box[0] + d * box[1] + f
    across, down = box[2] - box[0], box[3] - box[1]
    left, right = x + min(a * across, 0.0) + min(c * down, 0.0), x + max(a * across, 0.0) + max(c * down, 0.0)
    top, bottom = y + min(b * across, 0.0) + min(d * down, 0.0), y + max(b * across, 0.0) + max(d * down, 0.0)
    seen[:] = 0
    if right > 1 and left < width - 1 and bottom > 1 and top < height - 1:
        seen[0], seen[1] = int(np.floor(max(left, 1.0))), int(np.floor(max(top, 1.0)))
        seen[2], seen[3] = int(np.ceil(min(right, width - 1.0))), int(np.ceil(min(bottom, height - 1.0)))


@njit(cache=True, nogil=True)
def _trace(part, curves, degrees, begin, end, whole, left, top):
    """Add the edges of curves, cut into straight pieces."""
    a, b, c, d, e, f = whole
    e, f = e - left, f - top
    for k in range(begin, end):
        x0, y0 = a * curves[k, 0] + c * curves[k, 1] + e, b * curves[k, 0] + d * curves[k, 1] + f
        x1, y1 = a * curves[k, 2] + c * curves[k, 3] + e, b * curves[k, 2] + d * curves[k, 3] + f
        if degrees[k] == 1:
            _edge(part, x0, y0, x1, y1)
            continue
        x2, y2 = a * curves[k, 4] + c * curves[k, 5] + e, b * curves[k, 4] + d * curves[k, 5] + f
        # The curve as a polynomial: ((p t + q) t + r) t + its first point.
        bent_x, bent_y = x0 - 2 * x1 + x2, y0 - 2 * y1 + y2
        if degrees[k] == 2:
            pieces = _pieces(0.25 * np.hypot(bent_x, bent_y))
            px, py, qx, qy, rx, ry = 0.0, 0.0, bent_x, bent_y, 2 * (x1 - x0), 2 * (y1 - y0)
            end_x, end_y = x2, y2
        else:
            end_x, end_y = a * curves[k, 6] + c * curves[k, 7] + e, b * curves[k, 6] + d * curves[k, 7] + f
            bend = max(np.hypot(bent_x, bent_y), np.hypot(x1 - 2 * x2 + end_x, y1 - 2 * y2 + end_y))
            pieces = _pieces(0.75 * bend)
            px, py = end_x - x0 + 3 * (x1 - x2), end_y - y0 + 3 * (y1 - y2)
            qx, qy, rx, ry = 3 * bent_x, 3 * bent_y, 3 * (x1 - x0), 3 * (y1 - y0)
        x, y = x0, y0
        for n in range(1, pieces):
            t = n / pieces
            next_x, next_y = ((px * t + qx) * t + rx) * t + x0, ((py * t + qy) * t + ry) * t + y0
            _edge(part, x, y, next_x, next_y)
            x, y = next_x, next_y
        _edge(part, x, y, end_x, end_y)


@njit(cache=True, nogil=True)
def _pieces(bend):
    """Return into how many straight pieces a curve is cut (Wang's formula)."""
    return int(min(np.ceil(np.sqrt(bend / _AWAY)), _MOST_PIECES)) if bend > _AWAY else 1


@njit(cache=True, nogil=True)
def _edge(part, x0, y0, x1, y1):
    """Add a straight edge, row by row; what lies left of the part counts in its first pixel, what lies right of it
    nowhere."""
    sign = 1.0
    if y0 > y1:
        x0, y0, x1, y1, sign = x1, y1, x0, y0, -1.0
    height, width = part.shape[0], part.shape[1] - 1
    if not (y1 > y0 and y1 > 0 and y0 < height):
        return
    slope = (x1 - x0) / (y1 - y0)
    if y0 < 0:
        x0, y0 = x0 - y0 * slope, 0.0
    x, row = x0, int(y0)
    while row < height and row < y1:
        deep = min(row + 1.0, y1) - max(row + 0.0, y0)
        beyond = x + slope * deep
        _step(part, row, width, min(x, beyond), max(x, beyond), sign * deep)
        x = beyond
        row += 1


@njit(cache=True, nogil=True)
def _step(part, row, width, left, right, deep):
    """Add the piece of an edge within a row."""
    if not left < width:
        return
    if not right > 0:
        part[row, 0] += deep
        return
    if left < 0:
        kept = right / (right - left)
        part[row, 0] += deep * (1 - kept)
        left, deep = 0.0, deep * kept
    if right > width:
        deep *= (width - left) / (right - left)
        right = float(width)
    first = int(left)
    if right <= first + 1:
        middle = 0.5 * (left + right) - first
        part[row, first] += deep * (1 - middle)
        part[row, first + 1] += deep * middle
        return
    # How deep it is in a whole pixel's breadth; what lies within each pixel is the area right of the edge there.
    each, before, x = deep / (right - left), 0.0, first
    while x < right:
        near, far = max(left, x + 0.0), min(right, x + 1.0)
        # Where the edge has passed, the whole of its depth so far; where it passes, the mean of that.
        now = each * (near - left) + each * (far - near) * (1 - 0.5 * (near + far) + x)
        part[row, x] += now - before
        before = now
        x += 1
    part[row, x] += deep - before


@njit(cache=True, nogil=True)
def _gather(cover, part, left, top):
    """Add how much of each pixel lies within what edges have gone around to a cover, 0 to 255."""
    one, most, half = np.float32(1), np.float32(255), np.float32(0.5)
    _sum_up(part)
    columns = part.shape[1] - 1
    for row in range(part.shape[0]):
        line, whole = part[row], cover[top + row, left : left + columns]
        for x in range(columns):
            now = min(abs(line[x]), one) * most + np.float32(whole[x]) + half
            whole[x] = np.uint8(min(now, most))


@njit(cache=True, nogil=True)
def _sum_up(part):
    """Sum each row up from the left: four at once, as each sum waits for the one before it."""
    rows, fours = part.shape[0], part.shape[0] // 4 * 4
    for row in range(0, fours, 4):
        a, b, c, d = part[row], part[row + 1], part[row + 2], part[row + 3]
        for x in range(1, a.size):
            a[x] += a[x - 1]
            b[x] += b[x - 1]
            c[x] += c[x - 1]
            d[x] += d[x - 1]
    for row in range(fours, rows):
        a = part[row]
        for x in range(1, a.size):
            a[x] += a[x - 1]


@njit(cache=True, nogil=True)
def _lay(out, cover, seen, colour):
    """Lay a colour over pixels as far as they are covered within a box, and clear the cover there."""
    left, top, right, bottom = seen
    red, green, blue, alpha = colour
    half, part, one = np.float32(0.5), np.float32(1 / 255), np.float32(1)
    byte, second, third, last = np.uint32(255), np.uint32(8), np.uint32(16), np.uint32(24)
    for y in range(top, bottom):
        line, whole = out[y, left:right], cover[y, left:right]
        for x in range(right - left):
            share, pixel = np.float32(whole[x]) * part, line[x]
            rest = one - alpha * share * part
            # By way of int32, which machine code turns many of into floats at once.
            r = np.uint32(np.int32(red * share + np.float32(np.int32(pixel & byte)) * rest + half))
            g = np.uint32(np.int32(green * share + np.float32(np.int32(pixel >> second & byte)) * rest + half))
            b = np.uint32(np.int32(blue * share + np.float32(np.int32(pixel >> third & byte)) * rest + half))
            a = np.uint32(np.int32(alpha * share + np.float32(np.int32(pixel >> last)) * rest + half))
            line[x] = r | g << second | b << third | a << last
            whole[x] = 0
