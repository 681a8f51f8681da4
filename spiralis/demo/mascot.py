"""Four drawings of the workshop's mascot, a small kite with a face: looks, half-shut, shut, looks aside."""

from __future__ import annotations

import numpy as np
import skia

SIZE = 720
POSES = ("looks", "half", "shut", "aside")
_INK, _CREAM, _CORAL, _SUN, _PLUM = 0xFF281E34, 0xFFFCF4E4, 0xFFEE604C, 0xFFF8B842, 0xFF622E58


def _polygon(*points: tuple[float, float]) -> skia.Path:
    path = skia.Path()
    path.moveTo(*points[0])
    for point in points[1:]:
        path.lineTo(*point)
    path.close()
    return path


def _line(canvas: skia.Canvas, *points: tuple[float, float], width: float = 12.0) -> None:
    pen = skia.Paint(AntiAlias=True, Color=_INK, StrokeWidth=width)
    pen.setStyle(skia.Paint.kStroke_Style)
    pen.setStrokeCap(skia.Paint.kRound_Cap)
    pen.setStrokeJoin(skia.Paint.kRound_Join)
    path = skia.Path()
    path.moveTo(*points[0])
    if len(points) == 3:
        path.quadTo(*points[1], *points[2])
    else:
        path.lineTo(*points[1])
    canvas.drawPath(path, pen)


def _body(canvas: skia.Canvas, wobble: float) -> None:
    _line(canvas, (360, 560), (300 + wobble, 620), (380, 690), width=10)
    for y, x, colour in ((604, 334 + wobble / 2, _SUN), (656, 352 + wobble / 2, _CORAL)):
        canvas.drawPath(_polygon((x, y), (x - 36, y - 20), (x - 36, y + 20)), skia.Paint(AntiAlias=True, Color=colour))
        canvas.drawPath(_polygon((x, y), (x + 36, y - 20), (x + 36, y + 20)), skia.Paint(AntiAlias=True, Color=colour))
    canvas.drawPath(_polygon((360, 50), (120, 310), (360, 570)), skia.Paint(AntiAlias=True, Color=_CORAL))
    canvas.drawPath(_polygon((360, 50), (600, 310), (360, 570)), skia.Paint(AntiAlias=True, Color=_SUN))
    outline = skia.Paint(AntiAlias=True, Color=_INK, StrokeWidth=14)
    outline.setStyle(skia.Paint.kStroke_Style)
    outline.setStrokeJoin(skia.Paint.kRound_Join)
    canvas.drawPath(_polygon((360, 50), (600, 310), (360, 570), (120, 310)), outline)


def _eye(canvas: skia.Canvas, x: float, y: float, pose: str) -> None:
    if pose == "shut":
        _line(canvas, (x - 48, y), (x, y + 30), (x + 48, y))
        return
    open_ = 24.0 if pose == "half" else 52.0
    canvas.drawOval(skia.Rect.MakeLTRB(x - 46, y - open_, x + 46, y + open_), skia.Paint(AntiAlias=True, Color=_CREAM))
    ring = skia.Paint(AntiAlias=True, Color=_INK, StrokeWidth=9)
    ring.setStyle(skia.Paint.kStroke_Style)
    canvas.drawOval(skia.Rect.MakeLTRB(x - 46, y - open_, x + 46, y + open_), ring)
    look = 20.0 if pose == "aside" else 0.0
    radius = min(24.0, open_)
    canvas.drawCircle(x + look, y, radius, skia.Paint(AntiAlias=True, Color=_INK))
    canvas.drawCircle(x + look - 7, y - radius / 2.6, radius / 3.4, skia.Paint(AntiAlias=True, Color=_CREAM))


def mascot(pose: str) -> np.ndarray:
    """Return a drawing as straight uint8 (720, 720, 4); ``pose`` is one of POSES."""
    surface = skia.Surface(SIZE, SIZE)
    canvas = surface.getCanvas()
    _body(canvas, {"looks": 0.0, "half": 8.0, "shut": 14.0, "aside": -10.0}[pose])
    for x in (280, 440):
        _eye(canvas, x, 290, pose)
    if pose == "aside":
        _line(canvas, (322, 410), (372, 424), (404, 396))
    else:
        _line(canvas, (310, 400), (360, 446), (410, 400))
    for x in (226, 494):
        canvas.drawOval(
            skia.Rect.MakeLTRB(x - 24, 352, x + 24, 380), skia.Paint(AntiAlias=True, Color=_PLUM, Alphaf=0.25)
        )
    pixels = np.zeros((SIZE, SIZE, 4), dtype=np.uint8)
    info = skia.ImageInfo.Make(SIZE, SIZE, skia.kRGBA_8888_ColorType, skia.kUnpremul_AlphaType)
    surface.makeImageSnapshot().readPixels(info, pixels, SIZE * 4, 0, 0)
    return pixels
