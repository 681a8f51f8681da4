"""A label that may become shorter than its text: its letters get narrower, then it ends in three dots and says the
whole when pointed at."""

from __future__ import annotations

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtGui import QFont, QFontMetrics, QPainter, QPaintEvent
from PyQt6.QtWidgets import QLabel


class ShortLabel(QLabel):
    """Shows as much of one line as there is room for."""

    LEAST = 76
    #: How narrow letters may get, in % of their width.
    NARROWEST = 86

    def __init__(self, text: str, help: str = "") -> None:
        super().__init__(text)
        self._help = help
        self.setToolTip(help)

    def minimumSizeHint(self) -> QSize:
        """No wider than it must be to be told from others."""
        whole = super().minimumSizeHint()
        return QSize(min(whole.width(), self.LEAST), whole.height())

    def paintEvent(self, event: QPaintEvent) -> None:
        used = self._narrowed()
        text = QFontMetrics(used).elidedText(self.text(), Qt.TextElideMode.ElideRight, self.width())
        cut = text != self.text()
        self.setToolTip(f"{self.text()}: {self._help}" if cut and self._help else self.text() if cut else self._help)
        painter = QPainter(self)
        painter.setFont(used)
        painter.setPen(self.palette().windowText().color())
        painter.drawText(self.rect(), Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, text)

    def _narrowed(self) -> QFont:
        """Return the font in which the whole text has room, or its narrowest."""
        made, needed = QFont(self.font()), self.fontMetrics().horizontalAdvance(self.text())
        if needed > self.width() > 0:
            made.setStretch(max(self.NARROWEST, int(100 * self.width() / needed)))
        return made
