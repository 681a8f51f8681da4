"""Draw vector art with Skia: outlines, paints, bundles with clips and masks."""

from __future__ import annotations

from typing import Any

import numpy as np
import skia
from attrs import evolve

from spiralis.core.cache import Beside, CacheSection
from spiralis.core.geometry import Affine, Box, Map, Projection, box_around
from spiralis.core.model.art import Bundle, Contour, ContourPen, Figure, Item, Paint, Ramp, Stroke, with_figures
from spiralis.core.model.track import Track
from spiralis.core.raster.kernels import covering

# Names in Skia, which is loaded when something is first drawn.
_CAPS = {"butt": "kButt_Cap", "round": "kRound_Cap", "square": "kSquare_Cap"}
_JOINS = {"miter": "kMiter_Join", "round": "kRound_Join", "bevel": "kBevel_Join"}
_TILES = {"pad": "kClamp", "reflect": "kMirror", "repeat": "kRepeat"}
_BLENDS = {
    "normal": "kSrcOver", "multiply": "kMultiply", "screen": "kScreen",
    "overlay": "kOverlay", "darken": "kDarken", "lighten": "kLighten",
    "color-dodge": "kColorDodge", "color-burn": "kColorBurn",
    "hard-light": "kHardLight", "soft-light": "kSoftLight",
    "difference": "kDifference", "exclusion": "kExclusion", "hue": "kHue",
    "saturation": "kSaturation", "color": "kColor",
    "luminosity": "kLuminosity", "plus-lighter": "kPlus",
    "cut-through": "kDstOut", "cling": "kSrcATop", "keep-within": "kDstIn",
    "slip-under": "kDstATop",
}  # fmt: skip

_paths: CacheSection[Any] = CacheSection(lambda path: path.approximateBytesUsed())
#: The box of an item, in a list beside it: None where it draws nothing.
_boxes: Beside[list[Box | None]] = Beside(list)


def skia_matrix(matrix: Map) -> Any:
    """Return the map as Skia's."""
    if isinstance(matrix, Projection):
        return skia.Matrix.MakeAll(*matrix)
    return skia.Matrix.MakeAll(matrix.a, matrix.c, matrix.e, matrix.b, matrix.d, matrix.f, 0, 0, 1)


def skia_path(figure: Figure) -> Any:
    """Return a figure's outline, without its matrix; the path must not be changed."""
    return _paths.get((figure.contours, figure.rule), lambda: _build(figure.contours, figure.rule))


def _build(contours: tuple[Contour, ...], rule: str) -> Any:
    path = skia.Path()
    for contour in contours:
        vertices = contour.vertices
        if not vertices:
            continue
        path.moveTo(vertices[0][0], vertices[0][1])
        pairs = list(zip(vertices, vertices[1:], strict=False))
        if contour.closed and len(vertices) > 1:
            pairs.append((vertices[-1], vertices[0]))
        for start, end in pairs:
            if start[4:] == start[:2] and end[2:4] == end[:2]:
                path.lineTo(end[0], end[1])
            else:
                path.cubicTo(start[4], start[5], end[2], end[3], end[0], end[1])
        if contour.closed:
            path.close()
    path.setFillType(skia.PathFillType.kEvenOdd if rule == "evenodd" else skia.PathFillType.kWinding)
    return path


#: The part of each stroke that is drawn: start, end and offset in parts of its length.
Part = tuple[float, float, float]
WHOLE: Part = (0.0, 1.0, 0.0)


def draw_item(canvas: Any, item: Item, part: Part = WHOLE) -> None:
    """Draw an item on a Skia canvas, in the canvas' present units, with ``part`` of each of its strokes."""
    canvas.save()
    canvas.concat(skia_matrix(item.matrix))
    if isinstance(item, Figure):
        _draw_figure(canvas, item, part)
    else:
        _draw_bundle(canvas, item, part)
    canvas.restore()


def _draw_figure(canvas: Any, figure: Figure, part: Part) -> None:
    path = skia_path(figure)
    pens = []
    if figure.fill is not None:
        pens.append(_pen(figure.fill))
    if figure.stroke is not None and figure.stroke.width > 0:
        pens.append(stroke_pen(figure.stroke, part))
    for pen in reversed(pens) if figure.stroke_first else pens:
        canvas.drawPath(path, pen)


