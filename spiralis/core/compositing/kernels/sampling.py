"""Samplers: fill one row of float32 source pixels from a flat colour, a gradient or stored pixels.

Every sampler takes the row's output range [x0, x1) and writes premultiplied colours times ``opacity`` to
``row[4 * (x0 - left) : 4 * (x1 - left)]``: the row begins at ``left``. ``place`` holds the map from output pixel
centres to source coordinates by rows: ``u = (p0 x + p1 y + p2) / w``, ``v = (p3 x + p4 y + p5) / w`` and
``w = p6 x + p7 y + p8``, where an integer u means the centre of a source pixel. All but ``sample_projective`` take w as
1, which it is for affine maps.
"""

import numpy as np
from numba import carray, njit

from spiralis.core.compositing.kernels.lanes import as_pointer, lerp4, lerp_add4, lerp_over4, mix4, scale4

#: So many places are worked out together; a row of so few pixels is not worth that.
AT_ONCE, BLOCK, _FEW = 64, 32, 24


@njit(cache=True, nogil=True)
def bytes_at(address, count):
    """View ``count`` uint8 values at an address. The caller keeps the memory alive."""
    return carray(as_pointer(address), count, np.uint8)


@njit(cache=True, nogil=True)
def floats_at(address, count):
    """View ``count`` float32 values at an address. The caller keeps the memory alive."""
    return carray(as_pointer(address), count, np.float32)


@njit(cache=True, nogil=True)
def doubles_at(address, count):
    """View ``count`` float64 values at an address. The caller keeps the memory alive."""
    return carray(as_pointer(address), count, np.float64)


@njit(cache=True, nogil=True)
def cut_by_edges(row, left, x0, x1, y, edges):
    """Multiply a row's pixels by how far they lie within four edges: 0 half a pixel outside, 1 half a pixel inside.

    Of two parallel edges, one after the other, that are nearer than a pixel, a pixel is covered by what lies between.
    """
    for edge in (0, 2):
        one, two = 3 * edge, 3 * edge + 3
        parallel = edges[one] == -edges[two] and edges[one + 1] == -edges[two + 1]
        if parallel and edges[one + 2] + edges[two + 2] < 1.0:
            a, base = edges[one], edges[one + 1] * y + edges[one + 2]
            b, beyond = edges[two], edges[two + 1] * y + edges[two + 2]
            for x in range(x0, x1):
                near = min(max(a * x + base + 0.5, 0.0), 1.0)
                _keep(row, 4 * (x - left), max(near + min(max(b * x + beyond + 0.5, 0.0), 1.0) - 1.0, 0.0))
            continue
        _cut_by_edge(row, left, x0, x1, edges[one], edges[one + 1] * y + edges[one + 2])
        _cut_by_edge(row, left, x0, x1, edges[two], edges[two + 1] * y + edges[two + 2])


@njit(cache=True, nogil=True)
def _cut_by_edge(row, left, x0, x1, a, base):
    low, high = x0, x1
    # Only where the edge is nearer than half a pixel, or lies inwards of the pixel, is there anything to do.
    if a > 1e-12:
        high = min(x1, int(np.ceil((0.5 - base) / a)))
    elif a < -1e-12:
        low = max(x0, int(np.floor((0.5 - base) / a)) + 1)
    elif base >= 0.5:
        return
    for x in range(low, high):
        _keep(row, 4 * (x - left), min(max(a * x + base + 0.5, 0.0), 1.0))


@njit(cache=True, nogil=True)
def _keep(row, place, part):
    keep = np.float32(part)
    for c in range(4):
        row[place + c] *= keep


@njit(cache=True, nogil=True)
def fill_flat(row, left, x0, x1, colour, opacity):
    """Write one colour, given in ``colour[0:4]``."""
    single = np.empty(4, dtype=np.float32)
    for c in range(4):
        single[c] = colour[c]
    strength = np.float32(opacity)
    for i in range(4 * (x0 - left), 4 * (x1 - left), 4):
        scale4(row, i, single, 0, strength)


