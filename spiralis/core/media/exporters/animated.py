"""What animated pictures share: frames with straight alpha, times that keep the total, reading back."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path

import numpy as np
from PIL import Image

from spiralis.core.errors import ExportError
from spiralis.core.media.exporters.base import ExportJob, Step, expect
from spiralis.core.model import Kind, Parameter
from spiralis.core.render.frame import render_straight8

QUALITY = Parameter("quality", "Quality", Kind.NUMBER, 80.0, "0 is the smallest file, 100 the best picture", "", 0, 100)
LOOPS = Parameter("loops", "Rounds", Kind.NUMBER, 0.0, "How many times it plays; 0 is for ever", "", 0, 65_535)


def picture_ladder() -> tuple[Step, ...]:
    """Return ways to write an animated picture that has a quality, by that, then by size and rate as well."""
    steps = [Step(f"quality {n}", {"quality": float(n)}) for n in (95, 85, 75, 65, 55, 45, 35)]
    steps += [Step(f"quality {n}, 75 % of the size", {"quality": float(n)}, 0.75) for n in (55, 35)]
    steps += [Step(f"quality {n}, half the size", {"quality": float(n)}, 0.5) for n in (55, 35)]
    return (*steps, Step("quality 35, half the size and half the frames", {"quality": 35.0}, 0.5, 0.5))


def straight_frames(job: ExportJob) -> Iterator[np.ndarray]:
    """Yield a job's frames as straight uint8 (h, w, 4)."""
    return job.frames(straight_frame)


def straight_frame(job: ExportJob, moment: float) -> np.ndarray:
    """Return one of a job's frames as straight uint8 (h, w, 4)."""
    return render_straight8(job.project, job.composition_id, moment, job.scale)


def waits(job: ExportJob, unit: int) -> list[int]:
    """Return how long each picture stays, in 1/``unit`` s; rounded so that they add up to the duration."""
    ends = [round(Fraction(unit * index) / job.out_rate) for index in range(len(job.times) + 1)]
    return [after - before for before, after in zip(ends, ends[1:], strict=False)]


def check_animated(job: ExportJob, path: Path, kind: str) -> tuple[int, float, int, int]:
    """Read an animated picture back with Pillow; raises ExportError where it is not what was asked for.

    Writers may put pictures that are alike together, so that fewer are counted; the time must be right in any case.
    """
    milliseconds = 0.0
    try:
        with Image.open(path, formats=[kind]) as image:
            frames = getattr(image, "n_frames", 1)
            for index in range(frames):
                image.seek(index)
                image.load()
                milliseconds += float(image.info.get("duration", 0) or 0)
            size = image.size
    except (OSError, ValueError, EOFError, SyntaxError) as error:
        raise ExportError(
            f"“{job.path.name}” was not written completely; check for free space on the disk and try again."
        ) from error
    once = len(job.times) / job.out_rate
    seconds = float(once) if frames == 1 else milliseconds / 1000
    count = len(job.times)
    expect(job, path, (count if frames <= count else frames, seconds, *size), (count, once, *job.size))
    return frames, seconds, *size
