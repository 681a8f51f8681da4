"""Bursts of changes become one: what can wait a moment lets the picture on the canvas go first."""

from __future__ import annotations

from collections.abc import Callable
from typing import ClassVar

from PyQt6.QtCore import QObject, QTimer

MOMENT = 40
#: How often work that can wait is put off by another moment while a picture is awaited.
MOST_WAITS = 3


class Soon(QTimer):
    """Runs ``work`` once, a moment after the first of several calls (or after the last, where it ``rests``).

    While ``awaited()`` says that the canvas waits for its picture the work is put off a little further: painting a
    panel holds the interpreter's lock, which the threads that draw the picture need as well.
    """

    awaited: ClassVar[Callable[[], bool]] = staticmethod(lambda: False)

    def __init__(self, parent: QObject, work: Callable[[], object], wait: int = MOMENT, rests: bool = False) -> None:
        super().__init__(parent)
        self.setSingleShot(True)
        self.setInterval(wait)
        self._rests, self._work, self._waits = rests, work, 0
        # Connected as the method it is, so that Qt lets go of it when its owner dies.
        self.timeout.connect(self._run)

    def ask(self, *_: object) -> None:
        """Ask for the work; takes and drops whatever a signal carries."""
        if self._rests or not self.isActive():
            self._waits = 0
            self.start()

    def _run(self) -> None:
        if self._waits < MOST_WAITS and Soon.awaited():
            self._waits += 1
            self.start()
        else:
            self._work()
