"""Add pictures to a table: one under a map, or one again and again under many."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from spiralis.core.cache import Beside
from spiralis.core.compositing.blend import REACHING
from spiralis.core.compositing.kernels import bands
from spiralis.core.geometry import Affine, Box, Map, Projection, WholeBox, box_of, projection
from spiralis.core.media.pixels import filled_box
from spiralis.core.raster.raster import Raster
from spiralis.core.render.table import Table, moved_by

#: Looking for what is clear of a picture of fewer pixels takes longer than drawing that.
_SMALL = 4096
#: What of a picture is not clear, beside its pixels.
_boxes: Beside[list[WholeBox]] = Beside(list)


def add_pixels(table: Table, drawing: Raster, to_output: Map, mode: int, opacity: float) -> None:
    """Add a picture under a map from its own pixels to the output; one that flattens it adds nothing."""
    inverse, data = to_output.inverse(), drawing.data
    height, width = data.shape[:2]
    shown = _shown(data) if mode not in REACHING else (0, 0, width, height)
    if inverse is None or shown is None:
        return
    box = to_output.box(box_of(shown))
    if isinstance(to_output, Projection) or isinstance(inverse, Projection):
        _add_in_perspective(table, drawing, box, projection(inverse), mode, opacity)
        return
    kind = bands.BYTES if data.dtype == np.uint8 else bands.FLOATS
    dx, dy = round(inverse.e), round(inverse.f)
    if to_output.is_shift and abs(inverse.e - dx) + abs(inverse.f - dy) < 1e-6:
        box = (shown[0] - dx, shown[1] - dy, shown[2] - dx, shown[3] - dy)
        straight = {bands.BYTES: bands.BYTES_STRAIGHT, bands.FLOATS: bands.FLOATS_STRAIGHT}[kind]
        table.add(straight, mode, box, data, (width, height), moved_by(dx, dy), opacity)
        return
    table.add(kind, mode, box, data, (width, height), (*inverse.between_pixels(), 0.0, 0.0, 1.0), opacity)


def _add_in_perspective(
    table: Table, drawing: Raster, box: Box, inverse: Projection, mode: int, opacity: float
) -> None:
    height, width = drawing.data.shape[:2]
    kind = bands.BYTES if drawing.data.dtype == np.uint8 else bands.FLOATS
    place = tuple(Affine.shift(-0.5, -0.5) @ inverse @ Affine.shift(0.5, 0.5))
    if place[6] == 0.0 and place[7] == 0.0:
        # Seen straight on it is an affine map, and the sampler takes it to be divided already.
        place = tuple(number / place[8] for number in place)
    table.add(kind, mode, box, drawing.data, (width, height), place, opacity)


def _shown(pixels: np.ndarray) -> WholeBox | None:
    """Return the box of a picture's pixels outside of which all of it is clear, None where it is clear everywhere.

    With a pixel more on each side, as samples mix neighbours; of small pictures always all.
    """
    height, width = pixels.shape[:2]
    if height * width < _SMALL:
        return 0, 0, width, height
    known = _boxes.of(pixels)
    if not known:
        known.append(filled_box(pixels))
    left, top, right, bottom = known[0]
    if right == 0:
        return None
    return max(left - 1, 0), max(top - 1, 0), min(right + 1, width), min(bottom + 1, height)


def add_many(
    table: Table, drawings: Sequence[Raster], of: np.ndarray, to_output: np.ndarray, opacities: np.ndarray
) -> None:
    """Add pictures under many maps, in order; the same as ``add_pixels`` for each, at the speed of arrays.

    Args:
        of: int (n,), which of the drawings each one is.
        to_output: float64 (n, 6), rows of ``Affine`` numbers a to f, from the drawing's own pixels.
        opacities: float64 (n,), 0 to 1.
    """
    every = np.array([_facts(drawing) for drawing in drawings], dtype=np.int64)
    width, height = every[of, 2], every[of, 3]
    a, b, c, d, e, f = np.ascontiguousarray(to_output.T)
    det = a * d - b * c
    left, top, right, bottom = table.frame
    # Corners lie where the sides reach on one hand or the other.
    aw, ch, bw, dh = a * width, c * height, b * width, d * height
    x0 = np.maximum(np.minimum(aw, 0) + np.minimum(ch, 0) + e, left)
    x1 = np.minimum(np.maximum(aw, 0) + np.maximum(ch, 0) + e, right)
    y0 = np.maximum(np.minimum(bw, 0) + np.minimum(dh, 0) + f, top)
    y1 = np.minimum(np.maximum(bw, 0) + np.maximum(dh, 0) + f, bottom)
    seen = np.flatnonzero(np.isfinite(det) & (np.abs(det) >= 1e-12) & (x1 > x0) & (y1 > y0))
    if not len(seen):
        return
    facts = every[of[seen]]
    a, b, c, d, e, f, det = (part[seen] for part in (a, b, c, d, e, f, det))
    # The inverse, seen from the middles of pixels.
    ia, ib, ic, id_ = d / det, -b / det, -c / det, a / det
    u = (c * f - d * e) / det + 0.5 * (ia + ic) - 0.5
    v = (b * e - a * f) / det + 0.5 * (ib + id_) - 0.5
    rows = np.zeros(len(a), dtype=bands.OPERATION)
    for name, bound in (("left", np.floor(x0)), ("top", np.floor(y0)), ("right", np.ceil(x1)), ("bottom", np.ceil(y1))):
        rows[name] = bound[seen]
    rows["kind"], rows["source"], rows["across"], rows["down"] = facts.T
    rows["opacity"] = opacities[seen]
    rows["place"][:, :6] = np.column_stack([ia, ic, u, ib, id_, v])
    rows["place"][:, 8] = 1.0
    table.add_rows([rows], [drawing.data for drawing in drawings])


def _facts(drawing: Raster) -> tuple[int, int, int, int]:
    """Return the kind of a picture's operation, where its pixels are in memory, its width and height."""
    data = drawing.data
    kind = bands.BYTES if data.dtype == np.uint8 else bands.FLOATS
    return kind, data.ctypes.data, data.shape[1], data.shape[0]
