"""Give memory back to the system: what is free in the C library's pools would stay with the program for ever."""

from __future__ import annotations

import ctypes
from collections.abc import Callable
from contextlib import suppress

from PyQt6.QtCore import QObject, QTimer

#: Parameters of mallopt(3).
_ARENAS = -8
#: Every thread would have a pool of its own, each as large as the most that it ever held.
_MOST_ARENAS = 2
#: How often, in ms, free memory is given back.
_EVERY = 60_000


def few_pools() -> None:
    """Let all threads share few pools; where the C library has no such choice, nothing happens."""
    with suppress(OSError, AttributeError):
        ctypes.CDLL(None).mallopt(_ARENAS, _MOST_ARENAS)


def give_back() -> None:
    """Give back what is free (malloc_trim(3))."""
    with suppress(OSError, AttributeError):
        ctypes.CDLL(None).malloc_trim(0)


def give_back_at_rest(parent: QObject, busy: Callable[[], bool]) -> QTimer:
    """Give memory back once a minute, unless something plays."""
    timer = QTimer(parent)
    timer.setInterval(_EVERY)
    timer.timeout.connect(lambda: None if busy() else give_back())
    timer.start()
    return timer
