"""PNG: one frame with its transparency, or a numbered file a frame; 8 or 16 bits."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from spiralis.core.media.exporters.animated import straight_frame
from spiralis.core.media.exporters.base import Exporter, ExportJob, register_exporter
from spiralis.core.media.exporters.numbered import check_numbered, write_numbered
from spiralis.core.media.png_file import png_bytes
from spiralis.core.model import Kind, Parameter
from spiralis.core.render.frame import render_frame

SETTINGS = (
    Parameter("bits", "Depth", Kind.CHOICE, "8", "Bits a channel: 16 keep every shade for further work",
              choices=("8", "16")),
)  # fmt: skip


def straight16(pixels: np.ndarray) -> np.ndarray:
    """Return premultiplied float32 (h, w, 4) as straight uint16, 0 to 65535."""
    alpha = np.clip(pixels[..., 3:], 0.0, 1.0)
    colour = np.clip(pixels[..., :3] / np.maximum(alpha, 1e-6), 0.0, 1.0)
    return np.floor(np.concatenate([colour, alpha], axis=-1) * 65535 + 0.5).astype(np.uint16)


def frame16(job: ExportJob, moment: float) -> np.ndarray:
    """Return one of a job's frames as straight uint16 (h, w, 4)."""
    return straight16(render_frame(job.project, job.composition_id, moment, job.scale))


def _write(job: ExportJob, path: Path) -> tuple[str, ...]:
    write_numbered(job, path, frame16 if job.setting(PNG, "bits") == "16" else straight_frame, png_bytes)
    return ()


def _check(job: ExportJob, path: Path) -> tuple[int, float, int, int]:
    return check_numbered(job, path, "PNG")


PNG = Exporter("png", "PNG", ".png", "With alpha: one frame or all", SETTINGS, _write, _check, many_files=True,
               order=300)  # fmt: skip
register_exporter(PNG)
