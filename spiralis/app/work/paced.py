"""Drags at the pace of the pictures: a move of the mouse waits until what the last one did is seen."""

from __future__ import annotations

import time
from collections.abc import Callable

from PyQt6.QtCore import QEvent, QObject, Qt, QTimer
from PyQt6.QtGui import QMouseEvent
from PyQt6.QtWidgets import QApplication, QWidget

from spiralis.app.work.soon import in_the_way, pictured_by

#: Milliseconds after which a move goes on, seen or not, and how often is looked whether the picture is there.
LONGEST, _LOOK = 80, 2
#: What must not overtake a move that waits.
_AFTER = frozenset({
    QEvent.Type.MouseButtonPress, QEvent.Type.MouseButtonRelease, QEvent.Type.MouseButtonDblClick,
    QEvent.Type.ShortcutOverride, QEvent.Type.KeyPress, QEvent.Type.KeyRelease, QEvent.Type.Wheel,
    QEvent.Type.FocusOut, QEvent.Type.ContextMenu,
})  # fmt: skip


class Paced(QObject):
    """Stands before a widget that edits while one drags in it, and hands it the newest move once a picture.

    Each move costs the window's thread some milliseconds: were all of them taken, pictures that are ready would wait
    for the hand to rest. The first move goes on at once, and the last one before anything else happens. Where the way
    matters and not only where it leads, ``passing`` is told each move that waits, and must be quick.
    """

    def __init__(self, widget: QWidget, passing: Callable[[QMouseEvent], object] | None = None) -> None:
        super().__init__(widget)
        self._widget, self._passing = widget, passing
        self._kept: QMouseEvent | None = None
        self._passed = 0.0
        self._look = QTimer(self)
        self._look.setTimerType(Qt.TimerType.PreciseTimer)
        self._look.setInterval(_LOOK)
        self._look.timeout.connect(self._on_look)
        widget.installEventFilter(self)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if isinstance(event, QMouseEvent) and event.type() == QEvent.Type.MouseMove and event.buttons():
            self._tell(True)
            if self._waits():
                self._kept = event.clone()
                if self._passing is not None:
                    self._passing(event)
                self._look.start()
                return True
            self._kept, self._passed = None, time.perf_counter()
        elif event is not None and event.type() in _AFTER:
            if self._kept is not None:
                self._send()
            if event.type() == QEvent.Type.MouseButtonRelease:
                self._tell(False)
        return False

    def _tell(self, goes_on: bool) -> None:
        pictured = pictured_by(self._widget)
        if pictured is not None:
            pictured.drag(goes_on)

    def _waits(self) -> bool:
        return (time.perf_counter() - self._passed) * 1000 < LONGEST and in_the_way(self._widget)

    def _on_look(self) -> None:
        if self._kept is None:
            self._look.stop()
        elif not self._waits():
            self._send()

    def _send(self) -> None:
        """Hand on the move that waited, as if it came now."""
        kept, self._kept, self._passed = self._kept, None, 0.0
        self._look.stop()
        QApplication.sendEvent(self._widget, kept)
