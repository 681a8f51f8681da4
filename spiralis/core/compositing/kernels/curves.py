"""What effects do to each pixel: colours through tables and curves, pixels from elsewhere, the light of bright ones."""

import numpy as np
from numba import njit

from spiralis.core.compositing.kernels.lanes import add_bright4, lookup4, mix4, scale4
from spiralis.core.compositing.kernels.light import decoded, encoded
from spiralis.core.compositing.kernels.light_lanes import CLEAR
from spiralis.core.compositing.kernels.sampling import AT_ONCE, add_bilinear, batch, sample_open


@njit(cache=True, nogil=True, inline="always")
def _straightening(alpha):
    """Return what makes a premultiplied colour of some alpha straight."""
    one = np.float32(1.0)
    if alpha == one:
        return one
    return one / alpha if alpha > CLEAR else np.float32(0.0)


@njit(cache=True, nogil=True)
def curve_pixels(pixels, tables, count, out):
    """Write premultiplied pixels (flat, 4 items each) with each straight channel through its table to ``out``.

    ``tables`` are three float32 tables of ``count`` items, one after the other, or one for all.
    """
    step = count if tables.size > count else 0
    for i in range(0, pixels.size, 4):
        a = pixels[i + 3]
        lookup4(out, i, pixels, i, _straightening(a), tables, step, count - 1, a)


@njit(cache=True, nogil=True)
def tone_pixels(pixels, table, count, out):
    """Write premultiplied pixels (flat) as the colours that a table gives their straight brightness (BT.709 weights).

    ``table`` holds ``count`` straight colours of four items each.
    """
    red, green, blue = np.float32(0.2126), np.float32(0.7152), np.float32(0.0722)
    zero, one, last = np.float32(0.0), np.float32(1.0), np.float32(count - 1)
    for i in range(0, pixels.size, 4):
        a = pixels[i + 3]
        y = (red * pixels[i] + green * pixels[i + 1] + blue * pixels[i + 2]) * _straightening(a)
        place = min(max(y, zero), one) * last
        low = min(int(place), count - 2)
        share = place - np.float32(low)
        mix4(out, i, table, 4 * low, one - share, 4 * low + 4, share)
        own = out[i + 3] * a
        scale4(out, i, out, i, own)
        out[i + 3] = own


@njit(cache=True, nogil=True)
def expose_pixels(pixels, table, gain, out):
    """Write premultiplied pixels (flat) with their linear light times ``gain`` to ``out``; values over 1 stay.

    ``table`` says so for values of 0 to 1.
    """
    one, last = np.float32(1.0), table.size - 1
    for i in range(0, pixels.size, 4):
        a = pixels[i + 3]
        k = _straightening(a)
        lookup4(out, i, pixels, i, k, table, 0, last, a)
        if max(max(pixels[i], pixels[i + 1]), pixels[i + 2]) * k > one:
            for c in range(3):
                value = pixels[i + c] * k
                if value > one:
                    out[i + c] = encoded(decoded(value) * gain) * a


@njit(cache=True, nogil=True)
def sample_places(pixels, width, height, u, v, out):
    """Fill flat ``out`` with premultiplied ``pixels`` (flat) sampled bilinearly at places u, v.

    A whole number is the centre of a pixel; around the pixels all is clear.
    """
    _, _, corners, across, down = batch()
    one = np.float32(1.0)
    for start in range(0, u.size, AT_ONCE):
        x, y = u[start : start + AT_ONCE], v[start : start + AT_ONCE]
        sample_open(out, 4 * start, x, y, x.size, pixels, width, height, one, False, corners, across, down)


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
            k = one / a if a > CLEAR else zero
        x = (across[0] * r + across[1] * g + across[2] * b) * k + across[3] * a
        y = (down[0] * r + down[1] * g + down[2] * b) * k + down[3] * a
        moves[0, n] = (min(max(x, zero), one) - half) * across[4]
        moves[1, n] = (min(max(y, zero), one) - half) * down[4]


