"""Turn one frame into a small table of draw operations (see ``compositing/kernels/bands.py``)."""

from __future__ import annotations

import math
from collections.abc import Mapping

import numpy as np
from attrs import evolve

from spiralis.core.compositing.blend import mode_number
from spiralis.core.compositing.kernels import bands
from spiralis.core.compositing.motion_blur import smeared
from spiralis.core.geometry import Affine, Box, intersect, outward
from spiralis.core.model import Composition, Layer, Matte, Project, Track, Value, layer_kind
from spiralis.core.raster.drawing import Gradient, Inner
from spiralis.core.raster.gradients import draw_gradient
from spiralis.core.raster.pyramid import prepare
from spiralis.core.raster.raster import Raster, clear_rim
from spiralis.core.raster.vectors import cut_to_quad
from spiralis.core.render.copies import Copies
from spiralis.core.render.layers import Evaluated, matrices_over
from spiralis.core.render.pictures import add_pixels, sampling_place
from spiralis.core.render.sheets import Rows, sheet_for, stands_still
from spiralis.core.render.table import FramePlan, Table, drawn, premultiplied


def output_size(composition: Composition, scale: float) -> tuple[int, int]:
    """Return the size in pixels of a frame at a scale, at least 1 by 1."""
    return max(1, round(composition.width * scale)), max(1, round(composition.height * scale))


def plan_frame(project: Project, composition_id: str, frame: float, scale: float = 1.0) -> FramePlan:
    """Return the plan of a frame. Frames outside the composition wrap where it loops, else they clamp.

    Raises:
        UnknownName: no such composition.
    """
    composition = project.composition(composition_id)
    width, height = output_size(composition, scale)
    to_output = Affine.scaling(width / composition.width, height / composition.height)
    table = Table((0.0, 0.0, float(width), float(height)))
    table.ground = composition.background
    _add_layers(table, project, composition, frame, to_output)
    return table.plan((0, 0, width, height), premultiplied(table.ground))


def wrapped(composition: Composition, frame: float) -> float:
    """Return the frame folded into a looping composition: frame N + length is frame N."""
    if composition.loop:
        return frame % composition.length
    return min(max(frame, 0), composition.length - 1)


def _add_layers(table: Table, project: Project, composition: Composition, frame: float, to_output: Affine) -> None:
    frame = wrapped(composition, frame)
    at = Evaluated(project, composition, frame)
    hidden = composition.kept_from_sight
    alone = any(layer.solo for layer in composition.layers)
    sheet = sheet_for(to_output, table.frame, (composition.width, composition.height), project.sources)
    shown = [layer for layer in reversed(composition.layers) if layer.shown_at(frame) and layer.id not in hidden]
    shown = [layer for layer in shown if layer.solo] if alone else shown
    held = [sheet.of(layer) for layer in shown]
    _prepare_pictures(at, [layer for layer, rows in zip(shown, held, strict=True) if rows is None], to_output)
    for layer, rows in zip(shown, held, strict=True):
        if rows is not None:
            table.add_rows(rows.numbers, rows.reals, rows.keeps)
            continue
        before = len(table.numbers)
        if layer_kind(layer.kind).beneath is not None:
            _change_beneath(table, at, layer, to_output)
            continue
        _add_layer(table, at, layer, to_output)
        if stands_still(layer):
            sheet.keep(Rows(layer, table.numbers[before:], table.reals[before:], table.keeps[before:]))


def _prepare_pictures(at: Evaluated, layers: list[Layer], to_output: Affine) -> None:
    """Decode side by side what picture layers need that is not kept."""
    needed = []
    for layer in layers:
        if layer.kind == "picture":
            source = at.scene.project.source(at.values(layer)["source"])
            if source is not None and at.values(layer)["opacity"] > 0 and at.values(layer)["visible"]:
                needed.append((source, max((to_output @ at.matrix(layer)).stretch())))
    if len(needed) > 1:
        prepare(needed)


def _add_layer(table: Table, at: Evaluated, layer: Layer, to_output: Affine) -> None:
    values = at.values(layer)
    opacity = values["opacity"] / 100
    if opacity <= 0 or not values["visible"]:
        return
    mode = mode_number(values["blend"])
    if layer.mattes or _is_cropped(values):
        _add_matted(table, at, layer, to_output, mode, opacity)
    else:
        _add_content(table, at, layer, to_output, mode, opacity)


