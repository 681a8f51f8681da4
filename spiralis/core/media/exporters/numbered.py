"""What numbered pictures share: one file a frame, or one frame alone."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path

import numpy as np
from PIL import Image

from spiralis.core.errors import ExportError
from spiralis.core.media.exporters.base import ExportJob


def frame_path(path: Path, frame: int, length: int) -> Path:
    """Return the file of a frame in a sequence: ``name-0007.png``."""
    return path.with_name(f"{path.stem}-{frame:0{max(4, len(str(length)))}d}{path.suffix}")


def _packed(
    job: ExportJob, moment: float, render: Callable[[ExportJob, float], np.ndarray], pack: Callable[[np.ndarray], bytes]
) -> bytes:
    return pack(render(job, moment))


def write_numbered(
    job: ExportJob, path: Path, render: Callable[[ExportJob, float], np.ndarray], pack: Callable[[np.ndarray], bytes]
) -> None:
    """Write a job's frames as files that ``pack`` makes: one to ``path`` itself, several into a folder there.

    Whoever draws a frame packs it too, which takes longer. Both are functions of modules.
    """
    files = job.frames(partial(_packed, render=render, pack=pack))
    if len(job.times) == 1:
        path.write_bytes(*files)
        return
    path.mkdir()
    own = job.out_rate == job.composition.rate
    for number, data in enumerate(files, start=job.first if own else 0):
        (path / frame_path(job.path, number, job.composition.length).name).write_bytes(data)


def check_numbered(job: ExportJob, path: Path, kind: str) -> tuple[int, float, int, int]:
    """Read every picture back; raises ExportError where one is missing, damaged or of another size."""
    files = sorted(path.iterdir()) if path.is_dir() else [path]
    for file in files:
        try:
            with Image.open(file, formats=[kind]) as image:
                size = image.size
                image.load()
        except (OSError, ValueError, SyntaxError) as error:
            raise ExportError(
                f"“{file.name}” was not written completely; check for free space on the disk and try again."
            ) from error
        if size != job.size:
            raise ExportError(f"“{file.name}” came out as {size[0]} × {size[1]}; please try again.")
    if len(files) != len(job.times):
        raise ExportError(f"{len(files)} of {len(job.times)} pictures were written; please try again.")
    return len(files), float(len(files) / job.out_rate), *job.size
