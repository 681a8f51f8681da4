"""What effects do to each pixel: colours through tables and curves, pixels from elsewhere, the light of bright ones."""

import numpy as np
from numba import njit

from spiralis.core.compositing.kernels.lanes import lerp4
from spiralis.core.compositing.kernels.light import decoded, encoded, looked_up
from spiralis.core.compositing.kernels.sampling import bilinear_corner


@njit(cache=True, nogil=True)
def curve_pixels(pixels, tables, out):
    """Write premultiplied pixels (flat, 4 items each) with each straight channel through its table to ``out``.

    ``tables`` are three float32 tables of one length, one after the other.
    """
    count = tables.size // 3
    for i in range(0, pixels.size, 4):
        a = pixels[i + 3]
        k = np.float32(1.0)
        if a != k:
            k = k / a if a > 0.0 else np.float32(0.0)
        for c in range(3):
            out[i + c] = looked_up(tables, c * count, count - 1, pixels[i + c] * k) * a
        out[i + 3] = a


@njit(cache=True, nogil=True)
def tone_pixels(pixels, tables, out):
    """Write premultiplied pixels (flat) as the colours that a table gives their straight brightness (BT.709 weights).

    ``tables`` are four float32 tables of one length: red, green, blue and alpha of the straight new colour.
    """
    count = tables.size // 4
    red, green, blue = np.float32(0.2126), np.float32(0.7152), np.float32(0.0722)
    for i in range(0, pixels.size, 4):
        a = pixels[i + 3]
        k = np.float32(1.0) / a if a > 0.0 else np.float32(0.0)
        y = (red * pixels[i] + green * pixels[i + 1] + blue * pixels[i + 2]) * k
        own = looked_up(tables, 3 * count, count - 1, y) * a
        for c in range(3):
            out[i + c] = looked_up(tables, c * count, count - 1, y) * own
        out[i + 3] = own


@njit(cache=True, nogil=True)
def expose_pixels(pixels, table, gain, out):
    """Write premultiplied pixels (flat) with their linear light times ``gain`` to ``out``; values over 1 stay.

    ``table`` says so for values of 0 to 1.
    """
    one, last = np.float32(1.0), table.size - 1
    for i in range(0, pixels.size, 4):
        a = pixels[i + 3]
        k = one
        if a != one:
            k = one / a if a > 0.0 else np.float32(0.0)
        r, g, b = pixels[i] * k, pixels[i + 1] * k, pixels[i + 2] * k
        if max(max(r, g), b) <= one:
            out[i] = looked_up(table, 0, last, r) * a
            out[i + 1] = looked_up(table, 0, last, g) * a
            out[i + 2] = looked_up(table, 0, last, b) * a
        else:
            for c in range(3):
                value = pixels[i + c] * k
                if value <= one:
                    out[i + c] = looked_up(table, 0, last, value) * a
                else:
                    out[i + c] = encoded(decoded(value) * gain) * a
        out[i + 3] = a


@njit(cache=True, nogil=True)
def sample_places(pixels, width, height, u, v, out):
    """Fill flat ``out`` with premultiplied ``pixels`` (flat, with a clear ring) sampled bilinearly at places u, v.

    A whole number is the centre of a pixel of ``pixels``, its ring included; far outside all is clear.
    """
    for i in range(u.size):
        p, across, down = bilinear_corner(u[i], v[i], width, height)
        lerp4(out, 4 * i, pixels, p, p + 4 * width, across, down, np.float32(1.0))


