"""Cycles of objects are collected in the window's thread alone.

Python collects them in whichever thread happens to allocate. In a thread that renders, this would take apart windows
and slots that Qt still calls in the window's thread, which ends the program now and then.
"""

from __future__ import annotations

import gc
import time
from collections.abc import Callable
from weakref import WeakKeyDictionary

from PyQt6.QtCore import QObject, Qt, QTimer
from PyQt6.QtGui import QCursor, QGuiApplication

from spiralis.core.collecting import Collections

_EVERY = 250  # ms between looks
#: So often, in seconds, what was left out of collections is looked through too, once the pointer has rested so long.
_DEEP, _STILL = 300.0, 15.0
_busy: WeakKeyDictionary[QObject, Callable[[], bool]] = WeakKeyDictionary()


def keep_off(owner: QObject, busy: Callable[[], bool]) -> None:
    """Look through everything only while ``busy()`` says False, for as long as its owner lives."""
    _busy[owner] = busy


def collect_everything() -> None:
    """Collect what was left out too: a window that was open then and has been closed since would stay for ever."""
    gc.unfreeze()
    gc.collect()
    gc.freeze()


def expect_no_cycles() -> None:
    """Leave out of all collections what is there now, such as a project just read: frozen values form no cycles, and
    looking through those of a large project would hold the window up. They still go when nobody refers to them."""
    gc.freeze()


class Collector(QObject):
    """Takes the place of Python's own collections for as long as it lives."""

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._collections = Collections()
        self._deep = time.monotonic() + _DEEP
        self._pointer, self._moved = QCursor.pos(), time.monotonic()
        self._timer = QTimer(self)
        self._timer.timeout.connect(self.look)
        self._timer.start(_EVERY)

    def look(self) -> None:
        """Collect what is due; all of it only while no mouse button is held."""
        if self._may_look_deep():
            collect_everything()
            self._deep = time.monotonic() + _DEEP
            return
        self._collections.look(may_take_long=QGuiApplication.mouseButtons() == Qt.MouseButton.NoButton)

    def _may_look_deep(self) -> bool:
        """Whether it is time to look through everything, which takes a tenth of a second: nobody does anything."""
        now, pointer = time.monotonic(), QCursor.pos()
        if pointer != self._pointer:
            self._pointer, self._moved = pointer, now
        if now < self._deep or now - self._moved < _STILL:
            return False
        held = QGuiApplication.mouseButtons() != Qt.MouseButton.NoButton
        return not held and not any(busy() for busy in list(_busy.values()))
