"""Videos that stay under a size: packed twice at the bit rate that fills it, and again where they come out larger."""

from __future__ import annotations

import tempfile
import time
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any

from attrs import evolve

from spiralis.core.errors import ExportError
from spiralis.core.media.encoding import BY_SIZE, Codec, Planes
from spiralis.core.media.exporters.base import ExportJob, Part
from spiralis.core.model import Parameter

#: So much of the size is asked of the encoder, which comes near to what it is asked for; of it a container's own bytes
#: go off, so many and so many a frame.
_FILLED, _FRAME, _HEAD = 0.975, 16, 1200
#: A file that is too large is packed again, so often at most.
_TRIES = 5


def rated(job: ExportJob, settings: Sequence[Parameter]) -> ExportJob:
    """Return a job that knows the bit rate of the whole file, where it goes by size: samples are packed by that."""
    values = {parameter.name: job.settings.get(parameter.name, parameter.default) for parameter in settings}
    if values["quality"] != BY_SIZE:
        return job
    limit = float(values["megabytes"]) * 1e6
    return evolve(job, given={**job.given, "bit_rate": _bit_rate(job, limit / job.repeat), "most": round(limit)})


def _bit_rate(job: ExportJob, limit: float) -> float:
    """Return the bits a second that fill so many bytes."""
    room = limit * _FILLED - _HEAD - _FRAME * len(job.times)
    return max(room * 8 * float(job.out_rate) / len(job.times), 1000.0)


def write_under(
    job: ExportJob, path: Path, codec: Codec, megabytes: float, render: Callable[[ExportJob, float], Planes],
    packs: Callable[..., None], repeats: Callable[[Sequence[Path]], None],
) -> None:  # fmt: skip
    """Write a job's frames to a file of at most so many MB, as good as that allows.

    ``packs(path, tuned=..., frames=...)`` packs frames, ``repeats(paths)`` joins files to the one that is written.
    Frames are drawn anew for each pass, so that a long piece takes no more memory than a short one.

    Raises:
        ExportError: it cannot be packed as small as that.
    """
    if "bit_rate" in job.given:
        packs(path, tuned=_tuned(codec, job.given["bit_rate"], path, 0), frames=job.frames(render))
        return
    limit = megabytes * 1e6 / job.repeat
    bits, least, count, since = _bit_rate(job, limit), float("inf"), len(job.times), time.perf_counter()
    with tempfile.TemporaryDirectory() as name:
        once, stats, done = Path(name) / f"once{path.suffix}", Path(name) / "stats", 0

        def run(number: int) -> None:
            tuned = _tuned(codec, bits, stats, number)
            packs(once, tuned=tuned, frames=job.frames(render, None, Part(done * count, (done + 1) * count, 0, since)))

        if codec.two_passes:
            run(1)
            done += 1
        for _ in range(_TRIES):
            run(2 if codec.two_passes else 0)
            done += 1
            size = once.stat().st_size
            if size <= limit:
                repeats([once] * job.repeat)
                if path.stat().st_size <= megabytes * 1e6:
                    return
                size = path.stat().st_size // job.repeat
            least, bits = min(least, size), bits * limit / size * _FILLED
    raise ExportError(
        f"{codec.label} does not get under {megabytes:g} MB here: the smallest that it came to is "
        f"{least * job.repeat / 1e6:.2f} MB. Choose a smaller size, fewer frames, or let “Fit under…” look for a way."
    )


def _tuned(codec: Codec, bits: float, stats: Path, number: int) -> dict[str, Any]:
    return {**codec.rated(stats, number), "b": str(round(bits))}
