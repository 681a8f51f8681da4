"""The demo's footage: a ribbon in the wind with alpha, a grainy flicker, ink that spreads and dries. All loop."""

from __future__ import annotations

import io
import math
from fractions import Fraction
from typing import Any

import av
import numpy as np
import skia

RATE = Fraction(25)
RIBBON_FRAMES, RIBBON_SIZE = 50, (720, 480)
FLICKER_FRAMES, FLICKER_SIZE = 25, 240
INK_FRAMES, INK_SIZE = 50, 320
SHADE_FRAMES, SHADE_SIZE = 90, (270, 338)


def _encode(frames: list[np.ndarray], codec: str, container: str, pixel_format: str, options: dict[str, str],
            rate: Fraction = RATE) -> bytes:  # fmt: skip
    buffer = io.BytesIO()
    height, width = frames[0].shape[:2]
    with av.open(buffer, "w", format=container) as output:
        stream: Any = output.add_stream(codec, rate=rate, options=options)
        stream.width, stream.height, stream.pix_fmt = width, height, pixel_format
        stream.codec_context.thread_count = 1
        for number, pixels in enumerate(frames):
            frame = av.VideoFrame.from_ndarray(pixels, format="rgba").reformat(format=pixel_format)
            frame.pts = number
            output.mux(stream.encode(frame))
        output.mux(stream.encode(None))
    return buffer.getvalue()


def _ribbon_frame(turn: float) -> np.ndarray:
    """Return the ribbon at a phase of its loop (0 to 1), straight alpha."""
    width, height = RIBBON_SIZE
    surface = skia.Surface(width, height)
    canvas = surface.getCanvas()
    count = 90

    def at(share: float, edge: float) -> tuple[float, float]:
        sway = 30 + 70 * share
        phase = 2 * math.pi * (1.6 * share - turn)
        y = height / 2 + sway * math.sin(phase) + 34 * math.sin(2 * math.pi * (2.7 * share - 2 * turn) + 0.8)
        half = 58 + 12 * math.cos(phase + 0.6)
        return 40 + 640 * share, y + edge * half

    for index in range(count):
        low, high = index / count, (index + 1.25) / count
        slope = at(high, 0.0)[1] - at(low, 0.0)[1]
        light = 0.78 + 0.34 * math.tanh(-slope / 6)
        base = (238, 96, 76) if int(low * 9) % 2 == 0 else (248, 184, 66)
        red, green, blue = (min(255, round(channel * light)) for channel in base)
        path = skia.Path()
        path.moveTo(*at(low, -1))
        path.lineTo(*at(high, -1))
        path.lineTo(*at(high, 1))
        path.lineTo(*at(low, 1))
        path.close()
        canvas.drawPath(path, skia.Paint(AntiAlias=True, Color=skia.ColorSetARGB(255, red, green, blue)))
    pixels = np.zeros((height, width, 4), dtype=np.uint8)
    info = skia.ImageInfo.Make(width, height, skia.kRGBA_8888_ColorType, skia.kUnpremul_AlphaType)
    surface.makeImageSnapshot().readPixels(info, pixels, width * 4, 0, 0)
    return pixels


def ribbon_clip() -> bytes:
    """Return the ribbon as WebM: VP9 with alpha, 50 frames of 720 by 480 px."""
    frames = [_ribbon_frame(number / RIBBON_FRAMES) for number in range(RIBBON_FRAMES)]
    options = {"deadline": "realtime", "cpu-used": "8", "crf": "30", "b": "0", "auto-alt-ref": "0"}
    return _encode(frames, "libvpx-vp9", "webm", "yuva420p", options)


