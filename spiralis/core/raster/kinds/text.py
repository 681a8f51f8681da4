"""Text: words in lines, drawn from outlines with the layer's final matrix so that they stay crisp."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np
import skia

from spiralis.core.cache import ByteCache
from spiralis.core.colour import Colour
from spiralis.core.geometry import Affine, Box, intersect, outward
from spiralis.core.model.kinds import LayerKind, register_kind
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.raster.drawing import Drawing, Pixels, Scene
from spiralis.core.raster.fonts import DEFAULT_FAMILY, FaceAt, find_face
from spiralis.core.raster.shaping import ALIGNMENTS, Layout, lay_out, outline

PARAMETERS = (
    Parameter("text", "Words", Kind.TEXT, "Text", "What is written; several lines if you like"),
    Parameter("font", "Font", Kind.FONT, DEFAULT_FAMILY, "The family the words are set in"),
    Parameter("weight", "Weight", Kind.NUMBER, 400.0, "Thickness: 400 is upright, 700 is bold", "", 100, 1000, 100),
    Parameter("size", "Size", Kind.NUMBER, 120.0, "Height of the type", "px", 1, 5000),
    Parameter("tracking", "Tracking", Kind.NUMBER, 0.0, "Space between letters, in thousandths of the size", "",
              -500, 5000, 5),
    Parameter("leading", "Leading", Kind.NUMBER, 110.0, "Distance of the lines beside the size", "%", 10, 1000),
    Parameter("alignment", "Align", Kind.CHOICE, "centre", "Which edge the lines share", choices=ALIGNMENTS),
    Parameter("fill", "Fill", Kind.COLOUR, (1.0, 1.0, 1.0, 1.0), "Colour of the letters"),
    Parameter("stroke", "Stroke", Kind.NUMBER, 0.0, "Width of a line around the letters, behind their fill", "px",
              0, 1000),
    Parameter("stroke_colour", "Stroke colour", Kind.COLOUR, (0.0, 0.0, 0.0, 1.0), "Colour of that line"),
)  # fmt: skip

_rasters: ByteCache[Pixels | None] = ByteCache(192 << 20, lambda p: p.data.nbytes if p is not None else 1)


def layout_of(values: Mapping[str, Value], scene: Scene) -> tuple[Layout, FaceAt]:
    """Return the lines of a text layer with these values, and the face they are set in."""
    at = find_face(scene.project, values["font"], values["weight"])
    return (
        lay_out(values["text"], at, values["size"], values["tracking"], values["leading"], values["alignment"]),
        at,
    )


def _box(values: Mapping[str, Value], scene: Scene) -> Box:
    return layout_of(values, scene)[0].box


def _draw(values: Mapping[str, Value], scene: Scene, matrix: Affine, clip: Box) -> Drawing | None:
    layout, at = layout_of(values, scene)
    path = outline(layout, at, values["size"])
    reach = values["stroke"] / 2
    bounds = path.getBounds()
    ink = (bounds.left() - reach, bounds.top() - reach, bounds.right() + reach, bounds.bottom() + reach)
    seen = intersect(matrix.box(ink), clip)
    inverse = matrix.inverse()
    if seen is None or inverse is None or path.isEmpty():
        return None
    left, top, right, bottom = outward(seen, 2.0)
    look = (values["fill"], values["stroke"], values["stroke_colour"])
    key = (layout, at.key, values["size"], look, matrix, (left, top, right, bottom))
    return _rasters.get(key, lambda: _rasterise(path, look, matrix, inverse, (left, top, right - left, bottom - top)))


def _rasterise(
    path: Any, look: tuple[Colour, float, Colour], matrix: Affine, inverse: Affine, area: tuple[int, int, int, int]
) -> Pixels:
    left, top, width, height = area
    data = np.zeros((height, width, 4), dtype=np.uint8)
    info = skia.ImageInfo.Make(width, height, skia.kRGBA_8888_ColorType, skia.kPremul_AlphaType)
    canvas = skia.Surface.MakeRasterDirect(info, data).getCanvas()
    # The outermost ring stays transparent, so that neighbouring samples fade out.
    canvas.clipRect(skia.Rect.MakeLTRB(1, 1, width - 1, height - 1))
    canvas.translate(-left, -top)
    canvas.concat(skia.Matrix.MakeAll(matrix.a, matrix.c, matrix.e, matrix.b, matrix.d, matrix.f, 0, 0, 1))
    fill, stroke, stroke_colour = look
    if stroke > 0:
        pen = skia.Paint(Color4f=skia.Color4f(*stroke_colour), AntiAlias=True, StrokeWidth=stroke)
        pen.setStyle(skia.Paint.kStroke_Style)
        pen.setStrokeJoin(skia.Paint.kRound_Join)
        canvas.drawPath(path, pen)
    canvas.drawPath(path, skia.Paint(Color4f=skia.Color4f(*fill), AntiAlias=True))
    return Pixels(data, inverse @ Affine.shift(left, top))


register_kind(LayerKind("text", "Text", "Words in any shipped or imported font", PARAMETERS, _box, _draw))
