"""A label that may become shorter than its text: its letters get narrower, then it ends in three dots and says the
whole when pointed at."""

from __future__ import annotations

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtGui import QFont, QFontMetrics, QPainter, QPaintEvent
from PyQt6.QtWidgets import QLabel

from spiralis.app.style import MARIGOLD, colour

#: Behind the text of a row that does not say the same of all that is chosen.
_UNLIKE = " ≠"


class ShortLabel(QLabel):
    """Shows as much of one line as there is room for."""

    LEAST = 76
    #: How narrow letters may get, in % of their width.
    NARROWEST = 86

    def __init__(self, text: str, help: str = "") -> None:
        super().__init__(text)
        self._help, self._note = help, ""
        self.setToolTip(help)

    @property
    def note(self) -> str:
        """What is to be said about the row now; the sign ≠ stands for it."""
        return self._note

    def set_note(self, note: str) -> None:
        """Say a sentence about what the row shows, or no longer any."""
        if note != self._note:
            self._note = note
            self.update()

    def minimumSizeHint(self) -> QSize:
        """No wider than it must be to be told from others."""
        whole = super().minimumSizeHint()
        return QSize(min(whole.width(), self.LEAST), whole.height())

    def paintEvent(self, event: QPaintEvent) -> None:
        room, used = self._room(), self._narrowed()
        text = QFontMetrics(used).elidedText(self.text(), Qt.TextElideMode.ElideRight, room)
        cut = text != self.text()
        said = f"{self.text()}: {self._help}" if cut and self._help else self.text() if cut else self._help
        self.setToolTip("\n".join(part for part in (self._note, said) if part))
        painter = QPainter(self)
        painter.setFont(used)
        painter.setPen(self.palette().windowText().color())
        left = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft
        painter.drawText(self.rect(), left, text)
        if self._note:
            painter.setPen(colour(MARIGOLD))
            painter.drawText(self.rect().adjusted(QFontMetrics(used).horizontalAdvance(text), 0, 0, 0), left, _UNLIKE)

    def _room(self) -> int:
        """Return how many pixels the text has."""
        return self.width() - (self.fontMetrics().horizontalAdvance(_UNLIKE) if self._note else 0)

    def _narrowed(self) -> QFont:
        """Return the font in which the whole text has room, or its narrowest."""
        room = self._room()
        made, needed = QFont(self.font()), self.fontMetrics().horizontalAdvance(self.text())
        if needed > room > 0:
            made.setStretch(max(self.NARROWEST, int(100 * room / needed)))
        return made
