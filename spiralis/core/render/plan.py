"""Turn one frame into a small table of draw operations (see ``compositing/kernels/bands.py``)."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
from attrs import field, frozen

from spiralis.core.colour import Colour
from spiralis.core.compositing.blend import mode_number
from spiralis.core.compositing.kernels import bands
from spiralis.core.compositing.motion_blur import smeared
from spiralis.core.geometry import Affine, Box, intersect, outward
from spiralis.core.model import Composition, Layer, Project, layer_kind
from spiralis.core.raster.drawing import Drawing, Gradient, Pixels
from spiralis.core.raster.gradients import draw_gradient
from spiralis.core.render.layers import Evaluated, matrices_over

_STRAIGHT = {bands.BYTES: bands.BYTES_STRAIGHT, bands.FLOATS: bands.FLOATS_STRAIGHT}


@frozen(eq=False)
class FramePlan:
    """Everything the kernel needs to draw one frame; ``keeps`` holds the arrays that the table points into."""

    width: int
    height: int
    numbers: np.ndarray
    reals: np.ndarray
    background: np.ndarray
    keeps: tuple[Any, ...] = field(repr=False)


class _Table:
    """Collects operations, back to front."""

    def __init__(self, frame: Box) -> None:
        self.frame = frame
        self.numbers: list[tuple[int, ...]] = []
        self.reals: list[tuple[float, ...]] = []
        self.keeps: list[np.ndarray] = []

    def add(self, kind: int, mode: int, box: Box, array: np.ndarray, size: tuple[int, int], place: tuple[float, ...],
            opacity: float, colour: tuple[float, ...] = (0.0, 0.0, 0.0, 0.0)) -> None:  # fmt: skip
        """Add one operation; ``box`` is cut to the frame."""
        seen = intersect(box, self.frame)
        if seen is None:
            return
        x0, y0, x1, y1 = (int(v) for v in outward(seen))
        self.numbers.append((kind, mode, x0, y0, x1, y1, array.ctypes.data, *size))
        self.reals.append((*place, opacity, *colour))
        self.keeps.append(array)


def output_size(composition: Composition, scale: float) -> tuple[int, int]:
    """Return the size in pixels of a frame at a scale, at least 1 by 1."""
    return max(1, round(composition.width * scale)), max(1, round(composition.height * scale))


def plan_frame(project: Project, composition_id: str, frame: float, scale: float = 1.0) -> FramePlan:
    """Return the plan of a frame. Frames outside the composition wrap where it loops, else they clamp.

    Raises:
        UnknownName: no such composition.
    """
    composition = project.composition(composition_id)
    frame = wrapped(composition, frame)
    width, height = output_size(composition, scale)
    to_output = Affine.scaling(width / composition.width, height / composition.height)
    at = Evaluated(project, composition, frame)
    table = _Table((0.0, 0.0, float(width), float(height)))
    for layer in reversed(composition.layers):
        if layer.shown_at(frame):
            _add_layer(table, at, layer, to_output)
    return FramePlan(
        width,
        height,
        np.array(table.numbers, dtype=np.int64).reshape(-1, 9),
        np.array(table.reals, dtype=np.float64).reshape(-1, 11),
        _premultiplied(composition.background),
        tuple(table.keeps),
    )


def wrapped(composition: Composition, frame: float) -> float:
    """Return the frame folded into a looping composition: frame N + length is frame N."""
    if composition.loop:
        return frame % composition.length
    return min(max(frame, 0), composition.length - 1)


def _premultiplied(colour: Colour | None) -> np.ndarray:
    r, g, b, a = colour or (0.0, 0.0, 0.0, 0.0)
    return np.array([r * a, g * a, b * a, a], dtype=np.float32)


def _add_layer(table: _Table, at: Evaluated, layer: Layer, to_output: Affine) -> None:
    values = at.values(layer)
    opacity = values["opacity"] / 100
    if opacity <= 0 or not values["visible"]:
        return
    matrix = to_output @ at.matrix(layer)
    mode = mode_number(values["blend"])
    piece = at.composition
    if values["motion_blur"] and piece.shutter_angle > 0:
        matrices = _shutter_matrices(at, layer, to_output)
        if matrices is not None:
            _add_smeared(table, at, layer, matrix, matrices, mode, opacity)
            return
    drawing = layer_kind(layer.kind).draw(values, at.scene, matrix, table.frame)
    if drawing is not None:
        _add_drawing(table, drawing, matrix, mode, opacity)


def _add_drawing(table: _Table, drawing: Drawing, matrix: Affine, mode: int, opacity: float) -> None:
    if isinstance(drawing, Gradient):
        if _covers(matrix, drawing.box, table.frame):
            _add_gradient(table, drawing, matrix, mode, opacity)
            return
        drawing = draw_gradient(drawing)
    _add_pixels(table, drawing, matrix @ drawing.to_layer, mode, opacity)


def _add_gradient(table: _Table, drawing: Gradient, matrix: Affine, mode: int, opacity: float) -> None:
    inverse = matrix.inverse()
    if inverse is None:
        return
    kind = bands.FLAT if drawing.flat else bands.RADIAL if drawing.radial else bands.LINEAR
    place = _place(drawing.to_ramp @ inverse, 0.0)
    colour = tuple(float(v) for v in drawing.table[0])
    solid = int(opacity >= 1 and bool((drawing.table[:, 3] >= 1).all()))
    table.add(kind, mode, table.frame, drawing.table, (len(drawing.table), solid), place, opacity, colour)


def _add_pixels(table: _Table, drawing: Pixels, to_output: Affine, mode: int, opacity: float) -> None:
    inverse = to_output.inverse()
    if inverse is None:
        return
    data = drawing.data
    height, width = data.shape[:2]
    kind = bands.BYTES if data.dtype == np.uint8 else bands.FLOATS
    box = to_output.box((0.0, 0.0, float(width), float(height)))
    dx, dy = round(inverse.e), round(inverse.f)
    if to_output.is_shift and abs(inverse.e - dx) + abs(inverse.f - dy) < 1e-6:
        place = (1.0, 0.0, float(dx), 0.0, 1.0, float(dy))
        table.add(_STRAIGHT[kind], mode, (-dx, -dy, width - dx, height - dy), data, (width, height), place, opacity)
        return
    table.add(kind, mode, box, data, (width, height), _place(inverse, 0.5), opacity)


def _place(inverse: Affine, centre: float) -> tuple[float, ...]:
    """Return the sampler's map for output pixel *centres*; ``centre`` is where a source value sits in its cell."""
    u, v = inverse.apply(0.5, 0.5)
    return inverse.a, inverse.c, u - centre, inverse.b, inverse.d, v - centre