def _draw_bundle(canvas: Any, bundle: Bundle, part: Part) -> None:
    for clip in bundle.clips:
        canvas.clipPath(_union(clip), True)
    isolated = bundle.opacity < 1 or bundle.blend != "normal" or bundle.mask is not None
    if isolated:
        mixing = skia.Paint(Alphaf=bundle.opacity)
        mixing.setBlendMode(getattr(skia.BlendMode, _BLENDS[bundle.blend]))
        canvas.saveLayer(None, mixing)
    for item in bundle.items:
        draw_item(canvas, item, part)
    if bundle.mask is not None:
        keeping = skia.Paint()
        keeping.setBlendMode(skia.BlendMode.kDstIn)
        if not bundle.mask_by_alpha:
            keeping.setColorFilter(skia.LumaColorFilter.Make())
        canvas.saveLayer(None, keeping)
        draw_item(canvas, bundle.mask)
        canvas.restore()
    if isolated:
        canvas.restore()


def _union(figures: tuple[Figure, ...]) -> Any:
    whole = skia.Path()
    for index, figure in enumerate(figures):
        path = skia.Path(skia_path(figure))
        path.transform(skia_matrix(figure.matrix))
        if index == 0:
            whole = path
        else:
            whole = skia.Op(whole, path, skia.PathOp.kUnion_PathOp) or whole
    return whole


def stroke_pen(stroke: Stroke, part: Part = WHOLE) -> Any:
    """Return the Skia paint of a stroke, or of a part of it."""
    pen = _pen(stroke.paint)
    pen.setStyle(skia.Paint.kStroke_Style)
    pen.setStrokeWidth(stroke.width)
    pen.setStrokeCap(getattr(skia.Paint, _CAPS[stroke.cap]))
    pen.setStrokeJoin(getattr(skia.Paint, _JOINS[stroke.join]))
    pen.setStrokeMiter(max(stroke.miter_limit, 1.0))
    dash = stroke.dash if len(stroke.dash) % 2 == 0 else stroke.dash * 2
    dashes = skia.DashPathEffect.Make(list(dash), stroke.dash_offset) if dash and sum(dash) > 0 else None
    effects = [effect for effect in (dashes, _trim(part)) if effect is not None]
    if effects:
        pen.setPathEffect(effects[0] if len(effects) == 1 else skia.PathEffect.MakeCompose(*effects))
    return pen


def _trim(part: Part) -> Any:
    """Return the effect that keeps a part of a path; one that runs over the end goes on at the beginning. None for all
    of it, wherever it begins."""
    start, end, offset = part
    low, high = min(start, end), max(start, end)
    if high - low >= 1:
        return None
    first = (low + offset) % 1.0
    last = first + (high - low)
    if last <= 1:
        return skia.TrimPathEffect.Make(first, last)
    # What is left out lies between: the other mode draws everything but that.
    return skia.TrimPathEffect.Make(last - 1, first, skia.TrimPathEffect.Mode.kInverted)


def _pen(paint: Paint) -> Any:
    pen = skia.Paint(AntiAlias=True)
    if not isinstance(paint, Ramp):
        pen.setColor4f(skia.Color4f(*paint), None)
        return pen
    pen.setDither(True)
    pen.setShader(_shader(paint))
    return pen


def _shader(ramp: Ramp) -> Any:
    stops = ramp.stops if len(ramp.stops) > 1 else ramp.stops * 2
    colours = [skia.Color4f(*stop[1:]).toColor() for stop in stops]
    # Offsets never go back (SVG 2, section 14.2.4.2).
    offsets, low = [], 0.0
    for stop in stops:
        low = max(low, min(stop[0], 1.0))
        offsets.append(low)
    tile, local = getattr(skia.TileMode, _TILES[ramp.spread]), skia_matrix(ramp.matrix)
    if not ramp.radial:
        x1, y1, x2, y2 = ramp.points
        if (x1, y1) == (x2, y2):
            return skia.Shaders.Color(colours[-1])
        ends = [skia.Point(x1, y1), skia.Point(x2, y2)]
        return skia.GradientShader.MakeLinear(ends, colours, offsets, tile, 0, local)
    cx, cy, radius, fx, fy, focal = ramp.points
    if radius <= 0:
        return skia.Shaders.Color(colours[-1])
    if (fx, fy) == (cx, cy) and focal <= 0:
        return skia.GradientShader.MakeRadial(skia.Point(cx, cy), radius, colours, offsets, tile, 0, local)
    return skia.GradientShader.MakeTwoPointConical(
        skia.Point(fx, fy), max(focal, 0.0), skia.Point(cx, cy), radius, colours, offsets, tile, 0, local
    )


def art_box(item: Item) -> Box | None:
    """Return the tight box of everything an item draws, strokes included; None where it draws nothing."""
    known = _boxes.of(item)
    if not known:
        known.append(_box_within(item, Affine()))
    return known[0]


