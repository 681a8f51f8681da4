"""Draw a whole table of operations band by band, so that a band stays in cache from first layer to output.

The table is an array of ``OPERATION``, one row an operation, back to front. PUSH begins a picture of its own, empty at
first; what follows is drawn into it, until the POP that belongs to it mixes it with what lies beneath. COVER multiplies
what is drawn so far by a cover: one float32 channel that lies in the frame's own grid; CUT by how far each pixel lies
within four edges. All sources are sRGB-encoded; what is drawn so far may be ``linear`` light. DECODE and ENCODE turn it
from one into the other.
"""

import numpy as np
from numba import njit

from spiralis.core.compositing.kernels.blending import NORMAL, blend_row
from spiralis.core.compositing.kernels.colouring import colour_row
from spiralis.core.compositing.kernels.lanes import scale4
from spiralis.core.compositing.kernels.light import decode_premultiplied, encode_premultiplied
from spiralis.core.compositing.kernels.output import store_rgba, store_yuv
from spiralis.core.compositing.kernels.sampling import (
    bytes_at,
    cover_row,
    cut_by_edges,
    doubles_at,
    fill_flat,
    floats_at,
    lay_over,
    row_range,
    sample_bilinear,
    sample_gradient,
    sample_projective,
    sample_straight,
)

FLAT, LINEAR, RADIAL, CONIC, BYTES, FLOATS, BYTES_STRAIGHT, FLOATS_STRAIGHT = range(8)
COLOUR, PUSH, POP, COVER, DECODE, ENCODE, CUT = range(8, 15)
OPERATION = np.dtype(
    [
        ("kind", np.int64),
        ("mode", np.int64),  # blend mode, see ``blending``
        ("left", np.int64),  # the output box, half-open: right and bottom lie outside
        ("top", np.int64),
        ("right", np.int64),
        ("bottom", np.int64),
        ("source", np.int64),  # address of the source's values
        ("across", np.int64),  # width of the source; of gradients and colour steps, how many values there are
        ("down", np.int64),  # height of the source; of gradients and flat colours, 1 where all of them are solid
        ("edges", np.int64),  # address of four edges that cut it, or 0
        ("place", np.float64, (9,)),  # from output pixels to the source, see ``sampling``
        ("opacity", np.float64),
        ("colour", np.float64, (4,)),  # premultiplied
        ("linear", np.int64),  # 1 where what it is mixed with is linear light
    ]
)
#: An edge is three float64: a x + b y + c is the distance inwards from it, in pixels, of a pixel's centre.
EDGES = 12
OUT_FLOAT, OUT_RGBA, OUT_YUV = range(3)
BAND = 32
#: Pictures seen as narrow as that are laid over what is there pixel by pixel.
_SMALL = 64


@njit(cache=True, nogil=True)
def draw_bands(operations, background, area, y_from, y_to, kind, out, rgba, luma, cb, cr):
    """Draw rows of the part of a frame that ``area`` (left, top, right, bottom) cuts out of it.

    What a pixel gets depends on where it lies in the frame alone, bit for bit, and not on the part.

    Args:
        operations: the table, by the frame's own pixels.
        background: four premultiplied floats.
        area: four integers.
        y_from, y_to: the rows of the part; ``y_from`` is a multiple of BAND.
        kind: which output is written: ``out`` (flat float32), ``rgba`` (height, width, 4) uint8, or the planes
            ``luma``, ``cb``, ``cr``; the others may be empty.
    """
    left, top, right, bottom = area
    width, height = right - left, bottom - top
    row = np.empty(4 * width, dtype=np.float32)
    covered = operations.size > 0 and _covers(operations[0], area)
    accumulator = np.empty(0 if kind == OUT_FLOAT else 4 * width * BAND, dtype=np.float32)
    pushed = np.empty(4 * width * BAND * _depth(operations), dtype=np.float32)
    for band in range(y_from, y_to, BAND):
        stop = min(band + BAND, y_to)
        size = 4 * width * (stop - band)
        if kind == OUT_FLOAT:
            lines = out[4 * width * band : 4 * width * stop]
        else:
            lines = accumulator[:size]
        if not covered:
            for i in range(0, size, 4):
                scale4(lines, i, background, 0, np.float32(1.0))
        part = (left, band + top, right, stop + top)
        level = 0
        for index in range(operations.size):
            operation = operations[index]
            shapes = operation.kind != PUSH and operation.kind != POP
            if shapes and (operation.bottom <= part[1] or operation.top >= part[3]):
                continue
            level -= operation.kind == POP
            start = 4 * width * BAND * (level - 1)
            target = lines if level == 0 else pushed[start : start + size]
            if operation.kind == PUSH:
                start = 4 * width * BAND * level
                _clear(operation, pushed[start : start + size], part)
                level += 1
            elif operation.kind == POP:
                start = 4 * width * BAND * level
                _mix(operation, pushed[start : start + size], target, part)
            else:
                _draw_operation(operation, row, target, part)
        if kind == OUT_RGBA:
            store_rgba(lines, 0, rgba, band, stop, width, True, False, left, top)
        elif kind == OUT_YUV:
            store_yuv(lines, 0, luma, cb, cr, band, stop, width, height, True)