def _covers(matrix: Affine, box: Box, frame: Box) -> bool:
    """Whether the image of a box covers the whole frame."""
    inverse = matrix.inverse()
    if inverse is None:
        return False
    left, top, right, bottom = inverse.box(frame)
    slack = 1e-6 * max(box[2] - box[0], box[3] - box[1])
    return left >= box[0] - slack and top >= box[1] - slack and right <= box[2] + slack and bottom <= box[3] + slack


def _shutter_matrices(at: Evaluated, layer: Layer, to_output: Affine) -> list[Affine] | None:
    """Return the layer's matrices over the open shutter, or None where it stands still."""
    piece = at.composition
    opens = at.frame + piece.shutter_phase / 360
    shut = opens + piece.shutter_angle / 360
    box = at.box(layer)
    coarse = [to_output @ m for m in matrices_over(at, layer, np.linspace(opens, shut, 5))]
    moved = sum(_distance(a, b, box) for a, b in zip(coarse, coarse[1:], strict=False))
    if moved < 0.25:
        return None
    count = int(min(max(np.ceil(moved), 4), 128))
    times = opens + (shut - opens) * (np.arange(count) + 0.5) / count
    return [to_output @ m for m in matrices_over(at, layer, times)]


def _distance(first: Affine, second: Affine, box: Box) -> float:
    corners = [(x, y) for x in (box[0], box[2]) for y in (box[1], box[3])]
    pairs = ((first.apply(*corner), second.apply(*corner)) for corner in corners)
    return max(math.dist(a, b) for a, b in pairs)


def _add_smeared(
    table: _Table, at: Evaluated, layer: Layer, matrix: Affine, matrices: list[Affine], mode: int, opacity: float
) -> None:
    reach = (-(1 << 15), -(1 << 15), 1 << 15, 1 << 15)
    drawing = layer_kind(layer.kind).draw(at.values(layer), at.scene, matrix, reach)
    if isinstance(drawing, Gradient):
        drawing = draw_gradient(drawing)
    if drawing is None:
        return
    result = smeared(drawing, matrices, table.frame)
    if result is not None:
        _add_pixels(table, result, result.to_layer, mode, opacity)
