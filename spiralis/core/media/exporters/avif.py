"""Animated AVIF: the smallest of the animated pictures, with alpha."""

from __future__ import annotations

from pathlib import Path

from PIL import _avif

from spiralis.core.media.encoding import refusals
from spiralis.core.media.exporters.animated import QUALITY, check_animated, picture_ladder, straight_frames, waits
from spiralis.core.media.exporters.base import Exporter, ExportJob, register_exporter

_SPEED, _THREADS = 8, 2
#: What the encoder raises where it gives up.
_GIVES_UP = (RuntimeError, ValueError)


def without_times(data: bytes) -> bytes:
    """Return a file of boxes (ISO/IEC 14496-12) with no moment of its making, so that the same frames give one file."""
    held = bytearray(data)

    def walk(start: int, end: int) -> None:
        while start + 8 <= end:
            size, kind = int.from_bytes(held[start : start + 4], "big"), bytes(held[start + 4 : start + 8])
            head = 8
            if size == 1:
                size, head = int.from_bytes(held[start + 8 : start + 16], "big"), 16
            stop = end if size == 0 else min(start + size, end)
            if size < head and size != 0:
                return
            if kind in (b"moov", b"trak", b"mdia"):
                walk(start + head, stop)
            elif kind in (b"mvhd", b"tkhd", b"mdhd"):
                # After version and flags come the times of making and of changing, of 4 or 8 bytes each.
                length = 16 if held[start + head] == 1 else 8
                held[start + head + 4 : start + head + 4 + length] = bytes(length)
            start = stop

    walk(0, len(held))
    return bytes(held)


def _write(job: ExportJob, path: Path) -> tuple[str, ...]:
    quality = int(job.setting(AVIF, "quality"))
    mode = "RGBA" if job.see_through else "RGB"
    # The encoder itself takes frames one by one; Pillow's own saving would hold all of them in memory.
    encoder = _avif.AvifEncoder(
        job.size, "4:2:0", quality, _SPEED, _THREADS, "auto", "full", 0, 0, False, True, b"", b"", 0, b"", None
    )
    for pixels, wait in zip(straight_frames(job), waits(job, 1000), strict=True):
        with refusals("AVIF", job.size, _GIVES_UP, "size"):
            encoder.add(pixels[..., : len(mode)].tobytes(), wait, job.size, mode, len(job.times) == 1)
    with refusals("AVIF", job.size, _GIVES_UP, "size"):
        data = bytes(encoder.finish())
    path.write_bytes(without_times(data))
    return ()


def _check(job: ExportJob, path: Path) -> tuple[int, float, int, int]:
    return check_animated(job, path, "AVIF")


AVIF = Exporter("avif", "AVIF", ".avif", "Animated picture: smallest, with alpha", (QUALITY,), _write, _check,
                ladder=picture_ladder(), order=240)  # fmt: skip
register_exporter(AVIF)