@njit(cache=True, nogil=True)
def _covers(operation, area):
    """Whether the backmost operation is solid over the whole part, so that nothing beneath it shows."""
    solid = operation.kind <= CONIC and operation.down == 1 and operation.mode == NORMAL and operation.edges == 0
    from_corner = operation.left <= area[0] and operation.top <= area[1]
    return solid and from_corner and operation.right >= area[2] and operation.bottom >= area[3]


@njit(cache=True, nogil=True)
def _depth(operations):
    """Return how many pictures of their own lie within each other at most."""
    deepest = level = 0
    for index in range(operations.size):
        if operations[index].kind == PUSH:
            level += 1
            deepest = max(deepest, level)
        elif operations[index].kind == POP:
            level -= 1
    return deepest


@njit(cache=True, nogil=True)
def _seen(operation, part):
    """Return the box of an operation within a part: left, top, right, bottom, not turned around."""
    left, top = max(operation.left, part[0]), max(operation.top, part[1])
    return left, top, max(min(operation.right, part[2]), left), max(min(operation.bottom, part[3]), top)


@njit(cache=True, nogil=True)
def _clear(operation, lines, part):
    x0, y0, x1, y1 = _seen(operation, part)
    for y in range(y0, y1):
        base = (part[2] - part[0]) * (y - part[1]) - part[0]
        lines[4 * (base + x0) : 4 * (base + x1)] = 0.0


@njit(cache=True, nogil=True)
def _mix(operation, above, beneath, part):
    """Mix a picture of its own with what lies beneath it; ``above`` is used up."""
    opacity = np.float32(operation.opacity)
    x0, y0, x1, y1 = _seen(operation, part)
    for y in range(y0, y1):
        base = (part[2] - part[0]) * (y - part[1]) - part[0]
        first, last = 4 * (base + x0), 4 * (base + x1)
        if opacity != np.float32(1.0):
            for i in range(first, last, 4):
                scale4(above, i, above, i, opacity)
        blend_row(operation.mode, above[first:last], beneath[first:last])


@njit(cache=True, nogil=True)
def _draw_picture(operation, row, lines, part, pixels, strength):
    """Draw stored pixels under an affine map; what all rows share is looked up once, as pictures may be small."""
    mode, across, down, edges, linear = (
        operation.mode, operation.across, operation.down, operation.edges, operation.linear,
    )  # fmt: skip
    place = operation.place
    left, width = part[0], part[2] - part[0]
    from_x, from_y, to_x, to_y = _seen(operation, part)
    if mode == NORMAL and edges == 0 and not linear and to_x - from_x <= _SMALL:
        box = (from_x, from_y, to_x, to_y)
        lay_over(lines, left, width, part[1], box, place, pixels, across, down, strength)
        return
    for y in range(from_y, to_y):
        x0, x1 = row_range(from_x, to_x, y, place, across, down)
        if x1 <= x0:
            continue
        sample_bilinear(row, left, x0, x1, y, place, pixels, across, down, strength)
        first, last = 4 * (x0 - left), 4 * (x1 - left)
        if linear:
            decode_premultiplied(row[first:last], np.float32(1.0), row[first:last])
        if edges != 0:
            cut_by_edges(row, left, x0, x1, y, doubles_at(edges, EDGES))
        base = 4 * width * (y - part[1])
        blend_row(mode, row[first:last], lines[base + first : base + last])


