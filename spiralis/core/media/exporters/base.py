"""Write a composition to a file: jobs, progress, the registry, and what all exporters share."""

from __future__ import annotations

import re
import time
from collections.abc import Callable, Iterator, Mapping, Sequence
from fractions import Fraction
from functools import cached_property
from pathlib import Path
from typing import Any, TypeVar

import numpy as np
from attrs import define, evolve, field, frozen
from PIL import Image

from spiralis.core.errors import Cancelled, ExportError
from spiralis.core.media.files import check_target, unwritten
from spiralis.core.media.placing import followed, hidden_beside, put_file, put_folder, remove
from spiralis.core.media.see_through import shows_through
from spiralis.core.model import Composition, Kind, Parameter, Project
from spiralis.core.registry import Registry
from spiralis.core.render.plan import output_size
from spiralis.core.render.sequence import default_workers, in_order
from spiralis.core.sound.mixing import sounds

T = TypeVar("T")
#: The most pixels of a frame: drawn in float they take 16 bytes each, and as much again while a file is packed.
MOST_PIXELS = 100_000_000


@frozen
class ExportProgress:
    """How far an export is: frames done of all, and since when (seconds); ``before`` were there already."""

    done: int
    total: int
    seconds: float
    before: int = 0

    @property
    def rate(self) -> float:
        """Frames per second so far."""
        return (self.done - self.before) / self.seconds if self.seconds > 0 else 0.0

    @property
    def left(self) -> float:
        """Seconds that the rest takes at this rate."""
        return (self.total - self.done) / self.rate if self.rate > 0 else 0.0


@frozen
class ExportResult:
    """A finished file that was read back; of a sequence ``path`` is the first file and ``bytes`` counts all.

    ``notes`` are sentences on what differs from the composition.
    """

    path: Path
    bytes: int
    frames: int
    seconds: float
    width: int
    height: int
    notes: tuple[str, ...] = ()


@frozen
class Part:
    """Where a part of a run begins, how long the run is, what of it was there already, and since when it goes on."""

    first: int
    total: int
    before: int
    since: float


def drawn_here(job: ExportJob, render: Callable[[ExportJob, float], T], numbers: Sequence[float]) -> Iterator[T]:
    """Draw a job's frames by threads of this process, as many as it has workers."""
    return in_order(lambda moment: render(job, moment), numbers, job.workers, job.cancelled, job.niceness)


@define(slots=False)
class ExportJob:
    """Everything an export needs: a frozen project version, what of it, where to, with which settings."""

    project: Project
    composition_id: str
    path: Path
    first: int
    last: int
    scale: float = 1.0
    settings: Mapping[str, Any] = field(factory=dict)
    workers: int = field(factory=default_workers)
    #: How far threads that draw stand back (nice(2)). Those of an encoder wait for one another a tenth of the time:
    #: drawing fills such moments where it has not run ahead before them. A window waits longer for what they hold then.
    niceness: int = 0
    #: Frames a second of the file; None takes the composition's. Frames in between are drawn at their own time.
    rate: Fraction | None = None
    #: How many times the piece is played, for feeds that do not go round by themselves.
    repeat: int = 1
    #: Says where finished parts of a long run are kept, so that it goes on from them when it was interrupted; None
    #: forgets. Asked of long runs alone, as it takes the whole project to name the place.
    parts: Callable[[], Path | None] = lambda: None
    #: What a kind of file worked out beforehand for the whole piece (see ``Exporter.prepare``): ``beside`` is how many
    #: bytes come once with the whole. Where the times are a sample of a longer run, ``following`` is the moment after
    #: them, or None.
    given: Mapping[str, Any] = field(factory=dict)
    #: Who draws the frames, given the job, what is to be called for each moment, and the moments: in order.
    draw: Callable[[ExportJob, Callable[[ExportJob, float], Any], Sequence[float]], Iterator[Any]] = drawn_here
    progress: Callable[[ExportProgress], None] = lambda progress: None
    cancelled: Callable[[], bool] = lambda: False

    @cached_property
    def composition(self) -> Composition:
        """The composition that is written."""
        return self.project.composition(self.composition_id)

    @property
    def out_rate(self) -> Fraction:
        """Frames a second of the file."""
        return self.rate or self.composition.rate

    @cached_property
    def times(self) -> tuple[float, ...]:
        """The moments, in frames of the composition, that one round of the file shows."""
        if self.out_rate == self.composition.rate:
            return tuple(range(self.first, self.last))
        step = self.composition.rate / self.out_rate
        count = max(round((self.last - self.first) / step), 1)
        return tuple(float(self.first + index * step) for index in range(count))

    @property
    def seconds(self) -> Fraction:
        """How long the file plays, all rounds together."""
        return len(self.times) * self.repeat / self.out_rate

    @property
    def size(self) -> tuple[int, int]:
        """Size of the rendered frames."""
        return output_size(self.composition, self.scale)

    @cached_property
    def see_through(self) -> bool:
        """Whether any frame has see-through parts, looked at small at up to 24 moments."""
        if "see_through" in self.given:
            return bool(self.given["see_through"])
        return shows_through(self.project, self.composition, times=self.times, scale=self.scale)

    def look_through(self, pictures: Sequence[np.ndarray]) -> None:
        """Tell from pictures of moments all over the piece, straight uint8 (h, w, 4), whether any has see-through
        parts, so that none has to be drawn for that."""
        self.given = {**self.given, "see_through": any(int(picture[..., 3].min()) < 254 for picture in pictures)}

    def heed(self) -> None:
        """Raise Cancelled where the job is to stop: for kinds of file that draw no frames one by one."""
        if self.cancelled():
            raise Cancelled("Stopped; nothing was written.")

    def frames(
        self, render: Callable[[ExportJob, float], T], numbers: Sequence[float] | None = None, part: Part | None = None
    ) -> Iterator[T]:
        """Yield frames of one round in order, as ``render`` makes them of the job and a moment; heed cancel.

        ``render`` is a function of a module, or a ``partial`` of one: other machines may have to call it. Where the
        ``numbers`` are a ``part`` of a longer run, progress is that of the whole run.
        """
        numbers = self.times if numbers is None else numbers
        part = part or Part(0, len(numbers), 0, time.perf_counter())
        for done, frame in enumerate(self.draw(self, render, numbers), start=part.first + 1):
            yield frame
            self.progress(ExportProgress(done, part.total, time.perf_counter() - part.since, part.before))

    def setting(self, kind: Exporter, name: str) -> Any:
        """Return a setting, or its default."""
        parameter = next(p for p in kind.settings if p.name == name)
        return self.settings.get(name, parameter.default)