@njit(cache=True, nogil=True)
def sample_gradient(row, left, x0, x1, y, place, table, count, shape, opacity):
    """Look up a colour table of ``count`` entries by u (shape 0), the length of (u, v) (1) or its turn (2)."""
    strength, last = np.float32(opacity), np.float32(count - 1)
    du, dv = np.float32(place[0] * (count - 1)), np.float32(place[3] * (count - 1))
    u0 = np.float32((place[1] * y + place[2]) * (count - 1))
    v0 = np.float32((place[4] * y + place[5]) * (count - 1))
    steps, shares = np.empty(AT_ONCE, dtype=np.int32), np.empty(AT_ONCE, dtype=np.float32)
    for start in range(x0, x1, AT_ONCE):
        many = min(AT_ONCE, x1 - start)
        if shape == 0:
            for k in range(many):
                shares[k] = u0 + du * np.float32(np.int32(start + k))
        elif shape == 1:
            for k in range(many):
                x = np.float32(np.int32(start + k))
                t, v = u0 + du * x, v0 + dv * x
                shares[k] = np.sqrt(t * t + v * v)
        else:
            for k in range(many):
                x = np.float32(np.int32(start + k))
                turn = np.arctan2(v0 + dv * x, u0 + du * x) * np.float32(0.15915494309189535)
                shares[k] = (turn - np.floor(turn)) * last
        # Where in the table, for all of them at once.
        for k in range(many):
            t = min(max(shares[k], np.float32(0.0)), last)
            steps[k] = min(np.int32(t), np.int32(count - 2))
            shares[k] = (t - np.float32(steps[k])) * strength
        for k in range(many):
            i = 4 * np.int64(steps[k])
            mix4(row, 4 * (start + k - left), table, i, strength - shares[k], i + 4, shares[k])


@njit(cache=True, nogil=True)
def row_range(x0, x1, y, place, width, height):
    """Narrow [x0, x1) to the pixels whose bilinear footprint touches a source of this size."""
    low, high = -1e9, 1e9
    for axis in range(2):
        slope = place[3 * axis]
        base = place[3 * axis + 1] * y + place[3 * axis + 2]
        top = float(width if axis == 0 else height)
        if abs(slope) < 1e-12:
            if base <= -1.0 or base >= top:
                return x0, x0
            continue
        first, last = (-1.0 - base) / slope, (top - base) / slope
        low, high = max(low, min(first, last)), min(high, max(first, last))
    # The footprint alone decides which pixels count, never where a part of the frame is cut off.
    if high <= low:
        return x0, x0
    x0 = max(x0, int(np.floor(low)))
    return x0, max(min(x1, int(np.ceil(high)) + 1), x0)


@njit(cache=True, nogil=True)
def _add_rim(out, o, u, v, pixels, width, height, strength):
    """Add a sample at a place some of whose neighbours lie outside, where all is clear."""
    left, top = int(np.floor(u)), int(np.floor(v))
    for y in range(max(top, 0), min(top + 2, height)):
        for x in range(max(left, 0), min(left + 2, width)):
            share = (np.float32(1.0) - abs(u - np.float32(x))) * (np.float32(1.0) - abs(v - np.float32(y))) * strength
            for c in range(4):
                out[o + c] += share * pixels[4 * (y * width + x) + c]


@njit(cache=True, nogil=True)
def sample_open(out, o, u, v, count, pixels, width, height, strength, adding, corners, across, down):
    """Sample ``count`` places u, v (float32 arrays), ``strength`` times, to ``out`` from item ``o`` on, or add that.

    The pixels have no ring: around them all is clear. The upper left pixel of each, and how far right and down of it a
    place lies, is worked out for all at once first, in the last three arrays: no branch stops the compiler.
    """
    zero, right, bottom = np.float32(0.0), np.float32(width - 1), np.float32(height - 1)
    wide, outside = np.int32(width), np.int32(-1)
    for k in range(count):
        inside = (u[k] >= zero) & (u[k] < right) & (v[k] >= zero) & (v[k] < bottom)
        x, y = min(max(u[k], zero), right), min(max(v[k], zero), bottom)
        iu, iv = np.int32(x), np.int32(y)
        across[k] = x - np.float32(iu)
        down[k] = y - np.float32(iv)
        corners[k] = np.int32(iv * wide + iu) if inside else outside
    stride = 4 * width
    for k in range(count):
        p, i = 4 * np.int64(corners[k]), o + 4 * k
        if p >= 0 and adding:
            lerp_add4(out, i, pixels, p, p + stride, across[k], down[k], strength)
        elif p >= 0:
            lerp4(out, i, pixels, p, p + stride, across[k], down[k], strength)
        else:
            if not adding:
                out[i] = out[i + 1] = out[i + 2] = out[i + 3] = zero
            _add_rim(out, i, u[k], v[k], pixels, width, height, strength)