@njit(cache=True, nogil=True)
def _draw_operation(operation, row, lines, part):
    stored = operation.kind == BYTES or operation.kind == FLOATS
    if stored and operation.place[6] == 0.0 and operation.place[7] == 0.0:
        count = 4 * operation.across * operation.down
        if operation.kind == BYTES:
            _draw_picture(operation, row, lines, part, bytes_at(operation.source, count), operation.opacity / 255.0)
        else:
            _draw_picture(operation, row, lines, part, floats_at(operation.source, count), operation.opacity)
        return
    kind, mode, place, opacity = operation.kind, operation.mode, operation.place, operation.opacity
    left, width = part[0], part[2] - part[0]
    from_x, from_y, to_x, to_y = _seen(operation, part)
    solid = kind <= CONIC and operation.down == 1 and mode == NORMAL and operation.edges == 0
    for y in range(from_y, to_y):
        x0, x1 = from_x, to_x
        base = 4 * width * (y - part[1])
        line = lines[base : base + 4 * width]
        first, last = 4 * (x0 - left), 4 * (x1 - left)
        if kind == DECODE:
            decode_premultiplied(line[first:last], np.float32(1.0), line[first:last])
            continue
        if kind == ENCODE:
            encode_premultiplied(line[first:last])
            continue
        if kind == COLOUR:
            steps = floats_at(operation.source, 16 * operation.across)
            if operation.linear:
                encode_premultiplied(line[first:last])
            colour_row(line, x0 - left, x1 - left, steps, operation.across, opacity)
            if operation.linear:
                decode_premultiplied(line[first:last], np.float32(1.0), line[first:last])
            continue
        if kind == COVER:
            cover = floats_at(operation.source, operation.across * operation.down)
            cover_row(line, left, x0, x1, int(place[2]) + operation.across * (y + int(place[5])), cover)
            continue
        if kind == CUT:
            cut_by_edges(line, left, x0, x1, y, doubles_at(operation.edges, EDGES))
            continue
        target = line if solid else row
        if kind == FLAT:
            fill_flat(target, left, x0, x1, operation.colour, opacity)
        elif kind <= CONIC:
            table = floats_at(operation.source, 4 * operation.across)
            sample_gradient(target, left, x0, x1, y, place, table, operation.across, kind - LINEAR, opacity)
        else:
            x0, x1 = _sample(operation, row, left, x0, x1, y)
        first, last = 4 * (x0 - left), 4 * (x1 - left)
        if operation.linear:
            decode_premultiplied(target[first:last], np.float32(1.0), target[first:last])
        if solid:
            continue
        if operation.edges != 0:
            cut_by_edges(row, left, x0, x1, y, doubles_at(operation.edges, EDGES))
        blend_row(mode, row[first:last], line[first:last])


@njit(cache=True, nogil=True)
def _sample(operation, row, left, x0, x1, y):
    """Fill a row from stored pixels, straight or in perspective; return the part of it that was filled."""
    kind, place, opacity = operation.kind, operation.place, operation.opacity
    across, down = operation.across, operation.down
    count = 4 * across * down
    if kind >= BYTES_STRAIGHT:
        offset = int(place[2]) + across * (y + int(place[5]))
        if kind == BYTES_STRAIGHT:
            sample_straight(row, left, x0, x1, offset, bytes_at(operation.source, count), opacity / 255.0)
        else:
            sample_straight(row, left, x0, x1, offset, floats_at(operation.source, count), opacity)
        return x0, x1
    if kind == BYTES:
        pixels = bytes_at(operation.source, count)
        sample_projective(row, left, x0, x1, y, place, pixels, across, down, opacity / 255.0)
    else:
        sample_projective(row, left, x0, x1, y, place, floats_at(operation.source, count), across, down, opacity)
    return x0, x1
