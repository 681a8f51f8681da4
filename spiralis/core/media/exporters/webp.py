"""Animated WebP: small, with alpha, for pages."""

from __future__ import annotations

from pathlib import Path

from PIL import Image, _webp

from spiralis.core.errors import ExportError
from spiralis.core.media.exporters.animated import (
    LOOPS,
    QUALITY,
    check_animated,
    picture_ladder,
    straight_frames,
    waits,
)
from spiralis.core.media.exporters.base import Exporter, ExportJob, register_exporter
from spiralis.core.model import Kind, Parameter

SETTINGS = (
    QUALITY,
    Parameter("lossless", "Lossless", Kind.SWITCH, False, "Every pixel exact; quality is then how hard it tries"),
    LOOPS,
)
#: How often a picture stands by itself at least and at most: what gif2webp's documentation recommends for lossy files.
_KEYS = (3, 5)
#: How wide and high the format lets a picture be (RFC 9649: 14 bits).
_LARGEST = 16_383


def _write(job: ExportJob, path: Path) -> tuple[str, ...]:
    if max(job.size) > _LARGEST:
        raise ExportError(
            f"A WebP has no more than {_LARGEST} px a side, and {job.size[0]} × {job.size[1]} px are asked for; choose "
            "a smaller size or another target."
        )
    quality, lossless, loops = (job.setting(WEBP, name) for name in ("quality", "lossless", "loops"))
    # The encoder itself takes frames one by one; Pillow's own saving would hold all of them in memory.
    encoder = _webp.WebPAnimEncoder(job.size, 0, int(loops), False, *_KEYS, False, False)
    time = 0
    for pixels, wait in zip(straight_frames(job), waits(job, 1000), strict=True):
        image = Image.fromarray(pixels)
        encoder.add(image.getim(), time, bool(lossless), float(quality), 100, 4)
        time += wait
    encoder.add(None, time, bool(lossless), float(quality), 100, 0)
    path.write_bytes(encoder.assemble("", "", ""))
    return ()


def _check(job: ExportJob, path: Path) -> tuple[int, float, int, int]:
    return check_animated(job, path, "WEBP")


WEBP = Exporter("webp", "WebP", ".webp", "Animated picture: pages, with alpha", SETTINGS, _write, _check,
                ladder=picture_ladder(), order=230)  # fmt: skip
register_exporter(WEBP)
