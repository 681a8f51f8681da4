"""Panels that are shown one after the other, so that the window answers in between."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PyQt6.QtCore import QObject, QTimer
from PyQt6.QtWidgets import QWidget


class Staged(QObject):
    """Lets widgets paint themselves for the first time one at a turn of the event loop, in their order.

    ``hold`` is told True before and False after: what works beside the window waits meanwhile.
    """

    def __init__(self, parent: QObject, widgets: Sequence[QWidget], hold: Callable[[bool], None]) -> None:
        super().__init__(parent)
        self._widgets, self._hold = tuple(widgets), hold
        self._waiting: list[QWidget] = []
        self._timer = QTimer(self)
        self._timer.setInterval(0)
        self._timer.timeout.connect(self._next)

    def begin(self) -> None:
        """Hold all of them back; each comes as soon as the one before it is painted."""
        self._waiting = list(self._widgets)
        for widget in self._waiting:
            widget.ensurePolished()
            widget.setUpdatesEnabled(False)
        self._hold(True)
        self._timer.start()

    def _next(self) -> None:
        if self._waiting:
            self._waiting.pop(0).setUpdatesEnabled(True)
        if not self._waiting:
            self._timer.stop()
            self._hold(False)
