"""PNG: one frame with its transparency, or a numbered file a frame."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from PIL import Image

from spiralis.core.errors import ExportError
from spiralis.core.media.exporters.base import Exporter, ExportJob, register_exporter
from spiralis.core.render.frame import render_straight8


def frame_path(path: Path, frame: int, length: int) -> Path:
    """Return the file of a frame in a sequence: ``name-0007.png``."""
    return path.with_name(f"{path.stem}-{frame:0{max(4, len(str(length)))}d}{path.suffix}")


def write_png(path: Path, pixels: np.ndarray) -> None:
    """Write straight uint8 (h, w, 4) pixels; opaque ones are stored without alpha."""
    picture = pixels[..., :3] if np.all(pixels[..., 3] == 255) else pixels
    Image.fromarray(np.ascontiguousarray(picture)).save(path, format="PNG")


def _write(job: ExportJob, path: Path) -> tuple[str, ...]:
    def render(frame: int) -> np.ndarray:
        return render_straight8(job.project, job.composition_id, frame, job.scale)

    if job.last - job.first == 1:
        for pixels in job.frames(render):
            write_png(path, pixels)
        return ()
    path.mkdir()
    for frame, pixels in enumerate(job.frames(render), start=job.first):
        write_png(path / frame_path(job.path, frame, job.composition.length).name, pixels)
    return ()


def _check(job: ExportJob, path: Path) -> tuple[int, float, int, int]:
    files = sorted(path.iterdir()) if path.is_dir() else [path]
    count = job.last - job.first
    for file in files:
        try:
            with Image.open(file, formats=["PNG"]) as image:
                size = image.size
                image.load()
        except (OSError, ValueError, SyntaxError) as error:
            raise ExportError(
                f"“{file.name}” was not written completely; check for free space on the disk and try again."
            ) from error
        if size != job.size:
            raise ExportError(f"“{file.name}” came out as {size[0]} × {size[1]}; please try again.")
    if len(files) != count:
        raise ExportError(f"{len(files)} of {count} pictures were written; please try again.")
    return count, float(count / job.composition.rate), *job.size


PNG = Exporter("png", "PNG", ".png", "With alpha: one frame or all", (), _write, _check, many_files=True, order=300)
register_exporter(PNG)
