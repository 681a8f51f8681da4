"""The wind readout poster, drawn layer by layer and written as an OpenRaster file."""

from __future__ import annotations

import io
import math
import zipfile
from collections.abc import Callable

import numpy as np
import skia
from lxml import etree

from spiralis.core.media.openraster import MIMETYPE
from spiralis.core.media.pixels import visible_box
from spiralis.core.model import Project
from spiralis.core.raster.fonts import find_face
from spiralis.core.raster.shaping import lay_out, outline
from spiralis.demo.cloth import png

WIDTH, HEIGHT = 1080, 1350
_MINT, _SUN, _CREAM, _DEEP, _ROSE = "#7be0cc", "#f8b842", "#fcf4e4", "#0d1a24", "#ff5c7a"
Draw = Callable[[skia.Canvas], None]


def _pen(colour: str, width: float = 0.0, alpha: float = 1.0) -> skia.Paint:
    value = int(colour[1:], 16)
    pen = skia.Paint(
        AntiAlias=True, Color=skia.ColorSetARGB(round(255 * alpha), value >> 16, value >> 8 & 255, value & 255)
    )
    if width:
        pen.setStyle(skia.Paint.kStroke_Style)
        pen.setStrokeWidth(width)
    return pen


def _words(canvas: skia.Canvas, text: str, x: float, y: float, size: float, colour: str, family: str = "Karla") -> None:
    """Set a line with its baseline at y."""
    face = find_face(Project(), family, 700.0)
    layout = lay_out(text, face, size, 20.0, 100.0, "left")
    canvas.save()
    canvas.translate(x, y - layout.ascent)
    canvas.drawPath(outline(layout, face, size), _pen(colour))
    canvas.restore()


def _ground(canvas: skia.Canvas) -> None:
    ends = [skia.Point(0, 0), skia.Point(0, HEIGHT)]
    shader = skia.GradientShader.MakeLinear(ends, [0xFF14303C, 0xFF0D1A24, 0xFF091018], [0.0, 0.6, 1.0])
    canvas.drawRect(skia.Rect.MakeWH(WIDTH, HEIGHT), skia.Paint(Shader=shader))


def _grid(canvas: skia.Canvas) -> None:
    for x in range(60, WIDTH, 60):
        canvas.drawLine(x, 0, x, HEIGHT, _pen(_MINT, 1.5, 0.14))
    for y in range(45, HEIGHT, 60):
        canvas.drawLine(0, y, WIDTH, y, _pen(_MINT, 1.5, 0.14))


def _ring(canvas: skia.Canvas) -> None:
    canvas.drawCircle(540, 560, 330, _pen(_MINT, 6.0))
    for index in range(60):
        angle = math.radians(6 * index)
        inner = 290 if index % 5 == 0 else 308
        canvas.drawLine(
            540 + inner * math.cos(angle), 560 + inner * math.sin(angle), 540 + 322 * math.cos(angle),
            560 + 322 * math.sin(angle), _pen(_MINT, 5.0 if index % 5 == 0 else 2.5),
        )  # fmt: skip


def _needle(canvas: skia.Canvas) -> None:
    path = skia.Path()
    path.moveTo(540, 300)
    path.lineTo(566, 360)
    path.lineTo(514, 360)
    path.close()
    canvas.drawPath(path, _pen(_SUN))


def _kite(canvas: skia.Canvas) -> None:
    for points, colour in (
        (((540, 400), (410, 560), (540, 740)), _ROSE), (((540, 400), (670, 560), (540, 740)), _SUN),
        (((540, 500), (490, 560), (540, 630), (590, 560)), _DEEP),
    ):  # fmt: skip
        path = skia.Path()
        path.moveTo(*points[0])
        for point in points[1:]:
            path.lineTo(*point)
        path.close()
        canvas.drawPath(path, _pen(colour))


def _bar(index: int) -> Draw:
    share = (0.82, 0.56, 0.94, 0.38)[index]
    y = 1032 + 46 * index

    def draw(canvas: skia.Canvas) -> None:
        canvas.drawRect(skia.Rect.MakeXYWH(90, y, 620, 20), _pen(_MINT, 0.0, 0.22))
        canvas.drawRect(skia.Rect.MakeXYWH(90, y, 620 * share, 20), _pen((_MINT, _SUN, _MINT, _ROSE)[index]))

    return draw


