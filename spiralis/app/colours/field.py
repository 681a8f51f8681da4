"""The colour field of forms: a swatch with its hex text."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QAbstractButton

from spiralis.app.colours.converting import as_qcolor
from spiralis.app.colours.panel import choose_colour
from spiralis.app.style import GROUND, LINE, MARIGOLD, QUIET, colour, font
from spiralis.core.colour import Colour, to_hex


class ColourField(QAbstractButton):
    """A swatch with its hex text; a click opens the chooser, which changes the colour as one moves in it."""

    changed = pyqtSignal(object)
    #: The colour that was there was picked: it may stand for several layers that are not alike.
    same = pyqtSignal(object)
    finished = pyqtSignal()

    def __init__(self, label: str) -> None:
        super().__init__()
        self.label = label
        self.value: Colour = (1.0, 1.0, 1.0, 1.0)
        self._picked_again = False
        self.setMinimumSize(96, 26)
        self.setAccessibleName(label)
        self.setToolTip(f"{label}: click to choose")
        self.clicked.connect(self._choose)

    def sizeHint(self) -> QSize:
        return QSize(120, 26)

    def show_value(self, value: Colour) -> None:
        """Show a colour from outside."""
        self.value = value
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        edge = MARIGOLD if self.hasFocus() else LINE if self.underMouse() else GROUND
        painter.setPen(QPen(colour(edge), 1))
        painter.setBrush(colour(GROUND))
        painter.drawRoundedRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5), 5, 5)
        swatch = QRectF(4, 4, 34, self.height() - 8)
        painter.setPen(QPen(colour(LINE), 1))
        painter.setBrush(as_qcolor(self.value))
        painter.drawRoundedRect(swatch, 3, 3)
        painter.setPen(colour(QUIET))
        painter.setFont(font(12, 500, tabular=True))
        if self.width() > 60:  # A narrow field is the swatch alone.
            name = to_hex(self.value) if self.value[3] > 0 else "clear"
            side = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight
            painter.drawText(QRectF(self.rect()).adjusted(44, 0, -7, 0), side, name)
        painter.end()

    def _choose(self) -> None:
        before, self._picked_again = self.value, False
        chosen = choose_colour(self, self.label, before, self._take)
        if chosen is None:
            self.show_value(before)
        elif chosen == before and self._picked_again:
            self.same.emit(chosen)
        else:
            self._take(chosen)
        self.finished.emit()

    def _take(self, value: Colour) -> None:
        if value == self.value:
            self._picked_again = True
        else:
            self.show_value(value)
            self.changed.emit(value)