def _change_beneath(table: Table, at: Evaluated, layer: Layer, to_output: Affine) -> None:
    """Replace everything in the table by a picture of it, changed where the layer's mattes and opacity let it."""
    values, kind = at.values(layer), layer_kind(layer.kind)
    opacity = np.float32(values["opacity"] / 100)
    if opacity <= 0 or not values["visible"] or kind.beneath is None:
        return
    area = outward(table.frame)
    before = drawn(table, area, table.ground)
    after = kind.beneath(before, values, max(to_output.stretch()))
    share: np.ndarray | np.float32 = opacity
    if layer.mattes:
        share = share * _coverage(at, layer, to_output, area)[..., None]
    if _is_cropped(values):
        share = share * _crop_cover(at, layer, to_output, area)[..., None]
    pixels = np.ascontiguousarray(before + (after - before) * share, dtype=np.float32)
    table.clear()
    table.ground = None
    shown = Raster(pixels, Affine.shift(area[0], area[1]))
    add_pixels(table, shown, shown.to_layer, 0, 1.0)


def _add_content(table: Table, at: Evaluated, layer: Layer, to_output: Affine, mode: int, opacity: float) -> None:
    """Add what a layer shows, without its mattes."""
    values, piece = at.values(layer), at.composition
    if layer_kind(layer.kind).placements is not None:
        _add_copies(table, at, layer, to_output, mode, opacity)
        return
    matrix = to_output @ at.matrix(layer)
    if values["motion_blur"] and piece.shutter_angle > 0:
        matrices = _shutter_matrices(at, layer, to_output)
        if matrices is not None:
            _add_smeared(table, at, layer, matrix, matrices, mode, opacity)
            return
    drawing = at.drawing(layer, matrix, table.frame)
    if isinstance(drawing, Inner):
        drawing = _with_dials(drawing, layer)
        _add_inner(table, at, drawing, matrix, mode, opacity)
    elif drawing is not None:
        _add_drawing(table, drawing, matrix, mode, opacity)


def _add_copies(table: Table, at: Evaluated, layer: Layer, to_output: Affine, mode: int, opacity: float) -> None:
    """Add copies straight to the table, or as one picture where they are mixed in as one."""
    copies = Copies(at, layer, to_output, lambda frame: wrapped(at.composition, frame), _add_layer)
    if mode == 0 and opacity >= 1:
        copies.add(table)
        return
    content = Table(table.frame)
    copies.add(content)
    if content.box is not None:
        left, top, right, bottom = outward(content.box)
        area = (left - 1, top - 1, right + 1, bottom + 1)
        whole = Raster(drawn(content, area), Affine.shift(area[0], area[1]))
        add_pixels(table, whole, whole.to_layer, mode, opacity)


def _with_dials(inner: Inner, layer: Layer) -> Inner:
    """Return the nested composition with its dials set as the layer that shows it says."""
    piece = inner.composition
    for dial_id, value in layer.dial_values:
        dial = piece.find(dial_id)
        if dial is not None and dial.kind == "dial":
            piece = piece.with_layer(dial.with_track("value", Track(value)))
    return evolve(inner, composition=piece) if piece is not inner.composition else inner


def _add_matted(table: Table, at: Evaluated, layer: Layer, to_output: Affine, mode: int, opacity: float) -> None:
    """Draw a layer as a picture of its own and let its mattes decide where it shows."""
    content = Table(table.frame)
    _add_content(content, at, layer, to_output, 0, 1.0)
    if content.box is None:
        return
    left, top, right, bottom = outward(content.box)
    area = (left - 1, top - 1, right + 1, bottom + 1)
    pixels = drawn(content, area)
    if layer.mattes:
        pixels *= _coverage(at, layer, to_output, area)[..., None]
    if _is_cropped(at.values(layer)):
        pixels *= _crop_cover(at, layer, to_output, area)[..., None]
    clear_rim(pixels)
    shown = Raster(pixels, Affine.shift(area[0], area[1]))
    add_pixels(table, shown, shown.to_layer, mode, opacity)


def _is_cropped(values: Mapping[str, Value]) -> bool:
    return any(values["crop_across"]) or any(values["crop_down"])


