"""Many frames in order from worker threads: rendering goes on while the consumer encodes."""

from __future__ import annotations

import os
import threading
from collections import deque
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import suppress
from typing import TypeVar

from spiralis.core.errors import Cancelled
from spiralis.core.machine import cores

T = TypeVar("T")
_THREADS = "frames of a run"


def default_workers() -> int:
    """Return how many render threads suit this machine: one a core, at most eight."""
    return max(1, min(cores(), 8))


def in_order(
    render: Callable[[float], T], frames: Sequence[float], workers: int, cancelled: Callable[[], bool] = lambda: False,
    niceness: int = 0,
) -> Iterator[T]:  # fmt: skip
    """Yield ``render(frame)`` for each frame, in order, at most ``2 * workers`` ahead of the consumer.

    Those that draw stand back behind other threads by so much ``niceness`` (nice(2)).

    Raises:
        Cancelled: as soon as ``cancelled()`` says so.
    """
    pending: deque[Future[T]] = deque()
    pool = ThreadPoolExecutor(max(1, workers), _THREADS, _stand_back, (niceness,))
    try:
        ahead = iter(frames)
        for _ in range(len(frames)):
            while len(pending) < 2 * max(1, workers):
                frame = next(ahead, None)
                if frame is None:
                    break
                pending.append(pool.submit(render, frame))
            result = pending.popleft().result()
            if cancelled():
                raise Cancelled("Stopped; nothing was written.")
            yield result
    finally:
        for future in pending:
            future.cancel()
        # A run that nobody finished may be cleared away within one of its own threads, which cannot wait for itself.
        pool.shutdown(wait=not threading.current_thread().name.startswith(_THREADS))


def _stand_back(niceness: int) -> None:
    """Have the thread that calls this take what processor time others leave."""
    own = threading.get_native_id()
    with suppress(OSError, AttributeError):
        os.setpriority(os.PRIO_PROCESS, own, os.getpriority(os.PRIO_PROCESS, own) + niceness)
