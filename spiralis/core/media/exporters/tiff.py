"""TIFF: 16 bits with alpha, one frame or a numbered file a frame, for print and further work."""

from __future__ import annotations

from pathlib import Path

import cv2
import numpy as np

from spiralis.core.errors import ExportError
from spiralis.core.media.exporters.base import Exporter, ExportJob, register_exporter
from spiralis.core.media.exporters.numbered import check_numbered, write_numbered
from spiralis.core.media.exporters.png import straight16
from spiralis.core.render.frame import render_frame


def _one(path: Path, pixels: np.ndarray) -> None:
    deflate = [cv2.IMWRITE_TIFF_COMPRESSION, cv2.IMWRITE_TIFF_COMPRESSION_ADOBE_DEFLATE]
    done, data = cv2.imencode(".tiff", np.ascontiguousarray(pixels[..., [2, 1, 0, 3]]), deflate)
    if not done:
        raise ExportError(f"“{path.name}” could not be packed as TIFF; please try again.")
    path.write_bytes(data.tobytes())


def _write(job: ExportJob, path: Path) -> tuple[str, ...]:
    def render(moment: float) -> np.ndarray:
        return straight16(render_frame(job.project, job.composition_id, moment, job.scale))

    write_numbered(job, path, render, _one)
    return ()


def _check(job: ExportJob, path: Path) -> tuple[int, float, int, int]:
    return check_numbered(job, path, "TIFF")


TIFF = Exporter("tiff", "TIFF", ".tiff", "16 bits: print and further work", (), _write, _check, many_files=True,
                order=320)  # fmt: skip
register_exporter(TIFF)