def _crop_cover(at: Evaluated, layer: Layer, to_output: Affine, area: tuple[int, int, int, int]) -> np.ndarray:
    """Return float32 (h, w): what a layer's crop leaves of its box."""
    values, (left, top, right, bottom) = at.values(layer), at.box(layer)
    width, height = right - left, bottom - top
    x0, x1 = left + width * values["crop_across"][0] / 100, right - width * values["crop_across"][1] / 100
    y0, y1 = top + height * values["crop_down"][0] / 100, bottom - height * values["crop_down"][1] / 100
    nothing = np.zeros((area[3] - area[1], area[2] - area[0]), dtype=np.float32)
    if x1 <= x0 or y1 <= y0:
        return nothing
    # Only cut edges are soft: the others lie so far out that they leave no trace.
    far = 4 * values["crop_softness"] + 4
    x0, x1 = x0 - far * (values["crop_across"][0] <= 0), x1 + far * (values["crop_across"][1] <= 0)
    y0, y1 = y0 - far * (values["crop_down"][0] <= 0), y1 + far * (values["crop_down"][1] <= 0)
    form = {parameter.name: parameter.default for parameter in layer_kind("shape").parameters}
    form |= {"form": "rectangle", "size": (x1 - x0, y1 - y0), "fill": (1.0, 1.0, 1.0, 1.0)}
    form["feather"] = (values["crop_softness"], values["crop_softness"])
    matrix = to_output @ at.matrix(layer) @ Affine.shift(x0, y0)
    table = Table((float(area[0]), float(area[1]), float(area[2]), float(area[3])))
    drawing = layer_kind("shape").draw(form, at.scene, matrix, table.frame)
    if not isinstance(drawing, Raster):
        return nothing
    add_pixels(table, drawing, matrix @ drawing.to_layer, 0, 1.0)
    cover: np.ndarray = drawn(table, area)[..., 3]
    return cover


def _coverage(at: Evaluated, layer: Layer, to_output: Affine, area: tuple[int, int, int, int]) -> np.ndarray:
    """Return float32 (h, w): where a layer's mattes let it show. A matte that is missing lets everything show."""
    total: np.ndarray | None = None
    for matte in layer.mattes:
        source = at.composition.find(matte.layer)
        if source is None:
            continue
        cover = _matte_cover(at, source, matte, to_output, area)
        if total is None:
            total = 1 - cover if matte.mode == "subtract" else cover
        elif matte.mode == "add":
            total = total + cover - total * cover
        else:
            total = total * (1 - cover if matte.mode == "subtract" else cover)
    if total is None:
        return np.ones((area[3] - area[1], area[2] - area[0]), dtype=np.float32)
    return total


def _matte_cover(
    at: Evaluated, source: Layer, matte: Matte, to_output: Affine, area: tuple[int, int, int, int]
) -> np.ndarray:
    """Return where one matte covers; a layer outside its span or hidden by its switch covers nothing."""
    table = Table((float(area[0]), float(area[1]), float(area[2]), float(area[3])))
    if source.shown_at(at.frame):
        _add_layer(table, at, source, to_output)
    pixels = drawn(table, area)
    cover: np.ndarray = pixels[..., 3]
    if matte.by == "brightness":
        # Relative to nothing behind it, so that what is clear counts as black (ITU-R BT.709 weights).
        cover = pixels[..., :3] @ np.array([0.2126, 0.7152, 0.0722], dtype=np.float32)
    cover = np.clip(cover, 0.0, 1.0)
    return 1 - cover if matte.inverted else cover


def _add_drawing(table: Table, drawing: Raster | Gradient, matrix: Affine, mode: int, opacity: float) -> None:
    if isinstance(drawing, Gradient):
        if _covers(matrix, drawing.box, table.frame):
            _add_gradient(table, drawing, matrix, mode, opacity)
            return
        drawing = draw_gradient(drawing)
    add_pixels(table, drawing, matrix @ drawing.to_layer, mode, opacity)


def _inner_table(project: Project, inner: Inner, matrix: Affine, clip: Box) -> Table | None:
    """Return the operations of a nested composition in the outer pixels, or None where nothing is seen."""
    piece = inner.composition
    seen = intersect(matrix.box((0.0, 0.0, float(piece.width), float(piece.height))), clip)
    if seen is None:
        return None
    table = Table(tuple(float(v) for v in outward(seen)))  # type: ignore[arg-type]
    table.ground = piece.background
    _add_layers(table, project, piece, inner.frame, matrix)
    return table


