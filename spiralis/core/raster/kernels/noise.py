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


@njit(cache=True, nogil=True)
def fractal(out, place, octaves, gain, z, period, seed):
    """Fill float32 (h, w) with noise summed over octaves, each twice as fine and ``gain`` times as strong.

    ``place`` holds a, b, c, d, e, f of the map from pixel centres to cells.
    """
    height, width = out.shape
    strength = 0.0
    for octave in range(octaves):
        strength += gain**octave
    for row in range(height):
        for column in range(width):
            px, py = column + 0.5, row + 0.5
            x = place[0] * px + place[2] * py + place[4]
            y = place[1] * px + place[3] * py + place[5]
            total, scale, weight = 0.0, 1.0, 1.0
            for octave in range(octaves):
                total += weight * noise_at(x * scale, y * scale, z, period, seed + 101 * octave)
                scale *= 2.0
                weight *= gain
            out[row, column] = np.float32(total / strength)
