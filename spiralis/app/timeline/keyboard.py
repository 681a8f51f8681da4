"""The timeline by keyboard: walk through rows, choose and extend among the keys of a thread, set one, move them."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QKeyEvent, QPainter, QPen

from spiralis.app.session import Session
from spiralis.app.style import MARIGOLD, colour
from spiralis.app.timeline.layout import Row
from spiralis.app.timeline.nudging import Nudging
from spiralis.core.editing.keys import KeyRef


class RowKeys:
    """Up and Down go from row to row; on a thread Page up and Page down choose its keys, Enter sets one here."""

    def __init__(
        self, session: Session, rows: Callable[[], list[Row]], add_key: Callable[[Row, int], None]
    ) -> None:
        self.session, self._rows, self._add_key = session, rows, add_key
        self._nudging = Nudging(session)
        #: The thread that the keyboard is on, by layer and property; None on the row of the chosen layer.
        self._thread: tuple[str, str] | None = None

    def row(self) -> Row | None:
        """Return the row that the keyboard is on."""
        rows, chosen = self._rows(), self.session.selected
        on_thread = next((row for row in rows if (row.layer.id, row.name) == self._thread), None)
        if on_thread is not None and on_thread.layer.id in chosen:
            return on_thread
        return next((row for row in rows if row.name is None and row.layer.id in chosen), None)

    def press(self, event: QKeyEvent) -> bool:
        """Take a key; False where it means nothing here."""
        shift = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        row, key = self.row(), event.key()
        if key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            step = 10 if shift else 1
            self._nudging.by(step if key == Qt.Key.Key_Right else -step)
        elif key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self._walk(1 if key == Qt.Key.Key_Down else -1)
        elif key in (Qt.Key.Key_PageUp, Qt.Key.Key_PageDown) and row is not None and row.name is not None:
            self._choose(row, key == Qt.Key.Key_PageDown, shift)
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and row is not None and row.name is not None:
            self._add_key(row, self.session.frame)
        else:
            return False
        return True

    def _walk(self, step: int) -> None:
        rows, now = self._rows(), self.row()
        if not rows:
            return
        places = [place for place, row in enumerate(rows) if row is now]
        row = rows[(places[0] + step) % len(rows) if places else (0 if step > 0 else -1)]
        self._thread = (row.layer.id, row.name) if row.name is not None else None
        self.session.select([row.layer.id])

    def _choose(self, row: Row, onward: bool, adds: bool) -> None:
        """Choose the key after or before the playhead on a thread, beside those that are chosen where it ``adds``."""
        name, frame = row.name or "", self.session.frame
        frames = [key.frame for key in row.layer.track(name).keys]
        held = {ref for ref in self.session.keys if (ref.layer, ref.name) == (row.layer.id, name)}
        ahead = [f for f in frames if (f > frame if onward else f < frame)]
        if not held and frame in frames:
            goal = frame
        elif ahead:
            goal = ahead[0] if onward else ahead[-1]
        else:
            return
        self.session.select([row.layer.id], {*(self.session.keys if adds else ()), KeyRef(row.layer.id, name, goal)})
        self.session.go_to(goal)

    def paint(self, painter: QPainter, width: int) -> None:
        """Frame the row that the keyboard is on."""
        row = self.row()
        if row is not None:
            painter.setPen(QPen(colour(MARIGOLD, 0.8), 1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(1.5, row.top + 1.5, width - 3, row.height - 3), 4, 4)
