"""The workshop's pictures: logo, kites, price tag, button. Everything is drawn here, nothing is a file."""

from __future__ import annotations

import math
from functools import cache

import numpy as np
import skia

from spiralis.core.media.pictures import picture_source
from spiralis.core.model import Source
from spiralis.core.raster.fonts import find_face, shipped_faces
from spiralis.core.raster.shaping import lay_out, outline
from spiralis.demo.cloth import Sheet, panel, png, ribbon, shade, spar, weave

CORAL, SUN, PLUM, MINT, SKY, CREAM, INK, ROSE = (
    (238, 96, 76), (248, 184, 66), (98, 46, 88), (96, 196, 176),
    (74, 148, 206), (252, 244, 228), (40, 30, 52), (226, 92, 132),
)  # fmt: skip


def _swift() -> np.ndarray:
    sheet = Sheet(900, 1560)
    top, left, right, bottom, cross = (450, 30), (70, 440), (830, 440), (450, 1120), (450, 440)
    ribbon(sheet, (450, 1110), 420, 70, (SUN, CORAL, CREAM), 4)
    panel(sheet, [cross, top, left], CORAL, (1.05, 1.32))
    panel(sheet, [cross, right, top], SUN, (1.0, 1.3))
    panel(sheet, [cross, left, bottom], PLUM, (1.25, 0.95))
    panel(sheet, [cross, bottom, right], CORAL, (0.92, 0.66))
    panel(sheet, [(450, 560), (300, 690), (450, 860), (600, 690)], SUN, (1.2, 0.95))
    spar(sheet, (450, 34), (450, 1114))
    spar(sheet, (76, 440), (824, 440))
    return weave(sheet, 11)


def _delta() -> np.ndarray:
    sheet = Sheet(1400, 900)
    nose, left, right, keel, inner_l, inner_r = (700, 40), (40, 700), (1360, 700), (700, 640), (420, 560), (980, 560)
    for x in (520, 880):
        ribbon(sheet, (x, 590), 280, 30, (MINT, SKY), 2)
    panel(sheet, [nose, left, inner_l], SKY, (1.3, 0.9))
    panel(sheet, [nose, inner_r, right], SKY, (1.1, 0.72))
    panel(sheet, [nose, inner_l, keel], MINT, (1.35, 0.95))
    panel(sheet, [nose, keel, inner_r], MINT, (1.15, 0.78))
    panel(sheet, [(700, 250), (630, 470), (700, 560), (770, 470)], CREAM, (1.1, 0.95))
    for end in (left, right, keel):
        spar(sheet, nose, end, 12)
    spar(sheet, (440, 430), (960, 430), 10)
    return weave(sheet, 23)


def _box() -> np.ndarray:
    sheet = Sheet(900, 1200)

    def cell(top: float, height: float, first: tuple[int, int, int], second: tuple[int, int, int]) -> None:
        a, b, c, d = (120, top + 110), (450, top), (780, top + 110), (450, top + 220)
        panel(sheet, [a, b, (b[0], b[1] + height), (a[0], a[1] + height)], first, (0.55, 0.7), 0)
        panel(sheet, [b, c, (c[0], c[1] + height), (b[0], b[1] + height)], second, (0.5, 0.64), 0)
        panel(sheet, [a, d, (d[0], d[1] + height), (a[0], a[1] + height)], second, (1.3, 1.0), 0)
        panel(sheet, [d, c, (c[0], c[1] + height), (d[0], d[1] + height)], first, (1.1, 0.82), 0)

    spar(sheet, (450, 20), (450, 960))
    cell(40, 280, ROSE, SUN)
    cell(580, 280, SUN, ROSE)
    for x, y in ((120, 130), (450, 240), (780, 130)):
        spar(sheet, (x, y), (x, y + 860))
    return weave(sheet, 37)


def _ray() -> np.ndarray:
    sheet = Sheet(1200, 1300)
    head = skia.Path()
    head.moveTo(600, 40)
    head.cubicTo(900, 60, 1130, 330, 1180, 640)
    head.cubicTo(960, 560, 760, 700, 600, 860)
    head.cubicTo(440, 700, 240, 560, 20, 640)
    head.cubicTo(70, 330, 300, 60, 600, 40)
    ribbon(sheet, (600, 830), 430, 60, (PLUM, ROSE, MINT), 4)
    paint = skia.Paint(AntiAlias=True)
    paint.setShader(
        skia.GradientShader.MakeLinear(
            [skia.Point(200, 60), skia.Point(900, 860)], [shade(MINT, 1.3), shade((38, 108, 124), 0.85)]
        )
    )
    sheet.canvas.drawPath(head, paint)
    for side in (-1, 1):
        panel(sheet, [(600, 220), (600 + side * 260, 330), (600 + side * 470, 560)], CREAM, (1.0, 0.85), 0.2)
        sheet.canvas.drawCircle(600 + side * 120, 210, 40, skia.Paint(AntiAlias=True, Color=shade(INK, 1.0)))
        sheet.canvas.drawCircle(588 + side * 120, 198, 13, skia.Paint(AntiAlias=True, Color=shade(CREAM, 1.0)))
    spar(sheet, (600, 46), (600, 850))
    spar(sheet, (50, 620), (600, 300), 10)
    spar(sheet, (1150, 620), (600, 300), 10)
    return weave(sheet, 53)


