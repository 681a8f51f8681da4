"""Work for another process to do in tests: what it is asked for has to be found by its name there."""

from __future__ import annotations

import os
import time
from collections.abc import Callable

from spiralis.core.errors import Cancelled
from spiralis.core.model import Composition, Project


def until_stopped(project: Project, piece: Composition, stops: Callable[[], bool], seconds: float = 20.0) -> float:
    """Take long; return how long, or heed that it is to stop."""
    started = time.monotonic()
    while time.monotonic() - started < seconds:
        if stops():
            raise Cancelled("Stopped.")
        time.sleep(0.005)
    return time.monotonic() - started


def where(project: Project, piece: Composition, stops: Callable[[], bool], name: str = "") -> tuple[int, str]:
    """Return the number of the process, and words that hold what it was given."""
    return os.getpid(), f"{name} {piece.name} {len(piece.layers)} {stops()}"


def failing(project: Project, piece: Composition, stops: Callable[[], bool]) -> None:
    """Go wrong in a way that nobody foresaw."""
    raise ZeroDivisionError("by nothing")


def dying(project: Project, piece: Composition, stops: Callable[[], bool], home: int = 0) -> str:
    """End the process, unless it is the one at home."""
    if os.getpid() != home:
        os._exit(3)
    return "done at home"