@njit(cache=True, nogil=True)
def _mirrored(places, count, low, high):
    """Bring places between low and high, mirrored at both, in place."""
    twice = np.float32(2.0) * (high - low)
    share = np.float32(1.0) / twice
    for k in range(count):
        part = (places[k] - low) * share
        part = (part - np.floor(part)) * twice
        places[k] = low + min(part, twice - part)


@njit(cache=True, nogil=True)
def _held(places, count, low, high):
    """Bring places between low and high, in place."""
    for k in range(count):
        places[k] = min(max(places[k], low), high)


@njit(cache=True, nogil=True)
def sample_moved(pixels, width, height, u, v, moves, ends, held, edge, out):
    """Fill flat ``out`` with ``pixels`` as ``sample_places``, where places are rows and columns and what moves them.

    The place of column j in row i is (u[j] + moves[0][i, j], v[i] + moves[1][i, j]); ``moves`` is float32 (2, n, m).
    With an edge (1: held there, 2: mirrored) it is kept within ``ends`` (left, top, right, bottom), then within
    ``held``, half a pixel inside.
    """
    columns, one = u.size, np.float32(1.0)
    x, y, corners, across, down = batch()
    for i in range(v.size):
        for start in range(0, columns, AT_ONCE):
            count = min(AT_ONCE, columns - start)
            columns_here, across_here = u[start : start + count], moves[0, i, start : start + count]
            down_here, row = moves[1, i, start : start + count], v[i]
            for k in range(count):
                x[k], y[k] = columns_here[k] + across_here[k], row + down_here[k]
            if edge == 2:
                _mirrored(x, count, ends[0], ends[2])
                _mirrored(y, count, ends[1], ends[3])
            if edge != 0:
                _held(x, count, max(ends[0], held[0]), min(ends[2], held[2]))
                _held(y, count, max(ends[1], held[1]), min(ends[3], held[3]))
            o = 4 * (i * columns + start)
            sample_open(out, o, x, y, count, pixels, width, height, one, False, corners, across, down)


@njit(cache=True, nogil=True)
def bright_means(pixels, left, top, fold, threshold, tint, out):
    """Write the light of premultiplied pixels beyond a brightness, hue kept, times a tint, as means of blocks.

    Block (i, j) of ``out`` (h, w, 4) covers ``fold`` by ``fold`` of ``pixels`` (n, m, 4) from row top + i fold and
    column left + j fold on; what lies outside is dark. Its alpha is the largest channel, so that it can lie over what
    is clear.
    """
    height, width = pixels.shape[0], pixels.shape[1]
    flat, target, columns = pixels.reshape(pixels.size), out.reshape(out.size), out.shape[1]
    colour = np.zeros(4, dtype=np.float32)
    for c in range(3):
        colour[c] = tint[c] / np.float32(fold * fold)
    target[:] = np.float32(0.0)
    for i in range(out.shape[0]):
        for y in range(max(top + i * fold, 0), min(top + (i + 1) * fold, height)):
            for j in range(columns):
                o = 4 * (i * columns + j)
                for x in range(max(left + j * fold, 0), min(left + (j + 1) * fold, width)):
                    add_bright4(target, o, flat, 4 * (y * width + x), threshold, colour)


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
        if a <= CLEAR:
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


@njit(cache=True, nogil=True)
def add_enlarged(pixels, width, height, fold, left, top, share, out):
    """Add pixels (flat) enlarged by a whole factor, mixed linearly, times ``share`` to ``out`` (h, w, 4).

    The first pixel of ``out`` is the one in column ``left`` and row ``top`` of what is enlarged.
    """
    place = np.zeros(9)
    place[0] = place[4] = 1.0 / fold
    place[2], place[5] = (left + 0.5) / fold - 0.5, (top + 0.5) / fold - 0.5
    for y in range(out.shape[0]):
        add_bilinear(out[y].reshape(4 * out.shape[1]), 0, out.shape[1], y, place, pixels, width, height, share)
