"""TIFF: 16 bits with alpha, one frame or a numbered file a frame, for print and further work."""

from __future__ import annotations

import struct
import zlib
from pathlib import Path

import numpy as np

from spiralis.core.media.exporters.base import Exporter, ExportJob, register_exporter
from spiralis.core.media.exporters.numbered import check_numbered, write_numbered
from spiralis.core.media.exporters.png import frame16

#: Values of TIFF 6.0: packed by deflate, colours of light, alpha that colours are not multiplied by.
_DEFLATE, _RGB, _STRAIGHT_ALPHA = 8, 2, 2


def tiff16(pixels: np.ndarray) -> bytes:
    """Return straight uint16 (h, w, 4) as a TIFF 6.0 file: one strip, deflated, its fourth channel straight alpha."""
    height, width = pixels.shape[:2]
    strip = zlib.compress(np.ascontiguousarray(pixels, dtype="<u2").tobytes(), 6)
    short, whole, head = 3, 4, 8
    entries = (
        (256, whole, 1, width), (257, whole, 1, height), (258, short, 4, -1), (259, short, 1, _DEFLATE),
        (262, short, 1, _RGB), (273, whole, 1, head), (277, short, 1, 4), (278, whole, 1, height),
        (279, whole, 1, len(strip)), (284, short, 1, 1), (338, short, 1, _STRAIGHT_ALPHA),
    )  # fmt: skip
    pad = len(strip) % 2
    table = head + len(strip) + pad
    depths = table + 2 + 12 * len(entries) + 4
    rows = b"".join(struct.pack("<HHII", *e[:3], depths if e[3] < 0 else e[3]) for e in entries)
    ending = struct.pack("<I", 0) + struct.pack("<4H", 16, 16, 16, 16)
    return struct.pack("<2sHI", b"II", 42, table) + strip + bytes(pad) + struct.pack("<H", len(entries)) + rows + ending


def _write(job: ExportJob, path: Path) -> tuple[str, ...]:
    write_numbered(job, path, frame16, tiff16)
    return ()


def _check(job: ExportJob, path: Path) -> tuple[int, float, int, int]:
    return check_numbered(job, path, "TIFF")


TIFF = Exporter("tiff", "TIFF", ".tiff", "16 bits: print and further work", (), _write, _check, many_files=True,
                order=320)  # fmt: skip
register_exporter(TIFF)
