"""The process that draws frames for another (``render/remote.py``): ``python -m spiralis.core.serving MEMORY LIMIT``.

MEMORY is the number of the file that pictures are laid into, LIMIT what kept pictures may weigh, in bytes.
"""

from __future__ import annotations

import mmap
import os
import pickle
import sys
from contextlib import suppress
from typing import Any, BinaryIO

from spiralis.core.allocation import keep_freed_memory
from spiralis.core.cache import BUDGET
from spiralis.core.render.redrawn import Redrawn
from spiralis.core.render.remote import RemoteLost, read_exactly, read_message, write_message
from spiralis.core.render.sending import Receiver
from spiralis.core.warm import warm


def serve(memory: int, limit: int) -> None:
    """Draw what is asked for by standard input, until it ends."""
    # What anybody prints must not come between the answers.
    answers = os.fdopen(os.dup(1), "wb", buffering=0)
    os.dup2(2, 1)
    os.nice(2)
    keep_freed_memory()
    BUDGET.set_limit(limit)
    warm()
    receiver, drawing = Receiver(), Redrawn()
    asked = os.fdopen(0, "rb", buffering=0)
    write_message(answers, b"ready")
    # Whoever asked may be gone before it is answered.
    with suppress(BrokenPipeError):
        while (answer := _answered(asked, receiver, drawing, memory)) is not None:
            write_message(answers, pickle.dumps(answer, protocol=5))


def _answered(
    asked: BinaryIO, receiver: Receiver, drawing: Redrawn, memory: int
) -> tuple[Any, str] | None:
    """Draw one frame into the memory; return its shape and what went wrong, or None where nobody asks any more."""
    try:
        head, lengths, composition_id, frame, scale, threads = pickle.loads(read_message(asked))
        large = [read_exactly(asked, length) for length in lengths]
    except RemoteLost:
        return None
    # Where this fails the two no longer mean the same; the process ends, and another one starts from nothing.
    project = receiver.project((head, large))
    try:
        pixels = drawing.rgba8(project, composition_id, frame, scale, threads)
        if os.fstat(memory).st_size < pixels.nbytes:
            os.ftruncate(memory, pixels.nbytes)
        with mmap.mmap(memory, 0) as shared:
            shared[: pixels.nbytes] = pixels.data.cast("B")
    except Exception as unforeseen:
        return (0, 0, 4), f"Frame {frame:g} could not be drawn: {unforeseen}"
    return pixels.shape, ""


if __name__ == "__main__":
    serve(int(sys.argv[1]), int(sys.argv[2]))
