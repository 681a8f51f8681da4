"""Clips made for tests: each frame carries its own number in black and white squares."""

from __future__ import annotations

import io
from fractions import Fraction

import av
import numpy as np
from PIL import Image

BITS = 8
SIDE = 16


def numbered(number: int, width: int = 160, height: int = 96) -> np.ndarray:
    """Return a straight RGBA frame whose squares spell ``number`` in binary; grey elsewhere."""
    pixels = np.full((height, width, 4), (120, 90, 60, 255), dtype=np.uint8)
    for bit in range(BITS):
        shade = 235 if number >> bit & 1 else 20
        column, row = bit % 4, bit // 4
        pixels[8 + 40 * row : 8 + 40 * row + 2 * SIDE, 8 + 38 * column : 8 + 38 * column + 2 * SIDE, :3] = shade
    return pixels


def number_of(pixels: np.ndarray) -> int:
    """Read the number back."""
    total = 0
    for bit in range(BITS):
        column, row = bit % 4, bit // 4
        total |= int(pixels[8 + 40 * row + SIDE, 8 + 38 * column + SIDE, 0] > 128) << bit
    return total


def encode(
    codec: str, container: str, pixel_format: str, count: int = 40, rate: Fraction = Fraction(25),
    options: dict[str, str] | None = None, times: list[int] | None = None, alpha: int = 255,
    size: tuple[int, int] = (160, 96),
) -> bytes:  # fmt: skip
    """Return a clip of ``count`` numbered frames; ``times`` gives each frame's time in 1/1000 s."""
    buffer = io.BytesIO()
    with av.open(buffer, "w", format=container) as output:
        stream = output.add_stream(codec, rate=rate, options=options or {})
        stream.width, stream.height, stream.pix_fmt = *size, pixel_format
        base = Fraction(1, 1000) if times is not None else 1 / rate
        stream.codec_context.time_base = base
        for number in range(count):
            pixels = numbered(number, *size)
            pixels[..., 3] = alpha
            frame = av.VideoFrame.from_ndarray(pixels, format="rgba").reformat(format=pixel_format)
            frame.pts = times[number] if times is not None else number
            frame.time_base = base
            output.mux(stream.encode(frame))
        output.mux(stream.encode(None))
    return buffer.getvalue()


def animated(kind: str, count: int = 12, milliseconds: int = 80) -> bytes:
    """Return an animated GIF, APNG or WebP of numbered frames, written by Pillow."""
    frames = [Image.fromarray(numbered(number)) for number in range(count)]
    buffer = io.BytesIO()
    extra: dict[str, object] = {"lossless": True} if kind == "WEBP" else {}
    frames[0].save(buffer, format=kind, save_all=True, append_images=frames[1:], duration=milliseconds, loop=0, **extra)
    return buffer.getvalue()
