"""Fit under: the best way to write a file that stays under a limit of bytes, and what it gives up for that."""

from __future__ import annotations

import tempfile
from collections.abc import Callable, Collection, Mapping
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
from attrs import evolve, field, frozen

from spiralis.core.arithmetic import size_text
from spiralis.core.errors import ExportError
from spiralis.core.media.exporters.base import Exporter, ExportJob, Step
from spiralis.core.media.sampling import Drawn, sampled

#: Estimates may be off by this much; a way whose estimate is nearer to the limit is measured in full.
_MARGIN = 0.9
_RUNS = 3


@frozen(eq=False)
class Candidate:
    """One way to write the file: its step, the job, bytes (``exact`` where all of it was written), a frame of it."""

    step: Step
    job: ExportJob
    bytes: int
    exact: bool
    pixels: np.ndarray | None

    @property
    def gives_up(self) -> str:
        """What it gives up beside the best way, in words."""
        return self.step.words


@frozen
class Fit:
    """What was looked at, in the order of the ladder, and the one that was chosen."""

    candidates: tuple[Candidate, ...] = field(factory=tuple)
    chosen: Candidate | None = None


def steps_for(kind: Exporter, pinned: Collection[str] = (), settings: Mapping[str, Any] | None = None) -> list[Step]:
    """Return the ladder of a kind of file, the best way first, without what changes something ``pinned``.

    ``pinned`` names settings of the kind, ``size`` or ``rate``.
    """
    kept = []
    for step in kind.ladder:
        if ("size" in pinned and step.scale != 1.0) or ("rate" in pinned and step.rate != 1.0):
            continue
        own = {name: value for name, value in step.settings.items() if name not in pinned}
        made = evolve(step, settings={**(settings or {}), **own})
        if made not in kept:
            kept.append(made)
    return kept


def job_of(job: ExportJob, step: Step) -> ExportJob:
    """Return a job as a step would have it."""
    rate = job.out_rate * Fraction(step.rate).limit_denominator(100)
    made = evolve(job, settings=dict(step.settings), scale=job.scale * step.scale, given={})
    return evolve(made, rate=None if rate == job.composition.rate else rate)


def fit(
    kind: Exporter, job: ExportJob, limit: int, pinned: Collection[str] = (),
    told: Callable[[str], None] = lambda words: None, cancelled: Callable[[], bool] = lambda: False,
) -> Fit:  # fmt: skip
    """Return the highest step of the ladder whose file stays under ``limit`` bytes.

    The ladder is halved by estimates from a few frames, since each step is smaller than the one before; the step that
    is found is written in full and, where it is too large after all, the next ones are.

    Raises:
        ExportError: no step is small enough, with how small it gets; or as exporting does.
        Cancelled: ``cancelled()`` said so.
    """
    steps = steps_for(kind, pinned, job.settings)
    if not steps:
        raise ExportError(f"{kind.label} has nothing that could be made smaller while all of that stays as it is.")
    looked: dict[int, Candidate] = {}
    drawn = Drawn()

    def estimate(place: int) -> Candidate:
        if place not in looked:
            made = job_of(job, steps[place])
            told(f"Looking at {steps[place].words}…")
            found = sampled(kind, made, len(made.times) // 3, _RUNS, cancelled, drawn)
            looked[place] = Candidate(steps[place], made, found.bytes, found.exact, found.pixels)
        return looked[place]

    low, high = 0, len(steps) - 1
    while low < high:
        middle = (low + high) // 2
        if estimate(middle).bytes <= limit:
            high = middle
        else:
            low = middle + 1
    # One step higher may still fit, where its estimate was too large.
    for place in range(max(low - 1, 0), len(steps)):
        candidate = estimate(place)
        if candidate.bytes > limit / _MARGIN:
            continue
        if not candidate.exact:
            told(f"Writing {candidate.step.words} in full…")
            candidate = looked[place] = evolve(candidate, bytes=_written(kind, candidate.job, cancelled), exact=True)
        if candidate.bytes <= limit:
            return Fit(tuple(looked[p] for p in sorted(looked)), candidate)
    least = min(candidate.bytes for candidate in looked.values())
    raise ExportError(
        f"{kind.label} does not get under {size_text(limit)} here: the smallest way comes to {size_text(least)}. "
        "Let more of it change, take fewer frames, or another kind of file."
    )


def _written(kind: Exporter, job: ExportJob, cancelled: Callable[[], bool]) -> int:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / f"whole{kind.suffix}"
        kind.write(evolve(job, path=path, cancelled=cancelled, progress=lambda progress: None), path)
        return path.stat().st_size