def _add_inner(table: Table, at: Evaluated, inner: Inner, matrix: Affine, mode: int, opacity: float) -> None:
    content = _inner_table(at.scene.project, inner, matrix, table.frame)
    if content is None:
        return
    plain = mode == 0 and opacity >= 1 and inner.composition.background is None
    if plain and all(row[1] == 0 for row in content.numbers) and _stays_within(content, inner.composition, matrix):
        # Normal over normal is associative (W3C Compositing, section 5.1), so no picture of its own is needed.
        table.extend(content)
        return
    pixels = _isolated(content, inner.composition, matrix)
    if pixels is not None:
        add_pixels(table, pixels, pixels.to_layer, mode, opacity)


def _stays_within(content: Table, piece: Composition, matrix: Affine) -> bool:
    """Whether no operation leaves the nested composition's frame."""
    box = content.box
    inverse = matrix.inverse()
    if box is None or inverse is None:
        return True
    left, top, right, bottom = inverse.box(box)
    slack = 1e-6 * max(piece.width, piece.height)
    return left >= -slack and top >= -slack and right <= piece.width + slack and bottom <= piece.height + slack


def _isolated(content: Table, piece: Composition, matrix: Affine) -> Raster | None:
    """Draw a nested composition as a picture of its own, cut to its frame, in output pixels with a clear ring."""
    box = content.frame if piece.background is not None else content.box
    if box is None:
        return None
    left, top, right, bottom = outward(box)
    area = (left - 1, top - 1, right + 1, bottom + 1)
    out = drawn(content, area, content.ground)
    clear_rim(out)
    if piece.background is not None or not _stays_within(content, piece, matrix):
        cut_to_quad(out, matrix, (piece.width, piece.height), (area[0], area[1]))
    return Raster(out, Affine.shift(area[0], area[1]))


def _add_gradient(table: Table, drawing: Gradient, matrix: Affine, mode: int, opacity: float) -> None:
    inverse = matrix.inverse()
    if inverse is None:
        return
    shape = bands.CONIC if drawing.conic else bands.RADIAL if drawing.radial else bands.LINEAR
    kind = bands.FLAT if drawing.flat else shape
    place = sampling_place(drawing.to_ramp @ inverse, 0.0)
    colour = tuple(float(v) for v in drawing.table[0])
    solid = int(opacity >= 1 and bool((drawing.table[:, 3] >= 1).all()))
    table.add(kind, mode, table.frame, drawing.table, (len(drawing.table), solid), place, opacity, colour)


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
    count = int(min(max(np.ceil(moved), 4), piece.blur_samples))
    times = opens + (shut - opens) * (np.arange(count) + 0.5) / count
    return [to_output @ m for m in matrices_over(at, layer, times)]


def _distance(first: Affine, second: Affine, box: Box) -> float:
    corners = [(x, y) for x in (box[0], box[2]) for y in (box[1], box[3])]
    pairs = ((first.apply(*corner), second.apply(*corner)) for corner in corners)
    return max(math.dist(a, b) for a, b in pairs)


_FINER, _MOST_FINE = 2.0, 1_500_000


def _finer(at: Evaluated, layer: Layer, matrix: Affine) -> Affine:
    """Return the map to draw a vector layer with before it is smeared: twice as fine where that is cheap.

    Each moment samples the drawing once more, which would widen its edges by a pixel.
    """
    left, top, right, bottom = matrix.box(at.box(layer))
    if layer.kind not in ("shape", "text") or (right - left) * (bottom - top) > _MOST_FINE / _FINER**2:
        return matrix
    return Affine.scaling(_FINER, _FINER) @ matrix


def _add_smeared(
    table: Table, at: Evaluated, layer: Layer, matrix: Affine, matrices: list[Affine], mode: int, opacity: float
) -> None:
    reach = (-float(1 << 15), -float(1 << 15), float(1 << 15), float(1 << 15))
    drawing = at.drawing(layer, _finer(at, layer, matrix), reach)
    if isinstance(drawing, Gradient):
        drawing = draw_gradient(drawing)
    elif isinstance(drawing, Inner):
        drawing = _with_dials(drawing, layer)
        # Drawn at the layer's place of the moment; the ring then moves with it.
        content = _inner_table(at.scene.project, drawing, matrix, reach)
        pixels = _isolated(content, drawing.composition, matrix) if content is not None else None
        inverse = matrix.inverse()
        drawing = Raster(pixels.data, inverse @ pixels.to_layer) if pixels is not None and inverse is not None else None
    if drawing is None:
        return
    result = smeared(drawing, matrices, table.frame)
    if result is not None:
        add_pixels(table, result, result.to_layer, mode, opacity)
