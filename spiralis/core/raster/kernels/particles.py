"""Particles: even numbers by their place in a row, a noise to wander by, and the dots themselves, drawn one by one."""

import numpy as np
from numba import njit

from spiralis.core.raster.kernels.noise import noise_at

#: Looks by number.
DOT, SOFT, SQUARE, SPARK, STREAK, PICTURE = range(6)
#: Smaller dots are drawn this large and as much fainter.
_LEAST = 0.7


@njit(cache=True, nogil=True)
def even_numbers(out, seed):
    """Fill float64 (n, k) with numbers from 0 to 1 that depend on seed, row and column alone.

    SplitMix64 (Steele, Lea, Flood, *Fast splittable pseudorandom number generators*, 2014) of a counter.
    """
    count, kinds = out.shape
    for column in range(kinds):
        for row in range(count):
            h = (np.uint64(row) + np.uint64(1)) * np.uint64(0x9E3779B97F4A7C15)
            h ^= (np.uint64(column) + np.uint64(seed) * np.uint64(0x10001)) * np.uint64(0xD1342543DE82EF95)
            h = (h ^ (h >> np.uint64(30))) * np.uint64(0xBF58476D1CE4E5B9)
            h = (h ^ (h >> np.uint64(27))) * np.uint64(0x94D049BB133111EB)
            h ^= h >> np.uint64(31)
            out[row, column] = (h >> np.uint64(11)) * (1.0 / 9007199254740992.0)


@njit(cache=True, nogil=True)
def curl(points, z, period, seed, out):
    """Fill (n, 2) with a flow without sources at points (n, 2), in cells: the turned slope of a noise.

    Bridson, Houriham, Nordenstam, *Curl-noise for procedural fluid flow*, 2007; differences over 1/128 of a cell.
    ``z`` (n,) is each one's time, periodic after ``period``.
    """
    step = 1.0 / 128
    for row in range(len(points)):
        x, y, t = points[row, 0], points[row, 1], z[row]
        down = noise_at(x, y + step, t, period, seed) - noise_at(x, y - step, t, period, seed)
        across = noise_at(x + step, y, t, period, seed) - noise_at(x - step, y, t, period, seed)
        out[row, 0] = down / (2 * step)
        out[row, 1] = -across / (2 * step)


@njit(cache=True, nogil=True)
def thickness(points, seed, out):
    """Fill (n,) with noise from about -1 to 1 at points (n, 2), in cells, of two octaves."""
    for row in range(len(points)):
        x, y = points[row, 0], points[row, 1]
        out[row] = (noise_at(x, y, 0.0, 1, seed) + 0.5 * noise_at(2 * x, 2 * y, 0.0, 1, seed + 101)) / 1.1


@njit(cache=True, nogil=True, inline="always")
def _bilinear(picture, u, v, part):
    height, width = picture.shape[0], picture.shape[1]
    x0, y0 = int(np.floor(u)), int(np.floor(v))
    fx, fy = np.float32(u - x0), np.float32(v - y0)
    total = np.float32(0)
    for corner in range(4):
        dx, dy = corner & 1, corner >> 1
        x, y = x0 + dx, y0 + dy
        if 0 <= x < width and 0 <= y < height:
            weight = (fx if dx else np.float32(1) - fx) * (fy if dy else np.float32(1) - fy)
            total += weight * picture[y, x, part]
    return total


@njit(cache=True, nogil=True, inline="always")
def _round(out, x, y, r, alpha, colour, soft, adds, x0, x1, y0, y1):
    """Draw a dot that stands still, row by row as far as it reaches."""
    one = np.float32(1)
    red, green, blue = colour[0], colour[1], colour[2]
    reach2 = r * r if soft else (r + 0.5) * (r + 0.5)
    for row in range(y0, y1):
        dy = row + 0.5 - y
        left2 = reach2 - dy * dy
        if left2 <= 0.0:
            continue
        half = np.sqrt(left2)
        for column in range(max(int(np.floor(x - half)), x0), min(int(np.ceil(x + half)), x1)):
            dx = column + 0.5 - x
            away2 = dx * dx + dy * dy
            if soft:
                q = max(1.0 - away2 / reach2, 0.0)
                cover = alpha * q * q
            else:
                cover = alpha * min(max(r + 0.5 - np.sqrt(away2), 0.0), 1.0)
            under = one if adds else one - np.float32(cover)
            out[row, column, 0] = out[row, column, 0] * under + np.float32(cover * red)
            out[row, column, 1] = out[row, column, 1] * under + np.float32(cover * green)
            out[row, column, 2] = out[row, column, 2] * under + np.float32(cover * blue)
            out[row, column, 3] = out[row, column, 3] * under + np.float32(cover)


