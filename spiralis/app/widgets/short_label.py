"""A label that may become shorter than its text: it then ends in three dots, and says the whole when pointed at."""

from __future__ import annotations

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QLabel


class ShortLabel(QLabel):
    """Shows as much of one line as there is room for."""

    LEAST = 76

    def __init__(self, text: str, help: str = "") -> None:
        super().__init__(text)
        self._help = help
        self.setToolTip(help)

    def minimumSizeHint(self) -> QSize:
        """No wider than it must be to be told from others."""
        whole = super().minimumSizeHint()
        return QSize(min(whole.width(), self.LEAST), whole.height())

    def paintEvent(self, event: QPaintEvent) -> None:
        text = self.fontMetrics().elidedText(self.text(), Qt.TextElideMode.ElideRight, self.width())
        cut = text != self.text()
        self.setToolTip(f"{self.text()}: {self._help}" if cut and self._help else self.text() if cut else self._help)
        painter = QPainter(self)
        painter.setPen(self.palette().windowText().color())
        painter.drawText(self.rect(), Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, text)