def flicker_clip() -> bytes:
    """Return the flicker as MP4: H.264, 25 frames of 240 by 240 px, grey grain whose brightness jumps."""
    random = np.random.Generator(np.random.Philox(41))
    levels = random.choice([0.16, 0.3, 0.62, 0.9], FLICKER_FRAMES, p=[0.35, 0.25, 0.25, 0.15])
    frames = []
    for level in levels:
        grain = random.normal(level, 0.09, (FLICKER_SIZE // 2, FLICKER_SIZE // 2))
        band = 0.12 * np.sin(np.linspace(0, 9, FLICKER_SIZE // 2) + 20 * level)[:, None]
        grey = np.clip((grain + band) * 255, 0, 255).astype(np.uint8).repeat(2, axis=0).repeat(2, axis=1)
        frames.append(np.dstack([grey, grey, grey, np.full_like(grey, 255)]))
    return _encode(frames, "libx264", "mp4", "yuv420p", {"preset": "fast", "crf": "26"})


def ink_clip() -> bytes:
    """Return ink as MP4: H.264, 50 frames of 320 by 320 px, white that spreads over black in blots, and goes again."""
    random = np.random.Generator(np.random.Philox(17))
    y, x = np.mgrid[0:INK_SIZE, 0:INK_SIZE] / INK_SIZE
    field = np.zeros((INK_SIZE, INK_SIZE))
    for wave in range(1, 26):
        angle, phase = random.uniform(0, 2 * math.pi, 2)
        field += np.cos(2 * math.pi * wave * 0.6 * (x * math.cos(angle) + y * math.sin(angle)) + phase) / wave**0.8
    field = (field - field.min()) / np.ptp(field)
    frames = []
    for number in range(INK_FRAMES):
        share = number / INK_FRAMES
        come, go = min(share / 0.45, 1.0), min(max((share - 0.7) / 0.3, 0.0), 1.0)
        level = (come * come * (3 - 2 * come)) * (1 - go * go * (3 - 2 * go))
        grey = (np.clip((level * 1.2 - field) / 0.1, 0, 1) * 255).astype(np.uint8)
        frames.append(np.dstack([grey, grey, grey, np.full_like(grey, 255)]))
    return _encode(frames, "libx264", "mp4", "yuv420p", {"preset": "fast", "crf": "24"})


def shade_clip() -> bytes:
    """Return the shade of leaves on a wall as MP4: H.264, 90 frames of 270 by 338 px at 60 a second, for ever.

    Each is whole in itself: with differences the first would be sharper than the last, and the loop would show it.
    """
    random = np.random.Generator(np.random.Philox(61))
    width, height = SHADE_SIZE
    leaves = []
    for index in range(110):
        # Three twigs: from the left, from the right, and across the top.
        along, side = random.uniform(0, 1), random.normal(0, 0.055)
        x, y, lean = ((-0.1 + 0.75 * along, -0.05 + 0.5 * along, 0.6), (1.1 - 0.6 * along, 0.1 + 0.45 * along, 2.4),
                      (0.2 + 0.9 * along, -0.06 + 0.1 * along, 0.2))[index % 3]  # fmt: skip
        turn = lean + (0.7 if index % 2 else -0.7) + random.normal(0, 0.2)
        leaves.append((x + side, y - side, 3 * along + random.uniform(0, 1), random.uniform(0.05, 0.085), turn))
    frames = []
    for number in range(SHADE_FRAMES):
        turn = 2 * math.pi * number / SHADE_FRAMES
        surface = skia.Surface(width, height)
        canvas = surface.getCanvas()
        canvas.clear(skia.ColorWHITE)
        blur = skia.ImageFilters.Blur(5, 5)
        paint = skia.Paint(AntiAlias=True, Color=skia.ColorSetARGB(150, 92, 104, 120), ImageFilter=blur)
        for x, y, phase, size, angle in leaves:
            sway = math.sin(turn + phase)
            canvas.save()
            canvas.translate((x + 0.012 * sway) * width, (y + 0.008 * math.cos(turn + phase)) * height)
            canvas.rotate(math.degrees(angle) + 7 * sway)
            long = size * width
            canvas.drawOval(skia.Rect.MakeXYWH(-long, -long / 3, 2 * long, long / 1.5), paint)
            canvas.restore()
        pixels = np.zeros((height, width, 4), dtype=np.uint8)
        info = skia.ImageInfo.Make(width, height, skia.kRGBA_8888_ColorType, skia.kUnpremul_AlphaType)
        surface.makeImageSnapshot().readPixels(info, pixels, width * 4, 0, 0)
        frames.append(pixels)
    return _encode(frames, "libx264", "mp4", "yuv420p", {"preset": "fast", "crf": "20", "g": "1"}, Fraction(60))