@njit(cache=True, nogil=True)
def batch():
    """Return room for the places of a batch and for what is worked out about them."""
    n = AT_ONCE
    return (
        np.empty(n, np.float32), np.empty(n, np.float32), np.empty(n, np.int32), np.empty(n, np.float32),
        np.empty(n, np.float32),
    )  # fmt: skip


@njit(cache=True, nogil=True)
def _sample_short(row, left, x0, x1, du, u0, dv, v0, pixels, width, height, strength, adding):
    """Do as ``_sample_row`` by the very same sums, one place after the other: for a few pixels that is quicker."""
    zero, right, bottom = np.float32(0.0), np.float32(width - 1), np.float32(height - 1)
    for x in range(x0, x1):
        u = min(max(du * np.float32(x) + u0, zero), right)
        v = min(max(dv * np.float32(x) + v0, zero), bottom)
        iu, iv = min(np.int32(u), np.int32(width - 2)), min(np.int32(v), np.int32(height - 2))
        p, i = 4 * (np.int64(iv) * width + iu), 4 * (x - left)
        if adding:
            lerp_add4(row, i, pixels, p, p + 4 * width, u - np.float32(iu), v - np.float32(iv), strength)
        else:
            lerp4(row, i, pixels, p, p + 4 * width, u - np.float32(iu), v - np.float32(iv), strength)


@njit(cache=True, nogil=True)
def lay_over(lines, left, width, from_y, box, place, pixels, across, down, opacity):
    """Lay pixels over several lines at once by the very same sums as ``sample_bilinear`` and source-over.

    For small pictures that is quicker: no row is filled first. ``lines`` (flat) are ``width`` pixels long each and
    begin at (left, from_y); ``box`` is what is drawn: left, top, right, bottom.
    """
    x_from, y_from, x_to, y_to = box
    strength, zero = np.float32(opacity), np.float32(0.0)
    right, bottom = np.float32(across - 1), np.float32(down - 1)
    last_u, last_v, stride = np.int32(across - 2), np.int32(down - 2), 4 * across
    du, dv = np.float32(place[0]), np.float32(place[3])
    for y in range(y_from, y_to):
        x0, x1 = row_range(x_from, x_to, y, place, across, down)
        u0, v0 = np.float32(place[1] * y + place[2]), np.float32(place[4] * y + place[5])
        i = 4 * (width * (y - from_y) + x0 - left)
        for x in range(x0, x1):
            u = min(max(du * np.float32(x) + u0, zero), right)
            v = min(max(dv * np.float32(x) + v0, zero), bottom)
            iu, iv = min(np.int32(u), last_u), min(np.int32(v), last_v)
            p = 4 * (np.int64(iv) * across + iu)
            lerp_over4(lines, i, pixels, p, p + stride, u - np.float32(iu), v - np.float32(iv), strength)
            i += 4


@njit(cache=True, nogil=True)
def find(start, y, place, width, height, corners, across, down):
    """Work out where ``BLOCK`` output pixels from ``start`` on lie: the first item of the upper left pixel, and the way
    beyond it.

    Always for a whole block, and without a branch, so that several are worked out at once. What lies outside comes
    from the clear ring.
    """
    zero, right, bottom = np.float32(0.0), np.float32(width - 1), np.float32(height - 1)
    wide, last_u, last_v, four = np.int32(width), np.int32(width - 2), np.int32(height - 2), np.int32(4)
    du, u0 = np.float32(place[0]), np.float32(place[1] * y + place[2])
    dv, v0 = np.float32(place[3]), np.float32(place[4] * y + place[5])
    for k in range(BLOCK):
        x = np.float32(np.int32(start + k))
        u, v = min(max(du * x + u0, zero), right), min(max(dv * x + v0, zero), bottom)
        iu, iv = min(np.int32(u), last_u), min(np.int32(v), last_v)
        across[k], down[k] = u - np.float32(iu), v - np.float32(iv)
        corners[k] = np.int32(np.int32(np.int32(iv * wide) + iu) * four)


