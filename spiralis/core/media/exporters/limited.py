"""Videos that stay under a size: packed twice at the bit rate that fills it, and again where they come out larger."""

from __future__ import annotations

import shutil
import tempfile
import time
from collections.abc import Callable, Mapping, Sequence
from pathlib import Path

from attrs import evolve

from spiralis.core.errors import ExportError
from spiralis.core.media.encoding import BY_SIZE, Codec, Planes, RefusedByEncoder
from spiralis.core.media.exporters.base import ExportJob, Part

#: So much of the size is asked of the encoder, which comes near to what it is asked for; of it a container's own bytes
#: go off, so many and so many a frame.
_FILLED, _FRAME, _HEAD = 0.975, 16, 1200
#: A file that is too large is packed again, so often at most.
_TRIES = 5
#: So often a quality is halved for a whole file, and for a sample.
_MANY, _FEW = 7, 3


def rated(job: ExportJob, values: Mapping[str, object]) -> ExportJob:
    """Return a job that knows the bit rate of the whole file, where it goes by size: samples are packed by that."""
    if values.get("quality") != BY_SIZE:
        return job
    limit = float(str(values["megabytes"])) * 1e6
    rate = _bit_rate(job, (limit - job.given.get("beside", 0)) / job.repeat)
    return evolve(job, given={**job.given, "bit_rate": rate, "most": round(limit)})


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
    with tempfile.TemporaryDirectory() as name:
        passes = _Passes(job, codec, render, packs, Path(name) / f"once{path.suffix}")
        if "bit_rate" in job.given:
            limit = job.given["bit_rate"] * len(job.times) / 8 / float(job.out_rate) + _HEAD
            once = passes.sample(job.given["bit_rate"]) if codec.two_passes else passes.search(limit, _FEW)
            shutil.move(once, path)
            return
        limit = megabytes * 1e6 / job.repeat - (_HEAD + _FRAME * len(job.times) if job.repeat > 1 else 0)
        once = passes.twice(limit) if codec.two_passes else passes.search(limit, _MANY)
        least = once.stat().st_size
        if least <= limit:
            repeats([once] * job.repeat)
            return
    raise ExportError(
        f"{codec.label} does not get under {megabytes:g} MB here: the smallest that it came to is "
        f"{least * job.repeat / 1e6:.2f} MB. Choose a smaller size, fewer frames, or let “Fit under…” look for a way."
    )


class _Passes:
    """Packs a job's frames again and again, until they stay under a limit or cannot be made any smaller."""

    def __init__(
        self, job: ExportJob, codec: Codec, render: Callable[[ExportJob, float], Planes], packs: Callable[..., None],
        once: Path,
    ) -> None:  # fmt: skip
        self.job, self.codec, self.render, self.packs, self.once = job, codec, render, packs, once
        self._stats, self._done, self._since = once.with_name("stats"), 0, time.perf_counter()

    def _run(self, tuned: Mapping[str, str]) -> int:
        """Pack all frames and return how many bytes they take."""
        count = len(self.job.times)
        part = Part(self._done * count, (self._done + 1) * count, 0, self._since)
        self.packs(self.once, tuned=tuned, frames=self.job.frames(self.render, None, part))
        self._done += 1
        return self.once.stat().st_size

    def _rated(self, bits: float, number: int) -> dict[str, str]:
        return {**self.codec.rated(self._stats, number), "b": str(round(bits))}

    def sample(self, bits: float) -> Path:
        """Pack a few frames as those of the whole file will be packed on the whole."""
        self._run(self._rated(bits, 0))
        return self.once

    def twice(self, limit: float) -> Path:
        """Look at all frames first, then spend the bits where they are needed."""
        bits = _bit_rate(self.job, limit)
        self._run(self._rated(bits, 1))
        for tries in range(1, _TRIES + 1):
            try:
                size = self._run(self._rated(bits, 2))
            except RefusedByEncoder:
                # After its first pass an encoder says by itself that it cannot get as low.
                self._run(self.codec.options(str(self.codec.coarsest)))
                return self.once
            if size <= limit:
                break
            bits *= limit / size * _FILLED**tries
        return self.once

    def search(self, limit: float, rounds: int) -> Path:
        """Look for the best quality that stays under the limit, by halves: of codecs that come nowhere near the bit
        rates that they are asked for."""
        low, high, kept = self.codec.best, self.codec.coarsest, self.once.with_name(f"kept{self.once.suffix}")
        for _ in range(rounds):
            middle = (low + high) // 2
            if self._run(self.codec.options(str(middle))) <= limit:
                high = middle
                self.once.replace(kept)
            else:
                low = middle + 1
            if low >= high:
                break
        if not kept.exists():
            self._run(self.codec.options(str(self.codec.coarsest)))
            return self.once
        return kept