def read_picture(path: Path, index: int) -> np.ndarray | None:
    """Return picture ``index`` of a still or animated picture file as straight uint8 (h, w, 4)."""
    with Image.open(path) as image:
        image.seek(min(index, getattr(image, "n_frames", 1) - 1))
        return np.array(image.convert("RGBA"))


@frozen
class Step:
    """One way to write a kind of file on its ladder from the best to the smallest: settings, parts of size and rate."""

    words: str
    settings: Mapping[str, Any] = field(factory=dict, hash=False)
    scale: float = 1.0
    rate: float = 1.0


@frozen
class Exporter:
    """One kind of file. ``write(job, path)`` writes to a temporary path and returns the notes;
    ``check(job, path)`` reads the file back and returns (frames, seconds, width, height).

    ``read(path, index)`` decodes one of its pictures, straight uint8 (h, w, 4), or gives None;
    ``remark(width, height)`` is a sentence on what becomes of a size, or empty. Lower ``order`` stands first.
    """

    name: str
    label: str
    suffix: str
    help: str
    settings: tuple[Parameter, ...]
    write: Callable[[ExportJob, Path], tuple[str, ...]]
    check: Callable[[ExportJob, Path], tuple[int, float, int, int]]
    many_files: bool = False
    #: Whether it plays once by itself, so that rounds are worth asking for; else it goes round or stands still.
    plays_once: bool = False
    #: Whether what is heard is written along.
    sound: bool = False
    #: Whether see-through parts stay so.
    alpha: bool = True
    #: Ways to write it under a limit of bytes, the best first, each smaller than the one before.
    ladder: tuple[Step, ...] = ()

    read: Callable[[Path, int], np.ndarray | None] = read_picture
    #: Works out what parts of a job have in common with the whole of it: a palette, say.
    prepare: Callable[[ExportJob], ExportJob] = lambda job: job
    remark: Callable[[int, int], str] = lambda width, height: ""
    order: int = 500

    def read_settings(self, texts: Sequence[str]) -> dict[str, Any]:
        """Return settings written as ``name=value``; raises ExportError naming what is not possible."""
        known, found = {p.name: p for p in self.settings}, {}
        for text in texts:
            name, _, value = text.partition("=")
            if name not in known:
                raise ExportError(f"{self.label} has no setting “{name}”; it has {', '.join(known) or 'none'}.")
            parameter = known[name]
            try:
                given: Any = value
                if parameter.kind is Kind.NUMBER:
                    given = float(value)
                elif parameter.kind is Kind.SWITCH:
                    given = {"true": True, "false": False}[value.lower()]
                found[name] = parameter.check(given)
            except (ValueError, KeyError) as error:
                raise ExportError(f"“{value}” is nothing that {parameter.label} of {self.label} can be.") from error
        return found


_EXPORTERS: Registry[Exporter] = Registry("exporter", "spiralis.core.media.exporters")


def register_exporter(kind: Exporter) -> None:
    """Make an exporter known; raises ValueError where the name is taken."""
    _EXPORTERS.register(kind.name, kind)