def drawing_box(track: Track) -> Box | None:
    """Return the box that a drawing counts as filling: around all its keys, so that a morph does not move it."""
    drawings = [key.value for key in track.keys] or [track.value]
    boxes = [box for art in drawings if (box := art_box(art)) is not None]
    return box_around(boxes) if boxes else None


def _box_within(item: Item, outer: Affine) -> Box | None:
    matrix = outer @ item.matrix
    if isinstance(item, Figure):
        return _figure_box(item, matrix)
    boxes = [box for part in item.items if (box := _box_within(part, matrix)) is not None]
    if not boxes:
        return None
    whole = box_around(boxes)
    for clip in item.clips:
        edge = _union(clip)
        edge.transform(skia_matrix(matrix))
        bounds = edge.computeTightBounds()
        whole = (
            max(whole[0], bounds.left()), max(whole[1], bounds.top()),
            min(whole[2], bounds.right()), min(whole[3], bounds.bottom()),
        )  # fmt: skip
    return whole if whole[2] > whole[0] and whole[3] > whole[1] else None


def _figure_box(figure: Figure, matrix: Affine) -> Box | None:
    path = skia_path(figure)
    boxes = []
    if figure.fill is not None:
        boxes.append(_bounds(path, matrix))
    if figure.stroke is not None and figure.stroke.width > 0:
        outline = skia.Path()
        stroke_pen(figure.stroke).getFillPath(path, outline)
        boxes.append(_bounds(outline, matrix))
    boxes = [box for box in boxes if box[2] > box[0] or box[3] > box[1]]
    return box_around(boxes) if boxes else None


def _bounds(path: Any, matrix: Affine) -> Box:
    moved = skia.Path(path)
    moved.transform(skia_matrix(matrix))
    bounds = moved.computeTightBounds()
    return bounds.left(), bounds.top(), bounds.right(), bounds.bottom()


def cut_to_polygon(pixels: np.ndarray, points: np.ndarray, corner: tuple[int, int], over: float) -> None:
    """Clear, in place, float32 (h, w, 4) pixels outside of a polygon (n, 2) of their grid, with smooth edges.

    ``corner`` is where the pixels begin; the polygon is taken wider by ``over`` pixels.
    """
    path = skia.Path()
    path.addPoly([skia.Point(*(float(v) for v in np.clip(point, -1e6, 1e6))) for point in points], True)
    cover = np.zeros(pixels.shape[:2], dtype=np.uint8)
    info = skia.ImageInfo.Make(pixels.shape[1], pixels.shape[0], skia.kAlpha_8_ColorType, skia.kPremul_AlphaType)
    canvas = skia.Surface.MakeRasterDirect(info, cover).getCanvas()
    canvas.translate(-corner[0], -corner[1])
    pen = skia.Paint(AntiAlias=True, StrokeWidth=2 * over)
    pen.setStyle(skia.Paint.kStrokeAndFill_Style)
    canvas.drawPath(path, pen)
    covering.multiply(pixels, cover)


def contours_of_path(path: Any) -> tuple[Contour, ...]:
    """Return a Skia path as contours."""
    pen = ContourPen()
    open_ = False
    for verb, points in path:
        places = [(point.x(), point.y()) for point in points]
        if verb == skia.Path.kMove_Verb:
            if open_:
                pen.endPath()
            pen.moveTo(places[0])
            open_ = True
        elif verb == skia.Path.kLine_Verb:
            pen.lineTo(places[1])
        elif verb in (skia.Path.kQuad_Verb, skia.Path.kConic_Verb):
            pen.qCurveTo(places[1], places[2])
        elif verb == skia.Path.kCubic_Verb:
            pen.curveTo(places[1], places[2], places[3])
        elif verb == skia.Path.kClose_Verb:
            pen.closePath()
            open_ = False
    return tuple(contour for contour in pen.done() if len(contour.vertices) > 1)


def grown(art: Bundle, by: float) -> Bundle:
    """Return the art with the edges of its fills moved out by so many px (in where below 0)."""
    if by == 0:
        return art

    def change(item: Figure) -> Figure:
        if item.fill is None:
            return item
        pen = skia.Paint(StrokeWidth=2 * abs(by))
        pen.setStyle(skia.Paint.kStroke_Style)
        pen.setStrokeJoin(skia.Paint.kRound_Join)
        path, edge = skia_path(item), skia.Path()
        pen.getFillPath(path, edge)
        how = skia.PathOp.kUnion_PathOp if by > 0 else skia.PathOp.kDifference_PathOp
        whole = skia.Op(path, edge, how)
        if whole is None:
            return item
        rule = "evenodd" if whole.getFillType() == skia.PathFillType.kEvenOdd else "nonzero"
        return evolve(item, contours=contours_of_path(whole), rule=rule)

    return with_figures(art, change)