@njit(cache=True, nogil=True)
def splat(out, left, top, first, last, radius, turn, colour, look, adds, picture):
    """Draw particles in order into premultiplied float32 ``out`` (h, w, 4), whose first pixel is (left, top).

    Each lies between ``first`` and ``last`` (n, 2), where it began and ended to be seen, with a ``radius`` (n,), all in
    pixels, a ``turn`` (n,) in radians, and a straight ``colour`` (n, 4). ``adds`` adds their light instead of covering.
    ``picture`` (h, w, 4), premultiplied, is what PICTURE shows, its longer side across.
    """
    height, width = out.shape[0], out.shape[1]
    one = np.float32(1)
    for index in range(len(radius)):
        r, alpha = radius[index], colour[index, 3]
        if not (r > 0.0) or not (alpha > 0.0):
            continue
        ax, ay = first[index, 0] - left, first[index, 1] - top
        bx, by = last[index, 0] - left, last[index, 1] - top
        ex, ey = bx - ax, by - ay
        if r < _LEAST:
            alpha *= (r / _LEAST) ** 2
            r = _LEAST
        length2 = ex * ex + ey * ey
        if look != STREAK and length2 > 1e-6:
            # What is spread along a way is as much fainter.
            alpha *= np.pi * r / (np.pi * r + 2.0 * np.sqrt(length2))
        reach = r * (1.4143 if look in (SQUARE, PICTURE) else 1.0) + 1.0
        x0, x1 = int(max(np.floor(min(ax, bx) - reach), 0)), int(min(np.ceil(max(ax, bx) + reach), width))
        y0, y1 = int(max(np.floor(min(ay, by) - reach), 0)), int(min(np.ceil(max(ay, by) + reach), height))
        if x1 <= x0 or y1 <= y0:
            continue
        if length2 <= 1e-6 and look in (DOT, SOFT):
            _round(out, ax, ay, r, alpha, colour[index], look == SOFT, adds, x0, x1, y0, y1)
            continue
        cos, sin = np.cos(turn[index]), np.sin(turn[index])
        red, green, blue = colour[index, 0], colour[index, 1], colour[index, 2]
        scale = max(picture.shape[0], picture.shape[1]) / (2.0 * r)
        for y in range(y0, y1):
            py = y + 0.5
            for x in range(x0, x1):
                px = x + 0.5
                along = 0.0
                if length2 > 1e-6:
                    along = min(max(((px - ax) * ex + (py - ay) * ey) / length2, 0.0), 1.0)
                dx, dy = px - (ax + along * ex), py - (ay + along * ey)
                if look == DOT:
                    cover = min(max(r + 0.5 - np.sqrt(dx * dx + dy * dy), 0.0), 1.0)
                elif look == SOFT:
                    q = (dx * dx + dy * dy) / (r * r)
                    cover = (1.0 - q) ** 2 if q < 1.0 else 0.0
                elif look == STREAK:
                    cover = along * min(max(r * (0.3 + 0.7 * along) + 0.5 - np.sqrt(dx * dx + dy * dy), 0.0), 1.0)
                    if length2 <= 1e-6:
                        cover = min(max(r + 0.5 - np.sqrt(dx * dx + dy * dy), 0.0), 1.0)
                else:
                    u, v = dx * cos + dy * sin, dy * cos - dx * sin
                    if look == SQUARE:
                        cover = min(max(r + 0.5 - abs(u), 0.0), 1.0) * min(max(r + 0.5 - abs(v), 0.0), 1.0)
                    elif look == SPARK:
                        q = (np.sqrt(abs(u)) + np.sqrt(abs(v))) ** 2 / r
                        core = (dx * dx + dy * dy) / (0.16 * r * r)
                        cover = (1.0 - q) if q < 1.0 else 0.0
                        if core < 1.0:
                            cover = max(cover, (1.0 - core) ** 2)
                    else:
                        pu, pv = u * scale + picture.shape[1] / 2 - 0.5, v * scale + picture.shape[0] / 2 - 0.5
                        if pu <= -1 or pv <= -1 or pu >= picture.shape[1] or pv >= picture.shape[0]:
                            continue
                        share = np.float32(alpha)
                        under = one if adds else one - share * _bilinear(picture, pu, pv, 3)
                        for part in range(4):
                            tint = np.float32(colour[index, part]) if part < 3 else one
                            out[y, x, part] = out[y, x, part] * under + share * tint * _bilinear(picture, pu, pv, part)
                        continue
                cover *= alpha
                if cover <= 0.0:
                    continue
                under = one if adds else one - np.float32(cover)
                out[y, x, 0] = out[y, x, 0] * under + np.float32(cover * red)
                out[y, x, 1] = out[y, x, 1] * under + np.float32(cover * green)
                out[y, x, 2] = out[y, x, 2] * under + np.float32(cover * blue)
                out[y, x, 3] = out[y, x, 3] * under + np.float32(cover)
    if adds:
        for y in range(height):
            for x in range(width):
                out[y, x, 3] = min(out[y, x, 3], one)
