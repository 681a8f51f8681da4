"""Tools for drawing kites that look sewn: panels of ripstop cloth, seams, spars, ribbons."""

from __future__ import annotations

import io
import math
from collections.abc import Sequence

import numpy as np
import skia
from PIL import Image, ImageFilter

Point = tuple[float, float]
Rgb = tuple[int, int, int]


class Sheet:
    """A transparent drawing surface of ``width`` by ``height`` pixels."""

    def __init__(self, width: int, height: int) -> None:
        self.width, self.height = width, height
        self.pixels = np.zeros((height, width, 4), dtype=np.uint8)
        info = skia.ImageInfo.Make(width, height, skia.kRGBA_8888_ColorType, skia.kPremul_AlphaType)
        self.surface = skia.Surface.MakeRasterDirect(info, self.pixels)
        self.canvas = self.surface.getCanvas()

    def straight(self) -> np.ndarray:
        """Return the drawing as straight uint8 (h, w, 4)."""
        alpha = np.maximum(self.pixels[..., 3:].astype(np.float64), 1)
        result = self.pixels.copy()
        result[..., :3] = np.clip(self.pixels[..., :3] * 255.0 / alpha + 0.5, 0, 255).astype(np.uint8)
        return result


def png(pixels: np.ndarray) -> bytes:
    """Return straight uint8 (h, w, 4) pixels as PNG bytes."""
    buffer = io.BytesIO()
    Image.fromarray(pixels).save(buffer, format="PNG", compress_level=6)
    return buffer.getvalue()


def polygon(points: Sequence[Point], bow: float = 0.0) -> skia.Path:
    """Return a closed path; ``bow`` bends each edge inwards by that share of its length, as taut cloth does."""
    centre = (sum(p[0] for p in points) / len(points), sum(p[1] for p in points) / len(points))
    path = skia.Path()
    path.moveTo(*points[0])
    for a, b in zip(points, [*points[1:], points[0]], strict=True):
        middle = ((a[0] + b[0]) / 2, (a[1] + b[1]) / 2)
        inward = (middle[0] + (centre[0] - middle[0]) * bow, middle[1] + (centre[1] - middle[1]) * bow)
        path.quadTo(*inward, *b)
    path.close()
    return path


def shade(colour: Rgb, light: float) -> int:
    """Return an opaque Skia colour, darker below 1 and lighter above."""
    if light <= 1:
        r, g, b = (round(c * light) for c in colour)
    else:
        r, g, b = (round(c + (255 - c) * min(light - 1, 1)) for c in colour)
    return int(skia.ColorSetARGB(255, r, g, b))


def panel(sheet: Sheet, points: Sequence[Point], colour: Rgb, light: tuple[float, float], bow: float = 0.03) -> None:
    """Sew in a panel whose light goes from its first point to the middle of the others."""
    far = (sum(p[0] for p in points[1:]) / (len(points) - 1), sum(p[1] for p in points[1:]) / (len(points) - 1))
    paint = skia.Paint(AntiAlias=True)
    paint.setShader(
        skia.GradientShader.MakeLinear(
            [skia.Point(*points[0]), skia.Point(*far)], [shade(colour, light[0]), shade(colour, light[1])]
        )
    )
    path = polygon(points, bow)
    sheet.canvas.drawPath(path, paint)
    hem = skia.Paint(AntiAlias=True, Color=shade(colour, 0.62), StrokeWidth=5)
    hem.setStyle(skia.Paint.kStroke_Style)
    hem.setStrokeJoin(skia.Paint.kRound_Join)
    sheet.canvas.drawPath(path, hem)
    stitch = skia.Paint(AntiAlias=True, Color=shade(colour, 1.45), StrokeWidth=2)
    stitch.setStyle(skia.Paint.kStroke_Style)
    stitch.setPathEffect(skia.DashPathEffect.Make([9, 7], 0))
    matrix = skia.Matrix()
    matrix.setScale(0.955, 0.955, far[0], far[1])
    inner = skia.Path(path)
    inner.transform(matrix)
    sheet.canvas.drawPath(inner, stitch)


def spar(sheet: Sheet, a: Point, b: Point, width: float = 13.0) -> None:
    """Lay a round rod of dark carbon with a highlight."""
    for offset, size, colour in ((0.0, width, 0xFF241C2C), (-width * 0.18, width * 0.28, 0xFF8E8298)):
        paint = skia.Paint(AntiAlias=True, Color=colour, StrokeWidth=size)
        paint.setStyle(skia.Paint.kStroke_Style)
        paint.setStrokeCap(skia.Paint.kRound_Cap)
        sheet.canvas.drawLine(a[0] + offset, a[1] + offset, b[0] + offset, b[1] + offset, paint)


def ribbon(sheet: Sheet, start: Point, length: float, sway: float, colours: Sequence[Rgb], bows: int) -> None:
    """Hang a tail with bows."""
    path = skia.Path()
    points = []
    for step in range(61):
        t = step / 60
        points.append((start[0] + sway * math.sin(t * 2.2 * math.pi) * (0.35 + 0.65 * t), start[1] + length * t))
    path.moveTo(*points[0])
    for point in points[1:]:
        path.lineTo(*point)
    paint = skia.Paint(AntiAlias=True, Color=0xFFF6EBDD, StrokeWidth=6)
    paint.setStyle(skia.Paint.kStroke_Style)
    sheet.canvas.drawPath(path, paint)
    for index in range(bows):
        place = points[round((index + 0.8) / bows * 55)]
        after = points[min(round((index + 0.8) / bows * 55) + 2, 60)]
        turn = math.degrees(math.atan2(after[1] - place[1], after[0] - place[0])) - 90
        sheet.canvas.save()
        sheet.canvas.translate(*place)
        sheet.canvas.rotate(turn)
        colour = colours[index % len(colours)]
        panel(sheet, [(0, 0), (-54, -27), (-47, 25)], colour, (0.8, 1.15), 0)
        panel(sheet, [(0, 0), (54, -27), (47, 25)], colour, (0.95, 1.3), 0)
        sheet.canvas.drawCircle(0, 0, 11, skia.Paint(AntiAlias=True, Color=shade(colour, 0.7)))
        sheet.canvas.restore()


def weave(sheet: Sheet, seed: int) -> np.ndarray:
    """Return the drawing with the light and grain of cloth on it, straight uint8 (h, w, 4).

    Ripstop threads, long soft folds, fine grain, and a shade along the lower edges of each part.
    """
    pixels = sheet.straight().astype(np.float64)
    height, width = pixels.shape[:2]
    y, x = np.mgrid[0:height, 0:width].astype(np.float64)
    grain = np.random.Generator(np.random.Philox(key=seed)).normal(0, 1, (height, width))
    threads = 0.028 * ((x % 18 < 2).astype(float) + (y % 18 < 2)) + 0.012 * np.sin(x * 1.9) * np.sin(y * 1.9)
    bend = x * 0.0105 + 2.2 * np.sin(y * 0.0042 + seed) + 0.0035 * y
    folds = 0.075 * np.sin(bend) + 0.05 * np.sin(2.3 * bend + 1 + 0.006 * y)
    light = 1.0 + threads + folds + 0.014 * grain
    alpha = Image.fromarray(pixels[..., 3].astype(np.uint8))
    near = np.asarray(alpha.filter(ImageFilter.GaussianBlur(22)), dtype=np.float64) / 255
    light *= 0.80 + 0.22 * near
    pixels[..., :3] = np.clip(pixels[..., :3] * light[..., None] + 6 * (light[..., None] - 1) * 10, 0, 255)
    return pixels.astype(np.uint8)
