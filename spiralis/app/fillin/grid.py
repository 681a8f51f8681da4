"""The cells of the table of variants, which take and give rows as programs for tables copy them."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, Qt, pyqtBoundSignal, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QKeySequence, QPainter, QPaintEvent
from PyQt6.QtWidgets import QAbstractItemView, QHeaderView, QTableWidget

from spiralis.app.style import QUIET, colour, font

_CLEARS = (Qt.Key.Key_Delete, Qt.Key.Key_Backspace)


class VariantsGrid(QTableWidget):
    """A cell for each row and slot; ``pasteAsked``, ``copyAsked`` and ``clearAsked`` tell of keys pressed on them."""

    pasteAsked = pyqtSignal()
    copyAsked = pyqtSignal()
    clearAsked = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.setAccessibleName("Variants")
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.setShowGrid(False)
        self.setCornerButtonEnabled(False)
        across, down = self.horizontalHeader(), self.verticalHeader()
        assert across is not None and down is not None
        across.setAccessibleName("Slots")
        across.setMinimumHeight(28)
        down.setAccessibleName("Rows")
        down.setMinimumWidth(28)
        down.setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
        #: What is said where there is no row.
        self.hint = ""
        self._widened = 0

    def widen(self, slots: int) -> None:
        """Give each slot's column an even part of the width, once for each number of slots; a picture comes before
        them, and what is said of the row after."""
        if slots and slots != self._widened:
            self._widened = slots
            width = max(min((self.width() - self.iconSize().width() - 200) // slots, 180), 90)
            for index in range(slots):
                self.setColumnWidth(index + 1, width)

    def _asked(self, event: QKeyEvent) -> pyqtBoundSignal | None:
        if event.matches(QKeySequence.StandardKey.Paste):
            return self.pasteAsked
        if event.matches(QKeySequence.StandardKey.Copy):
            return self.copyAsked
        return self.clearAsked if event.key() in _CLEARS and not event.modifiers() else None

    def event(self, event: QEvent | None) -> bool:
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.ShortcutOverride and self._asked(event):
            event.accept()
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        asked = self._asked(event) if event is not None else None
        if asked is not None:
            asked.emit()
        else:
            super().keyPressEvent(event)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        super().paintEvent(event)
        area = self.viewport()
        if self.rowCount() == 0 and self.hint and area is not None:
            painter = QPainter(area)
            painter.setPen(colour(QUIET))
            painter.setFont(font(13))
            room = area.rect().adjusted(40, 40, -40, -40)
            flags = Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop | Qt.TextFlag.TextWordWrap
            painter.drawText(room, int(flags), self.hint)
            painter.end()