exporter = _EXPORTERS.get


def exporters() -> tuple[Exporter, ...]:
    """Return all exporters, in their order."""
    return tuple(sorted(_EXPORTERS.all(), key=lambda kind: kind.order))


def export(kind: Exporter, job: ExportJob) -> ExportResult:
    """Write the job's file through a temporary one beside it, read it back, then put it in its place.

    Raises:
        ExportError: one sentence on what went wrong; nothing partial stays on disk.
        Cancelled: the job's ``cancelled()`` said so; nothing stays on disk either.
    """
    job = evolve(job, project=job.project.without_references())
    composition = job.composition
    if not 0 <= job.first < job.last <= composition.length:
        raise ExportError(
            f"“{composition.name}” has frames 0 to {composition.length - 1}, and {job.first} to {job.last - 1} "
            "is not within them."
        )
    if not 1 <= job.repeat <= 1000 or not (job.rate is None or 0 < job.rate <= 240):
        raise ExportError("A file plays a piece 1 to 1000 times, at up to 240 frames a second.")
    if max(job.size) > 20_000:
        raise ExportError(f"{job.size[0]} × {job.size[1]} px is over 20000 px; choose a smaller scale.")
    if job.size[0] * job.size[1] > MOST_PIXELS:
        raise ExportError(
            f"{job.size[0]} × {job.size[1]} are {job.size[0] * job.size[1] / 1e6:.0f} million pixels, and a frame has "
            f"room for {MOST_PIXELS / 1e6:.0f} million; choose a smaller scale."
        )
    check_target(job.path)
    if kind.many_files and len(job.times) > 1:
        _check_sequence(job.path)
    place = followed(job.path)
    temporary = hidden_beside(place)
    try:
        notes = (*kind.write(job, temporary), *_unheard(kind, job))
        frames, seconds, width, height = kind.check(job, temporary)
        size, path = _put_in_place(temporary, place)
    except Cancelled:
        raise
    except (OSError, MemoryError) as error:
        raise _sentence(error, job.path) from error
    finally:
        remove(temporary)
    return ExportResult(job.path if path == place else path, size, frames, seconds, width, height, notes)


def _unheard(kind: Exporter, job: ExportJob) -> tuple[str, ...]:
    """Return a sentence where a kind of file cannot hold what is heard."""
    if kind.sound or len(job.times) == 1 or not sounds(job.project, job.composition):
        return ()
    return (f"{kind.label} keeps no sound, so what is heard of “{job.composition.name}” is not in it.",)


def expect(
    job: ExportJob, path: Path, got: tuple[int, float, int, int], wanted: tuple[int, Fraction, int, int]
) -> None:
    """Raise ExportError where a file read back differs from what was asked for."""
    frames, seconds, width, height = got
    right = (frames, width, height) == (wanted[0], *wanted[2:]) and abs(seconds - float(wanted[1])) <= 0.011
    if not right:
        raise ExportError(
            f"“{job.path.name}” came out as {frames} frames, {seconds:.2f} s, {width} × {height} instead of "
            f"{wanted[0]}, {float(wanted[1]):.2f} s, {wanted[2]} × {wanted[3]}; it was not kept, please try again."
        )


def sequence_folder(path: Path) -> Path:
    """Return the folder that the pictures of a sequence lie in: ``kites`` for ``kites.png``."""
    return path.with_suffix("")


def _check_sequence(path: Path) -> None:
    """Raise ExportError where the sequence's folder holds anything but pictures of such a sequence."""
    folder = sequence_folder(path)
    if not folder.exists():
        return
    if not folder.is_dir():
        raise ExportError(f"“{folder.name}” is a file, and the pictures need a folder of that name; choose another.")
    own = re.compile(re.escape(path.stem) + r"-\d+" + re.escape(path.suffix))
    other = next((part.name for part in folder.iterdir() if own.fullmatch(part.name) is None), None)
    if other is not None:
        raise ExportError(f"The folder “{folder.name}” holds other files, “{other}” for one; choose another name.")


def _put_in_place(temporary: Path, path: Path) -> tuple[int, Path]:
    """Return the bytes, and the file that is there now: of a sequence the first one."""
    if temporary.is_dir():
        parts = sorted(temporary.iterdir())
        size = sum(part.stat().st_size for part in parts)
        folder = sequence_folder(path)
        put_folder(temporary, folder)
        return size, folder / parts[0].name
    size = temporary.stat().st_size
    put_file(temporary, path)
    return size, path


def _sentence(error: BaseException, path: Path) -> ExportError:
    if isinstance(error, ExportError):
        return error
    if isinstance(error, OSError):
        return ExportError(unwritten(path, error))
    return ExportError(f"There is too little memory to write “{path.name}”; choose a smaller scale.")
