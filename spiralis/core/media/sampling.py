"""A file as it will be, from a few of its frames: a picture decoded from real bytes, and the size of the whole."""

from __future__ import annotations

import secrets
import tempfile
import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable, Iterator, Mapping, Sequence
from functools import partial
from pathlib import Path
from typing import Any

import numpy as np
from attrs import evolve, frozen

from spiralis.core.cache import BUDGET
from spiralis.core.media.exporters.base import Exporter, ExportJob, drawn_here
from spiralis.core.model import Project

Render = Callable[[ExportJob, float], Any]

#: Frames of a run that is packed together, so that what later frames leave out counts.
RUN = 6
#: Frames that are packed where only a picture is wanted.
FEW = 3
#: The sizes of so many samples are remembered.
_MOST_SIZES = 256
#: What drawn frames may weigh in any case, in bytes; else an eighth of what pictures may take.
_LEAST = 64 << 20


@frozen(eq=False)
class Sample:
    """``pixels`` as decoded, straight uint8 (h, w, 4), or None; ``bytes`` of the whole file, ``exact`` or estimated."""

    pixels: np.ndarray | None
    bytes: int
    exact: bool


class Drawn:
    """Frames that were drawn for samples, and what was prepared for them: looking again at other settings is quick.

    It keeps what was used last, up to a number of bytes, for one project at a time.
    """

    def __init__(self) -> None:
        self.most = max(BUDGET.limit // 8, _LEAST)
        self._lock = threading.Lock()
        self._project: Project | None = None
        self._frames: OrderedDict[Hashable, Any] = OrderedDict()
        self._prepared: tuple[Any, Mapping[str, Any]] | None = None
        self._sizes: OrderedDict[Hashable, int] = OrderedDict()

    def draw(self, job: ExportJob, render: Render, numbers: Sequence[float]) -> Iterator[Any]:
        """Yield a job's frames as ``ExportJob.draw`` does, those that are there already without drawing them."""
        what = (render.func, *sorted(render.keywords.items())) if isinstance(render, partial) else (render,)
        keys = {moment: (job.composition_id, job.scale, what, moment) for moment in numbers}
        with self._lock:
            self._turn_to(job.project)
            there = {moment: self._frames[key] for moment, key in keys.items() if key in self._frames}
        fresh = drawn_here(job, render, [moment for moment in numbers if moment not in there])
        for moment in numbers:
            frame = there[moment] if moment in there else next(fresh)
            self._keep(job.project, keys[moment], frame)
            yield frame

    def _turn_to(self, project: Project) -> None:
        """Let go of what belongs to another project; the lock is held."""
        if self._project is not project:
            self._project, self._prepared = project, None
            self._frames.clear()
            self._sizes.clear()

    def _keep(self, project: Project, key: Hashable, frame: Any) -> None:
        with self._lock:
            if self._project is not project:
                return
            self._frames[key] = frame
            self._frames.move_to_end(key)
            while len(self._frames) > 1 and sum(_weight(each) for each in self._frames.values()) > self.most:
                self._frames.popitem(last=False)

    def packed(self, kind: Exporter, job: ExportJob, times: tuple[float, ...], pack: Callable[[], Path]) -> int:
        """Return how many bytes a sample of a job takes, packed now where that was not done before."""
        told = (times, *_way(kind, job))
        with self._lock:
            known = self._sizes.get(told) if self._project is job.project else None
        if known is not None:
            return known
        size = _size(pack())
        with self._lock:
            self._sizes[told] = size
            while len(self._sizes) > _MOST_SIZES:
                self._sizes.popitem(last=False)
        return size

    def prepared(self, kind: Exporter, job: ExportJob) -> ExportJob:
        """Return what ``kind.prepare`` makes of a job, from before where that was the last one asked for."""
        told = (job.times, *_way(kind, job))
        with self._lock:
            held = self._prepared if self._project is job.project else None
        if held is not None and held[0] == told:
            return evolve(job, given=held[1])
        made = kind.prepare(evolve(job, draw=self.draw))
        with self._lock:
            self._turn_to(job.project)
            self._prepared = (told, made.given)
        return evolve(job, given=made.given)


def _way(kind: Exporter, job: ExportJob) -> tuple[Hashable, ...]:
    """Return all that decides how frames of a job are packed, but which those are."""
    settings = tuple(sorted(job.settings.items()))
    return kind.name, job.composition_id, job.scale, job.out_rate, job.repeat, settings


def _weight(frame: Any) -> int:
    """Return how many bytes a frame takes: pixels, planes, or a picture that is packed already."""
    if isinstance(frame, list | tuple):
        return sum(map(_weight, frame))
    return len(frame) if isinstance(frame, bytes) else int(frame.nbytes)


def pictured(
    kind: Exporter, job: ExportJob, index: int, drawn: Drawn | None = None,
    cancelled: Callable[[], bool] = lambda: False,
) -> np.ndarray | None:  # fmt: skip
    """Return how a job's file will look at the frame of an index, packed with the two that follow it.

    Raises:
        ExportError, Cancelled: as exporting does.
    """
    drawn = drawn or Drawn()
    job = _sampling(kind, job, drawn)
    start = min(max(index, 0), max(len(job.times) - FEW, 0))
    with tempfile.TemporaryDirectory() as name:
        few = job.times[start : start + FEW]
        path = _written(kind, job, few, Path(name), cancelled)
        drawn.packed(kind, job, few, lambda: path)
        return _read(kind, path, min(max(index, 0), len(job.times) - 1) - start, Path(name))


def guessed(
    kind: Exporter, job: ExportJob, index: int, drawn: Drawn | None = None,
    cancelled: Callable[[], bool] = lambda: False,
) -> Sample:  # fmt: skip
    """Return a first guess at how large a job's file will be, from the frames that ``pictured`` packs: the first of
    them alone, and what the others add to it. It comes at once where those were just drawn.

    Raises:
        ExportError, Cancelled: as exporting does.
    """
    drawn = drawn or Drawn()
    job = _sampling(kind, job, drawn)
    start = min(max(index, 0), max(len(job.times) - FEW, 0))
    few = job.times[start : start + FEW]
    with tempfile.TemporaryDirectory() as name:
        packs = [partial(_written, kind, job, times, Path(name), cancelled) for times in (few, few[:1])]
        sizes = [drawn.packed(kind, job, times, pack) for times, pack in zip((few, few[:1]), packs, strict=True)]
    more = (sizes[0] - sizes[1]) / max(len(few) - 1, 1)
    whole = round(sizes[1] + more * (len(job.times) - 1))
    return Sample(None, _whole(job, whole * job.repeat), len(few) == len(job.times))


def sampled(
    kind: Exporter, job: ExportJob, index: int, runs: int = 2, cancelled: Callable[[], bool] = lambda: False,
    drawn: Drawn | None = None,
) -> Sample:  # fmt: skip
    """Return how a job's file will look at the frame of an index, and how large it will be.

    The frame is packed with the few that follow it; more runs, evenly spread, are packed for the size alone.

    Raises:
        ExportError, Cancelled: as exporting does.
    """
    job = _sampling(kind, job, drawn or Drawn())
    times = job.times
    index = min(max(index, 0), len(times) - 1)
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        if len(times) <= RUN * 2:
            path = _written(kind, job, times, folder, cancelled)
            return Sample(_read(kind, path, index, folder), _whole(job, _size(path) * job.repeat), True)
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
        return Sample(pixels, _whole(job, round(whole) * job.repeat), False)


def _whole(job: ExportJob, size: int) -> int:
    """Return the size of a file that a few frames speak for, with what comes once: no more than the whole may have."""
    size += job.given.get("beside", 0)
    return int(min(size, job.given.get("most", size)))


def _sampling(kind: Exporter, job: ExportJob, drawn: Drawn) -> ExportJob:
    return evolve(drawn.prepared(kind, job), draw=drawn.draw)


def _written(
    kind: Exporter, job: ExportJob, times: tuple[float, ...], folder: Path, cancelled: Callable[[], bool]
) -> Path:
    path = folder / f"{secrets.token_hex(4)}{kind.suffix}"
    following = next(iter(job.times[job.times.index(times[-1]) + 1 :]), None)
    part = evolve(job, path=path, repeat=1, progress=lambda progress: None, cancelled=cancelled,
                  given={**job.given, "following": following})  # fmt: skip
    part.times = times
    part.see_through = job.see_through
    kind.write(part, path)
    return path


def _read(kind: Exporter, path: Path, index: int, folder: Path) -> np.ndarray | None:
    if path.is_dir():
        return kind.read(sorted(path.iterdir())[index], 0)
    return kind.read(path, index)


def _size(path: Path) -> int:
    return sum(part.stat().st_size for part in path.iterdir()) if path.is_dir() else path.stat().st_size
