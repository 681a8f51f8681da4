"""Bursts of changes become one: what can wait a moment lets the picture on the canvas go first."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QObject, QTimer

MOMENT = 40


class Soon(QTimer):
    """Runs ``work`` once, a moment after the first of several calls (or after the last, where it ``rests``)."""

    def __init__(self, parent: QObject, work: Callable[[], object], wait: int = MOMENT, rests: bool = False) -> None:
        super().__init__(parent)
        self.setSingleShot(True)
        self.setInterval(wait)
        self._rests = rests
        # Connected as the method it is, so that Qt lets go of it when its owner dies.
        self.timeout.connect(work)

    def ask(self, *_: object) -> None:
        """Ask for the work; takes and drops whatever a signal carries."""
        if self._rests or not self.isActive():
            self.start()
