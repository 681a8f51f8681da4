"""Gradient noise in space and time, summed over octaves (Perlin, *Improving Noise*, 2002; fractal sum).

The time axis is periodic, so that clouds come back to where they began.
"""

import numpy as np
from numba import njit


@njit(cache=True, nogil=True, inline="always")
def _hash(x, y, z, seed):
    """Mix lattice coordinates and a seed to 32 even bits (the finaliser of MurmurHash3, public domain)."""
    h = np.uint32(x) * np.uint32(0x8DA6B343) ^ np.uint32(y) * np.uint32(0xD8163841)
    h ^= np.uint32(z) * np.uint32(0xCB1AB31F) ^ np.uint32(seed) * np.uint32(0x165667B1)
    h ^= h >> np.uint32(16)
    h *= np.uint32(0x85EBCA6B)
    h ^= h >> np.uint32(13)
    h *= np.uint32(0xC2B2AE35)
    h ^= h >> np.uint32(16)
    return h


@njit(cache=True, nogil=True, inline="always")
def _gradient(h, x, y, z):
    """Dot product with one of the twelve directions to the edges of a cube."""
    h = h & np.uint32(15)
    u = x if h < 8 else y
    v = y if h < 4 else (x if h == 12 or h == 14 else z)
    return (u if h & np.uint32(1) == 0 else -u) + (v if h & np.uint32(2) == 0 else -v)


@njit(cache=True, nogil=True, inline="always")
def _fade(t):
    return t * t * t * (t * (t * 6.0 - 15.0) + 10.0)


@njit(cache=True, nogil=True)
def noise_at(x, y, z, period, seed):
    """Return noise of about -1 to 1; z repeats after ``period`` cells."""
    xi, yi, zi = int(np.floor(x)), int(np.floor(y)), int(np.floor(z))
    fx, fy, fz = x - xi, y - yi, z - zi
    z0, z1 = zi % period, (zi + 1) % period
    u, v, w = _fade(fx), _fade(fy), _fade(fz)
    total = 0.0
    for corner in range(8):
        dx, dy, dz = corner & 1, (corner >> 1) & 1, corner >> 2
        h = _hash(xi + dx, yi + dy, z1 if dz else z0, seed)
        weight = (u if dx else 1.0 - u) * (v if dy else 1.0 - v) * (w if dz else 1.0 - w)
        total += weight * _gradient(h, fx - dx, fy - dy, fz - dz)
    return total


@njit(cache=True, nogil=True, inline="always")
def _knot(xi, yi, z0, z1, fy, fz, v, w, seed):
    """Return what a column of lattice points says within a cell, as base and slope over the way across from it."""
    base, slope = 0.0, 0.0
    for corner in range(4):
        dy, dz = corner & 1, corner >> 1
        h = _hash(xi, yi + dy, z1 if dz else z0, seed)
        weight = (v if dy else 1.0 - v) * (w if dz else 1.0 - w)
        base += weight * _gradient(h, 0.0, fy - dy, fz - dz)
        slope += weight * _gradient(h, 1.0, 0.0, 0.0)
    return base, slope


@njit(cache=True, nogil=True)
def _add_line(line, first, step, y, z, period, seed, weight):
    """Add noise along x, at ``first`` and every ``step`` from there, times a weight: ``noise_at`` of each place.

    On the way through a cell only the way across changes, so that its lattice points are asked once.
    """
    yi, zi = int(np.floor(y)), int(np.floor(z))
    fy, fz = y - yi, z - zi
    z0, z1 = zi % period, (zi + 1) % period
    v, w = _fade(fy), _fade(fz)
    column, count, cell = 0, line.size, int(np.floor(first)) - 1
    base, slope, next_base, next_slope = 0.0, 0.0, 0.0, 0.0
    while column < count:
        base, slope, here = next_base, next_slope, int(np.floor(first + column * step))
        if here != cell + 1 or column == 0:
            base, slope = _knot(here, yi, z0, z1, fy, fz, v, w, seed)
        cell = here
        next_base, next_slope = _knot(cell + 1, yi, z0, z1, fy, fz, v, w, seed)
        stop = column + 1
        while stop < count and first + stop * step < cell + 1:
            stop += 1
        for k in range(column, stop):
            fx = first + k * step - cell
            left = base + slope * fx
            line[k] += weight * (left + _fade(fx) * (next_base + next_slope * (fx - 1.0) - left))
        column = stop


@njit(cache=True, nogil=True)
def fractal(out, first_row, place, octaves, gain, z, period, seed):
    """Fill float32 (h, w) with noise summed over octaves, each twice as fine and ``gain`` times as strong.

    ``place`` (4,) maps pixel centres to cells: how much a column and a row are of one, and where the first pixel's
    upper left corner lies, across and down. The rows begin at ``first_row`` of the picture.
    """
    height, width = out.shape
    strength, weight = 0.0, 1.0
    for _ in range(octaves):
        strength += weight
        weight *= gain
    line = np.empty(width)
    for row in range(height):
        x, y = place[2] + 0.5 * place[0], place[3] + (first_row + row + 0.5) * place[1]
        line[:] = 0.0
        scale, weight = 1.0, 1.0
        for octave in range(octaves):
            _add_line(line, x * scale, place[0] * scale, y * scale, z, period, seed + 101 * octave, weight)
            scale *= 2.0
            weight *= gain
        for column in range(width):
            out[row, column] = np.float32(line[column] / strength)


@njit(cache=True, nogil=True)
def shaded(levels, first_row, factor, base, table, inside_x, inside_y, out):
    """Fill float32 (h, w, 4) with the colours that a table (n, 4) has for ``levels`` (h, w) times ``factor`` plus
    ``base``, of 0 to 1; clear where a column or a row is not inside. The rows begin at ``first_row``."""
    last = np.float32(table.shape[0] - 1)
    for row in range(levels.shape[0]):
        for column in range(levels.shape[1]):
            level = (levels[row, column] * factor + base) * last
            entry = table[int(min(max(level, np.float32(0.0)), last))]
            keep = np.float32(1.0) if inside_x[column] and inside_y[first_row + row] else np.float32(0.0)
            for channel in range(4):
                out[row, column, channel] = entry[channel] * keep
