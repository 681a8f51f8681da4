"""Cycles of objects are collected in the window's thread alone.

Python collects them in whichever thread happens to allocate. In a thread that renders, this would take apart windows
and slots that Qt still calls in the window's thread, which ends the program now and then.
"""

from __future__ import annotations

import gc
import time

from PyQt6.QtCore import QObject, Qt, QTimer
from PyQt6.QtGui import QGuiApplication

_EVERY = 250  # ms between looks
#: Collections of the youngest before one of the next, as Python does it by itself.
_YOUNGEST, _MIDDLE = 700, 10
#: A whole collection takes as long as all that is open is large: so long at least between two, in seconds, and so
#: many times as long as the last one took.
_REST, _SHARE = 60.0, 200.0


def expect_no_cycles() -> None:
    """Leave out of all collections what is there now, such as a project just read: frozen values form no cycles, and
    looking through those of a large project would hold the window up. They still go when nobody refers to them."""
    gc.freeze()


class Collector(QObject):
    """Takes the place of Python's own collections for as long as it lives."""

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        gc.disable()
        # What is there at the start stays for good and need not be looked through again and again.
        gc.collect()
        gc.freeze()
        self._next = time.monotonic() + _REST
        self._timer = QTimer(self)
        self._timer.timeout.connect(self.look)
        self._timer.start(_EVERY)

    def look(self) -> None:
        """Collect what is due; all of it only while no mouse button is held."""
        youngest, middle, _ = gc.get_count()
        if youngest < _YOUNGEST:
            return
        now = time.monotonic()
        if now >= self._next and QGuiApplication.mouseButtons() == Qt.MouseButton.NoButton:
            gc.collect()
            ended = time.monotonic()
            self._next = ended + max(_REST, (ended - now) * _SHARE)
        else:
            gc.collect(1 if middle >= _MIDDLE else 0)