@njit(cache=True, nogil=True)
def channel_moves(pixels, across, down, moves):
    """Write how far each premultiplied pixel (flat) moves a place, to float32 ``moves`` (2, n).

    ``across`` and ``down`` hold four weights of red, green, blue and alpha, then the way of a full difference: the
    channel, straight and cut to 0 to 1, less a half, times that.
    """
    zero, one, half = np.float32(0.0), np.float32(1.0), np.float32(0.5)
    for n in range(pixels.size // 4):
        i = 4 * n
        r, g, b, a = pixels[i], pixels[i + 1], pixels[i + 2], pixels[i + 3]
        k = one
        if a != one:
            k = one / a if a > zero else zero
        x = (across[0] * r + across[1] * g + across[2] * b) * k + across[3] * a
        y = (down[0] * r + down[1] * g + down[2] * b) * k + down[3] * a
        moves[0, n] = (min(max(x, zero), one) - half) * across[4]
        moves[1, n] = (min(max(y, zero), one) - half) * down[4]


@njit(cache=True, nogil=True, inline="always")
def _within(place, low, high, edge):
    """Return a place between low and high: as it is (edge 0), held at the ends (1) or mirrored there (2)."""
    if edge == 2:
        size = high - low
        part = (place - low) / (np.float32(2.0) * size)
        part = (part - np.floor(part)) * np.float32(2.0) * size
        return low + min(part, np.float32(2.0) * size - part)
    if edge == 1:
        return min(max(place, low), high)
    return place


@njit(cache=True, nogil=True)
def sample_moved(pixels, width, height, u, v, moves, ends, held, edge, out):
    """Fill flat ``out`` with ``pixels`` as ``sample_places``, where places are rows and columns and what moves them.

    The place of column j in row i is (u[j] + moves[0][i, j], v[i] + moves[1][i, j]); ``moves`` is float32 (2, n, m).
    With an edge it is kept within ``ends`` (left, top, right, bottom), then within ``held``, half a pixel inside.
    """
    columns = u.size
    for i in range(v.size):
        for j in range(columns):
            x, y = u[j] + moves[0, i, j], v[i] + moves[1, i, j]
            if edge != 0:
                x = min(max(_within(x, ends[0], ends[2], edge), held[0]), held[2])
                y = min(max(_within(y, ends[1], ends[3], edge), held[1]), held[3])
            p, across, down = bilinear_corner(x, y, width, height)
            lerp4(out, 4 * (i * columns + j), pixels, p, p + 4 * width, across, down, np.float32(1.0))


@njit(cache=True, nogil=True)
def bright_means(pixels, left, top, fold, threshold, tint, out):
    """Write the light of premultiplied pixels beyond a brightness, hue kept, times a tint, as means of blocks.

    Block (i, j) of ``out`` (h, w, 4) covers ``fold`` by ``fold`` of ``pixels`` (n, m, 4) from row top + i fold and
    column left + j fold on; what lies outside is dark. Its alpha is the largest channel, so that it can lie over what
    is clear.
    """
    height, width = pixels.shape[0], pixels.shape[1]
    red, green, blue = np.float32(0.2126), np.float32(0.7152), np.float32(0.0722)
    zero, share = np.float32(0.0), np.float32(1.0 / (fold * fold))
    tr, tg, tb = tint[0] * share, tint[1] * share, tint[2] * share
    for i in range(out.shape[0]):
        y0, y1 = max(top + i * fold, 0), min(top + (i + 1) * fold, height)
        for j in range(out.shape[1]):
            x0, x1 = max(left + j * fold, 0), min(left + (j + 1) * fold, width)
            r = g = b = a = zero
            for y in range(y0, y1):
                for x in range(x0, x1):
                    pr, pg, pb = pixels[y, x, 0], pixels[y, x, 1], pixels[y, x, 2]
                    bright = red * pr + green * pg + blue * pb
                    over = bright - threshold * pixels[y, x, 3]
                    if over > zero:
                        k = over / bright
                        lr, lg, lb = pr * k * tr, pg * k * tg, pb * k * tb
                        r += lr
                        g += lg
                        b += lb
                        a += max(max(lr, lg), lb)
            out[i, j, 0], out[i, j, 1], out[i, j, 2], out[i, j, 3] = r, g, b, a


@njit(cache=True, nogil=True)
def lookup_pixels(pixels, table, edge, low, scale, out):
    """Write premultiplied pixels (flat) with their straight colour looked up in a cube, trilinearly, to ``out``.

    ``table`` is flat, red fastest, three items a colour; ``edge`` items along an edge. ``scale`` (3,) turns values less
    ``low`` (3,) into places in it. What lies outside has the colour of the cube's face.
    """
    last = edge - 1
    most = np.float32(last)
    zero, one = np.float32(0.0), np.float32(1.0)
    row, plane = 3 * edge, 3 * edge * edge
    for i in range(0, pixels.size, 4):
        a = pixels[i + 3]
        if a <= zero:
            out[i] = out[i + 1] = out[i + 2] = out[i + 3] = zero
            continue
        k = one / a
        r = min(max((pixels[i] * k - low[0]) * scale[0], zero), most)
        g = min(max((pixels[i + 1] * k - low[1]) * scale[1], zero), most)
        b = min(max((pixels[i + 2] * k - low[2]) * scale[2], zero), most)
        x, y, z = min(int(r), last - 1), min(int(g), last - 1), min(int(b), last - 1)
        fx, fy, fz = r - np.float32(x), g - np.float32(y), b - np.float32(z)
        p = z * plane + y * row + 3 * x
        for c in range(3):
            q = p + c
            near = table[q] + fx * (table[q + 3] - table[q])
            far = table[q + row] + fx * (table[q + row + 3] - table[q + row])
            front = near + fy * (far - near)
            q += plane
            near = table[q] + fx * (table[q + 3] - table[q])
            far = table[q + row] + fx * (table[q + row + 3] - table[q + row])
            out[i + c] = (front + fz * (near + fy * (far - near) - front)) * a
        out[i + 3] = a