def _label(text: str, x: float, y: float, size: float, colour: str = _CREAM) -> Draw:
    return lambda canvas: _words(canvas, text, x, y, size, colour, "League Spartan" if size > 80 else "Karla")


def _corners(canvas: skia.Canvas) -> None:
    for x, y, dx, dy in ((40, 40, 1, 1), (1040, 40, -1, 1), (40, 1310, 1, -1), (1040, 1310, -1, -1)):
        canvas.drawLine(x, y, x + 70 * dx, y, _pen(_CREAM, 5.0))
        canvas.drawLine(x, y, x, y + 70 * dy, _pen(_CREAM, 5.0))


#: (group or None, name, drawing, opacity, composite operator), front to back.
LAYERS: tuple[tuple[str | None, str, Draw, float, str], ...] = (
    (None, "Corner marks", _corners, 1.0, "svg:src-over"),
    ("Words", "Wind", _label("WIND 7", 90, 170, 116), 1.0, "svg:src-over"),
    ("Words", "Lift", _label("LIFT 12", 620, 170, 84, _SUN), 1.0, "svg:src-over"),
    ("Words", "Place", _label("Long sands, gusts from the west", 90, 985, 40), 1.0, "svg:src-over"),
    ("Words", "Ready", _label("READY", 752, 1118, 88, _ROSE), 1.0, "svg:src-over"),
    ("Bars", "Bar 1", _bar(0), 1.0, "svg:src-over"),
    ("Bars", "Bar 2", _bar(1), 1.0, "svg:src-over"),
    ("Bars", "Bar 3", _bar(2), 1.0, "svg:src-over"),
    ("Bars", "Bar 4", _bar(3), 1.0, "svg:src-over"),
    (None, "Kite", _kite, 1.0, "svg:src-over"),
    (None, "Needle", _needle, 1.0, "svg:src-over"),
    (None, "Ring", _ring, 0.9, "svg:screen"),
    (None, "Grid", _grid, 1.0, "svg:plus"),
    (None, "Ground", _ground, 1.0, "svg:src-over"),
)


def _drawn(draw: Draw) -> tuple[np.ndarray, tuple[int, int]]:
    """Return a layer's straight pixels, trimmed, and its corner."""
    pixels = np.zeros((HEIGHT, WIDTH, 4), dtype=np.uint8)
    info = skia.ImageInfo.Make(WIDTH, HEIGHT, skia.kRGBA_8888_ColorType, skia.kUnpremul_AlphaType)
    surface = skia.Surface(WIDTH, HEIGHT)
    draw(surface.getCanvas())
    surface.makeImageSnapshot().readPixels(info, pixels, WIDTH * 4, 0, 0)
    left, top, right, bottom = visible_box(pixels) or (0, 0, 1, 1)
    return np.ascontiguousarray(pixels[top:bottom, left:right]), (left, top)


def poster_ora() -> bytes:
    """Return the poster as an OpenRaster file of 1080 by 1350 px."""
    root = etree.Element("image", w=str(WIDTH), h=str(HEIGHT), version="0.0.6")
    stack = etree.SubElement(root, "stack")
    groups: dict[str, etree._Element] = {}
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w") as archive:
        archive.writestr(zipfile.ZipInfo("mimetype"), MIMETYPE)
        for number, (group, name, draw, opacity, operator) in enumerate(LAYERS):
            parent = stack
            if group is not None:
                if group not in groups:
                    groups[group] = etree.SubElement(stack, "stack", name=group)
                parent = groups[group]
            pixels, (x, y) = _drawn(draw)
            source = f"data/{number:02d}.png"
            archive.writestr(zipfile.ZipInfo(source), png(pixels))
            marks = {"name": name, "src": source, "x": str(x), "y": str(y), "opacity": str(opacity)}
            etree.SubElement(parent, "layer", {**marks, "composite-op": operator})
        archive.writestr(zipfile.ZipInfo("stack.xml"), etree.tostring(root, xml_declaration=True, encoding="UTF-8"))
    return buffer.getvalue()
