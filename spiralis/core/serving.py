"""The process that draws frames and does other long work for another (``render/remote.py``).

It is started by ``python -m spiralis.core.serving MEMORY LIMIT``.
MEMORY is the number of the file that pictures are laid into, LIMIT what kept pictures may weigh, in bytes.
"""

from __future__ import annotations

import gc
import mmap
import os
import pickle
import signal
import sys
import threading
import traceback
from collections.abc import Callable
from contextlib import suppress
from functools import partial
from typing import Any, BinaryIO

from spiralis.core.allocation import keep_freed_memory
from spiralis.core.cache import BUDGET
from spiralis.core.collecting import Collections
from spiralis.core.errors import Cancelled, SpiralisError
from spiralis.core.model import Project
from spiralis.core.render.redrawn import Redrawn
from spiralis.core.render.remote import RemoteLost, read_exactly, read_message, write_message
from spiralis.core.render.sending import Receiver
from spiralis.core.warm import warm


def serve(memory: int, limit: int) -> None:
    """Do what is asked for by standard input, until it ends."""
    gc.disable()
    # What anybody prints must not come between the answers.
    answers = os.fdopen(os.dup(1), "wb", buffering=0)
    os.dup2(2, 1)
    os.nice(2)
    # Ctrl+C in a terminal goes to all that was started there; it is the window that ends, and this process with it.
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    keep_freed_memory()
    BUDGET.set_limit(limit)
    warm(drawing_alone=True)
    receiver, drawer = Receiver(), _Drawer(memory)
    asked = os.fdopen(0, "rb", buffering=0)
    stopped = threading.Event()
    signal.signal(signal.SIGUSR1, lambda *_: stopped.set())
    collections = Collections()
    write_message(answers, b"ready")
    # Whoever asked may be gone before it is answered.
    with suppress(BrokenPipeError):
        while (job := _asked(asked, receiver, drawer.draw, stopped)) is not None:
            write_message(answers, pickle.dumps(_answer(job), protocol=5))
            collections.look()


class _Drawer:
    """Draws frames into memory that two processes share."""

    def __init__(self, memory: int) -> None:
        self._memory, self._drawing = memory, Redrawn()
        self._mapped: mmap.mmap | None = None

    def draw(self, project: Project, composition_id: str, frame: float, scale: float, threads: int) -> tuple[int, ...]:
        """Draw one, and return its shape; raises SpiralisError."""
        try:
            pixels = self._drawing.rgba8(project, composition_id, frame, scale, threads)
            if self._mapped is None or len(self._mapped) < pixels.nbytes:
                os.ftruncate(self._memory, pixels.nbytes)
                self._mapped = mmap.mmap(self._memory, 0)
            self._mapped[: pixels.nbytes] = pixels.data.cast("B")
        except Exception as unforeseen:
            raise SpiralisError(f"Frame {frame:g} could not be drawn: {unforeseen}") from unforeseen
        return pixels.shape


def _asked(
    asked: BinaryIO, receiver: Receiver, draw: Callable[..., Any], stopped: threading.Event
) -> Callable[[], Any] | None:
    """Return the next work that is asked for, or None where nobody asks any more."""
    try:
        head, lengths, job = pickle.loads(read_message(asked))
        large = [read_exactly(asked, length) for length in lengths]
    except RemoteLost:
        return None
    # Where this fails the two no longer mean the same; the process ends, and another one starts from nothing.
    project = receiver.project((head, large))
    function, arguments = pickle.loads(job)
    if function is None:
        return partial(draw, project, *arguments)
    # A word to stop may have come when what came before was done already. One for this work comes again.
    stopped.clear()
    composition_id, named = arguments

    def work() -> Any:
        # What takes seconds leaves more behind than may wait until it is done.
        gc.enable()
        try:
            return function(project, project.composition(composition_id), stops=stopped.is_set, **named)
        finally:
            gc.disable()

    return work


def _answer(job: Callable[[], Any]) -> tuple[Any, SpiralisError | None]:
    """Return what comes of work, and what went wrong."""
    try:
        return job(), None
    except Cancelled:
        return None, Cancelled("The work was stopped.")
    except SpiralisError as error:
        return None, SpiralisError(str(error))
    except Exception as unforeseen:
        traceback.print_exc()
        return None, SpiralisError(f"Something went wrong: {type(unforeseen).__name__}: {unforeseen}")


if __name__ == "__main__":
    serve(int(sys.argv[1]), int(sys.argv[2]))