def _word(sheet: Sheet, text: str, family: str, weight: float, size: float, at: tuple[float, float], rgb: int) -> None:
    from spiralis.core.model import Project

    face = find_face(Project(), family, weight)
    layout = lay_out(text, face, size, 0.0, 100.0, "centre")
    sheet.canvas.save()
    sheet.canvas.translate(at[0] - layout.width / 2, at[1] - layout.height / 2)
    sheet.canvas.drawPath(outline(layout, face, size), skia.Paint(AntiAlias=True, Color=rgb))
    sheet.canvas.restore()


def _logo() -> np.ndarray:
    sheet = Sheet(760, 220)
    cream = shade(CREAM, 1.0)
    for points, colour in (
        ([(110, 16), (28, 96), (110, 96)], CREAM),
        ([(110, 16), (192, 96), (110, 96)], SUN),
        ([(28, 96), (110, 96), (110, 204)], SUN),
        ([(192, 96), (110, 96), (110, 204)], CREAM),
    ):
        path = skia.Path()
        path.addPoly([skia.Point(*p) for p in points], True)
        sheet.canvas.drawPath(path, skia.Paint(AntiAlias=True, Color=shade(colour, 1.0)))
    _word(sheet, "tolvane", "Comfortaa", 700, 118, (480, 84), cream)
    _word(sheet, "KITES BY THE SEA", "Inter", 600, 31, (480, 172), cream)
    return sheet.straight()


def _tag() -> np.ndarray:
    sheet = Sheet(420, 420)
    path = skia.Path()
    for step in range(145):
        angle = step / 144 * 2 * math.pi
        radius = 190 + 9 * math.cos(angle * 18)
        point = (210 + radius * math.cos(angle), 210 + radius * math.sin(angle))
        path.moveTo(*point) if step == 0 else path.lineTo(*point)
    paint = skia.Paint(AntiAlias=True)
    paint.setShader(
        skia.GradientShader.MakeLinear([skia.Point(80, 40), skia.Point(330, 390)], [shade(SUN, 1.3), shade(SUN, 0.96)])
    )
    sheet.canvas.drawPath(path, paint)
    ring = skia.Paint(AntiAlias=True, Color=shade(INK, 1.0), StrokeWidth=5)
    ring.setStyle(skia.Paint.kStroke_Style)
    sheet.canvas.drawCircle(210, 210, 166, ring)
    _word(sheet, "only", "Lobster Two", 700, 66, (210, 96), shade(INK, 1.0))
    _word(sheet, "38", "League Spartan", 900, 172, (210, 222), shade(INK, 1.0))
    _word(sheet, "with line", "Inter", 700, 33, (210, 316), shade(INK, 1.0))
    return sheet.straight()


def _pill(width: int, height: int, top: tuple[int, int, int], bottom: tuple[int, int, int], margin: int) -> Sheet:
    sheet = Sheet(width + 2 * margin, height + 2 * margin)
    shape = skia.RRect.MakeRectXY(skia.Rect.MakeXYWH(margin, margin, width, height), height / 2, height / 2)
    paint = skia.Paint(AntiAlias=True)
    paint.setShader(
        skia.GradientShader.MakeLinear(
            [skia.Point(0, margin), skia.Point(0, margin + height)], [shade(top, 1.0), shade(bottom, 1.0)]
        )
    )
    sheet.canvas.drawRRect(shape, paint)
    return sheet


def _button() -> np.ndarray:
    sheet = _pill(640, 200, (255, 206, 104), (232, 146, 40), 12)
    edge = skia.Paint(AntiAlias=True, Color=skia.ColorSetARGB(150, 255, 244, 214), StrokeWidth=4)
    edge.setStyle(skia.Paint.kStroke_Style)
    shape = skia.RRect.MakeRectXY(skia.Rect.MakeXYWH(16, 16, 632, 192), 96, 96)
    sheet.canvas.drawRRect(shape, edge)
    return sheet.straight()


_DRAWINGS = {
    "kite-swift.png": _swift,
    "kite-delta.png": _delta,
    "kite-box.png": _box,
    "kite-ray.png": _ray,
    "tolvane-logo.png": _logo,
    "price-tag.png": _tag,
    "button.png": _button,
}


@cache
def pictures() -> dict[str, Source]:
    """Return all pictures as sources, by file name; ids are fixed so that the demo is the same every time."""
    shipped_faces()
    found = {}
    for index, (name, draw) in enumerate(_DRAWINGS.items()):
        source = picture_source(png(draw()), name)
        found[name] = Source(
            name, source.digest, source.suffix, source.width, source.height, id=f"picture{index}", data=source.data
        )
    return found
