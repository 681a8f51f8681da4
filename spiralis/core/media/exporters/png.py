"""PNG: one frame with its transparency, or a numbered file a frame; 8 or 16 bits."""

from __future__ import annotations

from pathlib import Path

import cv2
import numpy as np
from PIL import Image

from spiralis.core.errors import ExportError
from spiralis.core.media.exporters.base import Exporter, ExportJob, register_exporter
from spiralis.core.media.exporters.numbered import check_numbered, write_numbered
from spiralis.core.model import Kind, Parameter
from spiralis.core.render.frame import render_frame, render_straight8

SETTINGS = (
    Parameter("bits", "Depth", Kind.CHOICE, "8", "Bits a channel: 16 keep every shade for further work",
              choices=("8", "16")),
)  # fmt: skip


def write_png(path: Path, pixels: np.ndarray) -> None:
    """Write straight uint8 or uint16 (h, w, 4) pixels; opaque ones are stored without alpha."""
    full = np.iinfo(pixels.dtype).max
    picture = pixels[..., :3] if np.all(pixels[..., 3] == full) else pixels
    if pixels.dtype == np.uint8:
        Image.fromarray(np.ascontiguousarray(picture)).save(path, format="PNG")
        return
    order = [2, 1, 0, 3][: picture.shape[2]]
    done, data = cv2.imencode(".png", np.ascontiguousarray(picture[..., order]))
    if not done:
        raise ExportError(f"“{path.name}” could not be packed as PNG; please try again.")
    path.write_bytes(data.tobytes())


def straight16(pixels: np.ndarray) -> np.ndarray:
    """Return premultiplied float32 (h, w, 4) as straight uint16, 0 to 65535."""
    alpha = np.clip(pixels[..., 3:], 0.0, 1.0)
    colour = np.clip(pixels[..., :3] / np.maximum(alpha, 1e-6), 0.0, 1.0)
    return np.floor(np.concatenate([colour, alpha], axis=-1) * 65535 + 0.5).astype(np.uint16)


def _write(job: ExportJob, path: Path) -> tuple[str, ...]:
    deep = job.setting(PNG, "bits") == "16"

    def render(moment: float) -> np.ndarray:
        if deep:
            return straight16(render_frame(job.project, job.composition_id, moment, job.scale))
        return render_straight8(job.project, job.composition_id, moment, job.scale)

    write_numbered(job, path, render, write_png)
    return ()


def _check(job: ExportJob, path: Path) -> tuple[int, float, int, int]:
    return check_numbered(job, path, "PNG")


PNG = Exporter("png", "PNG", ".png", "With alpha: one frame or all", SETTINGS, _write, _check, many_files=True,
               order=300)  # fmt: skip
register_exporter(PNG)
