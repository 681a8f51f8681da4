"""Rows of a picture shared by two threads, where somebody waits for one frame; kernels let go of the interpreter."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from contextvars import ContextVar
from functools import cache

#: How many threads whatever is drawn here and now may take.
_threads: ContextVar[int] = ContextVar("threads", default=1)


@cache
def _pool() -> ThreadPoolExecutor:
    return ThreadPoolExecutor(max_workers=2, thread_name_prefix="rows")


@contextmanager
def shared_by(threads: int) -> Iterator[None]:
    """Let what is drawn within take so many threads: one, or two."""
    before = _threads.set(threads)
    try:
        yield
    finally:
        _threads.reset(before)


def by_rows(height: int, run: Callable[[int, int], None], step: int = 1, worth: bool = True) -> None:
    """Call ``run(first, last)`` for all rows: once, or in two threads for a multiple of ``step`` each where it is
    ``worth`` that. The rows of one call must not depend on those of the other."""
    middle = (-(-height // step) + 1) // 2 * step
    if _threads.get() < 2 or not worth or middle >= height:
        run(0, height)
        return
    other = _pool().submit(run, middle, height)
    run(0, middle)
    other.result()
