"""Draw a whole table of operations band by band, so that a band stays in cache from first layer to output.

The table has one row an operation, back to front.

``numbers`` int64 (n, 10): kind, blend mode, x0, y0, x1, y1 (half-open output box), address of the source's
values, its width, its height (for gradients and flat colours: the number of table entries, and 1 where
all of them are solid; for colour steps how many there are), and the address of four edges that cut it, or 0. An edge
is three float64: a x + b y + c is the distance inwards from it, in pixels, of a pixel's centre.
``reals`` float64 (n, 11): six of the place (see ``sampling``), opacity, four of a flat colour.
"""

import numpy as np
from numba import njit

from spiralis.core.compositing.kernels.blending import NORMAL, blend_row
from spiralis.core.compositing.kernels.colouring import colour_row
from spiralis.core.compositing.kernels.lanes import scale4
from spiralis.core.compositing.kernels.output import store_rgba, store_yuv
from spiralis.core.compositing.kernels.sampling import (
    bytes_at,
    cut_by_edges,
    doubles_at,
    fill_flat,
    floats_at,
    row_range,
    sample_bilinear,
    sample_gradient,
    sample_straight,
)

FLAT, LINEAR, RADIAL, CONIC, BYTES, FLOATS, BYTES_STRAIGHT, FLOATS_STRAIGHT, COLOUR = range(9)
#: Columns of ``numbers`` and ``reals``.
NUMBERS, REALS = 10, 11
OUT_FLOAT, OUT_RGBA, OUT_YUV = range(3)
BAND = 32


@njit(cache=True, nogil=True)
def draw_bands(numbers, reals, background, width, height, y_from, y_to, kind, out, rgba, luma, cb, cr):
    """Draw rows y_from..y_to (y_from a multiple of BAND) of the frame that the table describes.

    ``background`` holds four premultiplied floats. ``kind`` says which of the outputs is written: ``out``
    (flat float32), ``rgba`` (height, width, 4) uint8, or the planes ``luma``, ``cb``, ``cr``; the others
    may be empty.
    """
    row = np.empty(4 * width, dtype=np.float32)
    # Where the backmost operation is solid over the whole frame, nothing beneath it shows.
    covered = numbers.shape[0] > 0 and numbers[0, 0] <= CONIC and numbers[0, 8] == 1 and numbers[0, 1] == NORMAL
    covered = covered and numbers[0, 9] == 0 and numbers[0, 2] <= 0 and numbers[0, 3] <= 0
    covered = covered and numbers[0, 4] >= width and numbers[0, 5] >= height
    accumulator = np.empty(0 if kind == OUT_FLOAT else 4 * width * BAND, dtype=np.float32)
    for band in range(y_from, y_to, BAND):
        stop = min(band + BAND, y_to)
        if kind == OUT_FLOAT:
            lines = out[4 * width * band : 4 * width * stop]
        else:
            lines = accumulator[: 4 * width * (stop - band)]
        if not covered:
            for i in range(0, lines.size, 4):
                scale4(lines, i, background, 0, np.float32(1.0))
        for index in range(numbers.shape[0]):
            _draw_operation(numbers[index], reals[index], row, lines, width, band, stop)
        if kind == OUT_RGBA:
            store_rgba(lines, 0, rgba, band, stop, width, True, False)
        elif kind == OUT_YUV:
            store_yuv(lines, 0, luma, cb, cr, band, stop, width, height, True)


@njit(cache=True, nogil=True)
def _draw_operation(numbers, reals, row, lines, width, band, stop):
    kind, mode = numbers[0], numbers[1]
    opacity = reals[6]
    first, last = max(band, numbers[3]), min(stop, numbers[5])
    solid = kind <= CONIC and numbers[8] == 1 and mode == NORMAL and numbers[9] == 0
    for y in range(first, last):
        x0, x1 = numbers[2], numbers[4]
        base = 4 * width * (y - band)
        if kind == COLOUR:
            line = lines[base : base + 4 * width]
            colour_row(line, x0, x1, floats_at(numbers[6], 16 * numbers[7]), numbers[7], opacity)
            continue
        if solid:
            line = lines[base : base + 4 * width]
            if kind == FLAT:
                fill_flat(line, x0, x1, reals[7:11], opacity)
            else:
                table = floats_at(numbers[6], 4 * numbers[7])
                sample_gradient(line, x0, x1, y, reals, table, numbers[7], kind - LINEAR, opacity)
            continue
        if kind == FLAT:
            fill_flat(row, x0, x1, reals[7:11], opacity)
        elif kind <= CONIC:
            table = floats_at(numbers[6], 4 * numbers[7])
            sample_gradient(row, x0, x1, y, reals, table, numbers[7], kind - LINEAR, opacity)
        elif kind <= FLOATS:
            x0, x1 = row_range(x0, x1, y, reals, numbers[7], numbers[8])
            count = 4 * numbers[7] * numbers[8]
            if kind == BYTES:
                pixels = bytes_at(numbers[6], count)
                sample_bilinear(row, x0, x1, y, reals, pixels, numbers[7], numbers[8], opacity / 255.0)
            else:
                values = floats_at(numbers[6], count)
                sample_bilinear(row, x0, x1, y, reals, values, numbers[7], numbers[8], opacity)
        else:
            offset = 4 * (int(reals[2]) + numbers[7] * (y + int(reals[5])))
            count = 4 * numbers[7] * numbers[8]
            if kind == BYTES_STRAIGHT:
                sample_straight(row, x0, x1, offset, bytes_at(numbers[6], count), opacity / 255.0)
            else:
                sample_straight(row, x0, x1, offset, floats_at(numbers[6], count), opacity)
        if numbers[9] != 0:
            cut_by_edges(row, x0, x1, y, doubles_at(numbers[9], 12))
        blend_row(mode, row[4 * x0 : 4 * x1], lines[base + 4 * x0 : base + 4 * x1])
