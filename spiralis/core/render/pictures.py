"""Add pictures to a table: one under a map, or one again and again under many."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from spiralis.core.compositing.kernels import bands
from spiralis.core.geometry import Affine, Map, Projection, projection
from spiralis.core.raster.raster import Raster
from spiralis.core.render.table import Table, moved_by


def add_pixels(table: Table, drawing: Raster, to_output: Map, mode: int, opacity: float) -> None:
    """Add a picture under a map from its own pixels to the output; one that flattens it adds nothing."""
    inverse = to_output.inverse()
    if inverse is None:
        return
    if isinstance(to_output, Projection) or isinstance(inverse, Projection):
        _add_in_perspective(table, drawing, projection(to_output), projection(inverse), mode, opacity)
        return
    data = drawing.data
    height, width = data.shape[:2]
    kind = bands.BYTES if data.dtype == np.uint8 else bands.FLOATS
    box = to_output.box((0.0, 0.0, float(width), float(height)))
    dx, dy = round(inverse.e), round(inverse.f)
    if to_output.is_shift and abs(inverse.e - dx) + abs(inverse.f - dy) < 1e-6:
        box = (-dx, -dy, width - dx, height - dy)
        straight = {bands.BYTES: bands.BYTES_STRAIGHT, bands.FLOATS: bands.FLOATS_STRAIGHT}[kind]
        table.add(straight, mode, box, data, (width, height), moved_by(dx, dy), opacity)
        return
    table.add(kind, mode, box, data, (width, height), sampling_place(inverse, 0.5), opacity)


def _add_in_perspective(
    table: Table, drawing: Raster, to_output: Projection, inverse: Projection, mode: int, opacity: float
) -> None:
    height, width = drawing.data.shape[:2]
    kind = bands.BYTES if drawing.data.dtype == np.uint8 else bands.FLOATS
    box = to_output.box((0.0, 0.0, float(width), float(height)))
    place = tuple(Affine.shift(-0.5, -0.5) @ inverse @ Affine.shift(0.5, 0.5))
    if place[6] == 0.0 and place[7] == 0.0:
        # Seen straight on it is an affine map, and the sampler takes it to be divided already.
        place = tuple(number / place[8] for number in place)
    table.add(kind, mode, box, drawing.data, (width, height), place, opacity)


def sampling_place(inverse: Affine, centre: float) -> tuple[float, ...]:
    """Return the sampler's map for output pixel *centres*; ``centre`` is where a source value sits in its cell."""
    u, v = inverse.apply(0.5, 0.5)
    return inverse.a, inverse.c, u - centre, inverse.b, inverse.d, v - centre, 0.0, 0.0, 1.0


def add_many(
    table: Table, drawings: Sequence[Raster], of: np.ndarray, to_output: np.ndarray, opacities: np.ndarray
) -> None:
    """Add pictures under many maps, in order; the same as ``add_pixels`` for each, at the speed of arrays.

    Args:
        of: int (n,), which of the drawings each one is.
        to_output: float64 (n, 6), rows of ``Affine`` numbers a to f, from the drawing's own pixels.
        opacities: float64 (n,), 0 to 1.
    """
    facts = np.array([_facts(drawing) for drawing in drawings], dtype=np.int64)[of]
    kinds, _, width, height = facts.T
    a, b, c, d, e, f = to_output.T
    det = a * d - b * c
    zero = np.zeros(len(of))
    xs, ys = np.column_stack([zero, width, zero, width]), np.column_stack([zero, zero, height, height])
    across = a[:, None] * xs + c[:, None] * ys + e[:, None]
    down = b[:, None] * xs + d[:, None] * ys + f[:, None]
    left, top, right, bottom = table.frame
    x0, x1 = np.maximum(across.min(axis=1), left), np.minimum(across.max(axis=1), right)
    y0, y1 = np.maximum(down.min(axis=1), top), np.minimum(down.max(axis=1), bottom)
    seen = np.isfinite(det) & (np.abs(det) >= 1e-12) & (x1 > x0) & (y1 > y0)
    if not seen.any():
        return
    a, b, c, d, e, f, det = (part[seen] for part in (a, b, c, d, e, f, det))
    # The inverse, seen from the middles of pixels.
    ia, ib, ic, id_ = d / det, -b / det, -c / det, a / det
    u = (c * f - d * e) / det + 0.5 * (ia + ic) - 0.5
    v = (b * e - a * f) / det + 0.5 * (ib + id_) - 0.5
    rows = np.zeros(len(a), dtype=bands.OPERATION)
    for name, bound in (("left", np.floor(x0)), ("top", np.floor(y0)), ("right", np.ceil(x1)), ("bottom", np.ceil(y1))):
        rows[name] = bound[seen]
    rows["kind"], rows["opacity"] = kinds[seen], opacities[seen]
    rows["source"], rows["across"], rows["down"] = facts[seen, 1:].T
    rows["place"][:, :6] = np.column_stack([ia, ic, u, ib, id_, v])
    rows["place"][:, 8] = 1.0
    table.add_rows([rows], [drawing.data for drawing in drawings])


def _facts(drawing: Raster) -> tuple[int, int, int, int]:
    """Return the kind of a picture's operation, where its pixels are in memory, its width and height."""
    data = drawing.data
    kind = bands.BYTES if data.dtype == np.uint8 else bands.FLOATS
    return kind, data.ctypes.data, data.shape[1], data.shape[0]
