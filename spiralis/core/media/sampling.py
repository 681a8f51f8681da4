"""A file as it will be, from a few of its frames: a picture decoded from real bytes, and the size of the whole."""

from __future__ import annotations

import secrets
import tempfile
from collections.abc import Callable
from pathlib import Path

import numpy as np
from attrs import evolve, frozen

from spiralis.core.media.exporters.base import Exporter, ExportJob

#: Frames of a run that is packed together, so that what later frames leave out counts.
RUN = 6


@frozen(eq=False)
class Sample:
    """``pixels`` as decoded, straight uint8 (h, w, 4), or None; ``bytes`` of the whole file, ``exact`` or estimated."""

    pixels: np.ndarray | None
    bytes: int
    exact: bool


def sampled(
    kind: Exporter, job: ExportJob, index: int, runs: int = 2, cancelled: Callable[[], bool] = lambda: False
) -> Sample:
    """Return how a job's file will look at the frame of an index, and how large it will be.

    The frame is packed with the few that follow it; more runs, evenly spread, are packed for the size alone.

    Raises:
        ExportError, Cancelled: as exporting does.
    """
    job = kind.prepare(job)
    times = job.times
    index = min(max(index, 0), len(times) - 1)
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        if len(times) <= RUN * 2:
            path = folder / f"{secrets.token_hex(4)}{kind.suffix}"
            _write(kind, job, times, path, cancelled)
            return Sample(_read(kind, path, index, folder), _size(path) * job.repeat, True)
        start = min(index, len(times) - RUN)
        first = _written(kind, job, times[start : start + RUN], folder, cancelled)
        alone = _written(kind, job, times[start : start + 1], folder, cancelled)
        pixels = _read(kind, first, index - start, folder)
        each = [(_size(first) - _size(alone)) / (RUN - 1)]
        for place in range(1, runs):
            at = (start + place * len(times) // runs) % max(len(times) - RUN, 1)
            run = _written(kind, job, times[at : at + RUN], folder, cancelled)
            one = _written(kind, job, times[at : at + 1], folder, cancelled)
            each.append((_size(run) - _size(one)) / (RUN - 1))
        whole = _size(alone) + max(float(np.mean(each)), 0.0) * (len(times) - 1)
        return Sample(pixels, round(whole) * job.repeat, False)


def _written(
    kind: Exporter, job: ExportJob, times: tuple[float, ...], folder: Path, cancelled: Callable[[], bool]
) -> Path:
    path = folder / f"{secrets.token_hex(4)}{kind.suffix}"
    _write(kind, job, times, path, cancelled)
    return path


def _write(
    kind: Exporter, job: ExportJob, times: tuple[float, ...], path: Path, cancelled: Callable[[], bool]
) -> None:
    part = evolve(job, path=path, repeat=1, progress=lambda progress: None, cancelled=cancelled)
    part.times = times
    part.see_through = job.see_through
    kind.write(part, path)


def _read(kind: Exporter, path: Path, index: int, folder: Path) -> np.ndarray | None:
    if path.is_dir():
        return kind.read(sorted(path.iterdir())[index], 0)
    return kind.read(path, index)


def _size(path: Path) -> int:
    return sum(part.stat().st_size for part in path.iterdir()) if path.is_dir() else path.stat().st_size
