"""Panels that are shown one after the other, so that the window answers in between."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PyQt6.QtCore import QObject, QTimer
from PyQt6.QtWidgets import QWidget

from spiralis.app.work.beside import hold_others


class Staged(QObject):
    """Lets widgets paint themselves for the first time one at a turn of the event loop, in their order.

    Where it ``holds``, what works beside the window rests from the beginning until all are painted and ``building()``
    says that none of them has parts to come.
    """

    def __init__(
        self, parent: QObject, widgets: Sequence[QWidget], holds: bool = False,
        building: Callable[[], bool] = lambda: False,
    ) -> None:  # fmt: skip
        super().__init__(parent)
        self._widgets, self._holds, self._building = tuple(widgets), holds, building
        self._waiting: list[QWidget] = []
        self._holding = False
        self._timer = QTimer(self)
        self._timer.setInterval(0)
        self._timer.timeout.connect(self._next)

    def begin(self) -> None:
        """Hold all of them back; each comes as soon as the one before it is painted."""
        self._waiting = list(self._widgets)
        for widget in self._waiting:
            widget.ensurePolished()
            widget.setUpdatesEnabled(False)
        self._hold(self._holds)
        self._timer.start()

    def _hold(self, holds: bool) -> None:
        if holds != self._holding:
            self._holding = holds
            hold_others(self, holds)

    def _next(self) -> None:
        if self._waiting:
            self._waiting.pop(0).setUpdatesEnabled(True)
        elif not self._building():
            self._timer.stop()
            self._hold(False)
