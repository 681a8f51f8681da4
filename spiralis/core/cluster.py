"""Frames drawn by other machines: the workers of a Dask scheduler (the extra ``spiralis[cluster]``)."""

from __future__ import annotations

import hashlib
import socket
from collections import deque
from collections.abc import Callable, Iterator, Sequence
from typing import Any
from urllib.parse import urlsplit

from attrs import evolve

from spiralis import __version__
from spiralis.core.editing.sources import collected
from spiralis.core.errors import ExportError
from spiralis.core.media.exporters import ExportJob
from spiralis.core.model import Project
from spiralis.core.render.sequence import in_order
from spiralis.core.storage.project_file import packed, unpacked

#: Frames that a worker draws at a time: what a lost worker costs at most.
CHUNK = 4
#: So long is waited for a scheduler, and for a first worker, in seconds.
PATIENCE = 15
#: Projects that a worker keeps, the latest ones.
_KEPT = 2
_projects: dict[str, Project] = {}
Render = Callable[[ExportJob, float], Any]


class Cluster:
    """The workers of one scheduler; ``draw`` is what an export job's ``draw`` takes.

    Raises:
        ExportError: Dask is not installed, nothing answers there, it has no workers, or they have another Spiralis.
    """

    def __init__(self, address: str) -> None:
        try:
            from distributed import Client
        except ImportError as error:
            raise ExportError(
                "Other machines are reached through Dask, which is not installed; install spiralis[cluster]."
            ) from error
        try:
            # Asked first by hand: a client that finds nobody goes on trying behind one's back.
            place = urlsplit(address)
            socket.create_connection((place.hostname or "", place.port or 0), PATIENCE).close()
            client: Any = Client  # Dask tells no types.
            self.client = client(address, timeout=PATIENCE, set_as_default=False)
        except (OSError, ValueError, TypeError) as error:
            sentence = f"No scheduler answers at {address}; start one there, or leave out --scheduler."
            raise ExportError(sentence) from error
        try:
            self.client.wait_for_workers(1, timeout=PATIENCE)
            others = set(self.client.run(_version, on_error="return").values()) - {__version__}
        except (OSError, TimeoutError) as error:
            self.close()
            raise ExportError(f"The scheduler at {address} has no workers; start some and try again.") from error
        if others:
            self.close()
            found = next(iter(others))
            what = f"have Spiralis {found}" if isinstance(found, str) else "have no Spiralis"
            raise ExportError(f"Workers at {address} {what}; all need {__version__}, so that frames are alike.")

    def close(self) -> None:
        """Let go of the scheduler."""
        self.client.close()

    def draw(self, job: ExportJob, render: Render, numbers: Sequence[float]) -> Iterator[Any]:
        """Yield a job's frames in order; chunks of a worker that is lost are drawn by another one.

        The project goes there once, with all its media. Drawing is the same code as here, so frames are bit-identical.

        Raises:
            Cancelled: as soon as the job says so.
            ExportError: workers were lost again and again, or one could not draw a frame.
        """
        whole = packed(collected(job.project))
        digest = hashlib.sha256(whole).hexdigest()
        # Nothing of this process goes along: who is told of progress, who stops it, other frames' palettes.
        bare = ExportJob(Project(job.project.name), job.composition_id, job.path, job.first, job.last, job.scale,
                         dict(job.settings), 1, rate=job.rate)  # fmt: skip
        chunks = [tuple(numbers[at : at + CHUNK]) for at in range(0, len(numbers), CHUNK)]
        # As a task, not as data laid with a worker: it can be had again when that worker is gone.
        data = self.client.submit(bytes, whole, key=f"spiralis-{digest}")
        waiting: deque[Any] = deque()
        left = iter(chunks)
        try:
            for _ in chunks:
                while len(waiting) < 2 * max(sum(self.client.nthreads().values()), 1):
                    chunk = next(left, None)
                    if chunk is None:
                        break
                    waiting.append(self.client.submit(draw_chunk, data, digest, bare, render, chunk, pure=False))
                yield from self._awaited(job, waiting[0])
                waiting.popleft()
        finally:
            for future in (*waiting, data):
                future.cancel()

    def _awaited(self, job: ExportJob, future: Any) -> list[Any]:
        while True:
            job.heed()
            try:
                found: list[Any] = future.result(timeout=0.25)
                return found
            except TimeoutError:
                continue
            except Exception as error:
                raise ExportError(
                    f"Other machines could not draw “{job.path.name}” ({type(error).__name__}); look at the workers, "
                    "or leave out --scheduler."
                ) from error


def draw_chunk(
    data: bytes, digest: str, bare: ExportJob, render: Render, moments: Sequence[float]
) -> list[Any]:
    """Return the frames of some moments: what a worker does."""
    if digest not in _projects:
        while len(_projects) >= _KEPT:
            _projects.pop(next(iter(_projects)), None)
        _projects[digest] = unpacked(data, "the project of this job")
    job = evolve(bare, project=_projects[digest])
    return list(in_order(lambda moment: render(job, moment), moments, 1))


def _version() -> str:
    from spiralis import __version__ as own

    return own