@njit(cache=True, nogil=True)
def _sample_row(row, left, x0, x1, y, place, pixels, width, height, strength, adding):
    if x1 - x0 <= _FEW:
        du, dv = np.float32(place[0]), np.float32(place[3])
        u0, v0 = np.float32(place[1] * y + place[2]), np.float32(place[4] * y + place[5])
        _sample_short(row, left, x0, x1, du, u0, dv, v0, pixels, width, height, strength, adding)
        return
    corners, stride = np.empty(BLOCK, dtype=np.int32), 4 * width
    across, down = np.empty(BLOCK, dtype=np.float32), np.empty(BLOCK, dtype=np.float32)
    for start in range(x0, x1, BLOCK):
        find(start, y, place, width, height, corners, across, down)
        i = 4 * (start - left)
        for k in range(min(BLOCK, x1 - start)):
            p = np.int64(corners[k])
            if adding:
                lerp_add4(row, i + 4 * k, pixels, p, p + stride, across[k], down[k], strength)
            else:
                lerp4(row, i + 4 * k, pixels, p, p + stride, across[k], down[k], strength)


@njit(cache=True, nogil=True)
def sample_bilinear(row, left, x0, x1, y, place, pixels, width, height, opacity):
    """Sample uint8 or float32 pixels (flat, 4 a pixel) bilinearly; the outermost pixel ring is transparent.

    ``opacity`` includes the factor that brings the stored values to 0..1.
    """
    _sample_row(row, left, x0, x1, y, place, pixels, width, height, np.float32(opacity), False)


@njit(cache=True, nogil=True)
def sample_projective(row, left, x0, x1, y, place, pixels, width, height, opacity):
    """Sample as ``sample_bilinear`` does, under a projective map; what lies behind the eye (w <= 0) is clear."""
    zero, whole = np.float32(0.0), np.float32(opacity)
    wide, high, last_u, last_v = float(width), float(height), np.int32(width - 2), np.int32(height - 2)
    right, bottom, stride = wide - 1.0, high - 1.0, 4 * width
    _, _, corners, across, down = batch()
    shares = np.empty(AT_ONCE, dtype=np.float32)
    for start in range(x0, x1, AT_ONCE):
        count = min(AT_ONCE, x1 - start)
        # Without a branch, so that several are worked out at once.
        for k in range(count):
            x = float(np.int32(start + k))
            w = place[6] * x + place[7] * y + place[8]
            before = w > 1e-9
            by = w if before else 1.0
            u = (place[0] * x + place[1] * y + place[2]) / by
            v = (place[3] * x + place[4] * y + place[5]) / by
            inside = before & (u > -1.0) & (u < wide) & (v > -1.0) & (v < high)
            u, v = min(max(u, 0.0), right), min(max(v, 0.0), bottom)
            iu, iv = min(np.int32(u), last_u), min(np.int32(v), last_v)
            across[k], down[k] = np.float32(u - iu), np.float32(v - iv)
            corners[k] = np.int32(iv * np.int32(width) + iu)
            shares[k] = whole if inside else zero
        for k in range(count):
            p = 4 * np.int64(corners[k])
            lerp4(row, 4 * (start + k - left), pixels, p, p + stride, across[k], down[k], shares[k])


@njit(cache=True, nogil=True)
def add_bilinear(row, x0, x1, y, place, pixels, width, height, weight):
    """Add the samples times ``weight`` to the row; arguments as for ``sample_bilinear``."""
    _sample_row(row, 0, x0, x1, y, place, pixels, width, height, np.float32(weight), True)


@njit(cache=True, nogil=True)
def sample_straight(row, left, x0, x1, offset, pixels, opacity):
    """Copy pixels that fall on output pixels exactly: output pixel x takes source pixel x + offset."""
    strength = np.float32(opacity)
    for x in range(x0, x1):
        scale4(row, 4 * (x - left), pixels, 4 * (x + offset), strength)


@njit(cache=True, nogil=True)
def cover_row(row, left, x0, x1, offset, cover):
    """Multiply pixels by one channel: output pixel x takes item x + offset."""
    for x in range(x0, x1):
        scale4(row, 4 * (x - left), row, 4 * (x - left), cover[x + offset])
