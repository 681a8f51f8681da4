"""Nine dots that put the pivot to a corner, an edge or the middle without moving the picture."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QSize, Qt
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from spiralis.app.canvas.handles import with_pivot
from spiralis.app.session import Session
from spiralis.app.style import LINE, MARIGOLD, QUIET, colour
from spiralis.app.work.soon import Soon

_SIDE, _INSET = 26, 5.0


class NinePoints(QWidget):
    """Shows which of the nine points the pivot is on, and takes another by a click."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setFixedSize(_SIDE, _SIDE)
        self.setAccessibleName("Pivot to a corner, an edge or the middle")
        self.setToolTip("Click a point to put the pivot there; the picture does not move")
        session.projectChanged.connect(Soon(self, self.update).ask)

    def sizeHint(self) -> QSize:
        return QSize(_SIDE, _SIDE)

    def place(self, column: int, row: int) -> QPointF:
        """Return where a point is drawn."""
        step = (_SIDE - 2 * _INSET) / 2
        return QPointF(_INSET + column * step, _INSET + row * step)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        column, row = (min(int(3 * v / _SIDE), 2) for v in (event.position().x(), event.position().y()))
        percent = (50.0 * max(column, 0), 50.0 * max(row, 0))
        self.session.edit_layers("Pivot", lambda layer: with_pivot(self.session, layer, percent))

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(colour(LINE), 1))
        painter.drawRect(int(_INSET), int(_INSET), int(_SIDE - 2 * _INSET), int(_SIDE - 2 * _INSET))
        layers = self.session.layers
        pivot = self.session.evaluated().values(layers[0])["pivot"] if layers else None
        painter.setPen(Qt.PenStyle.NoPen)
        for column in range(3):
            for row in range(3):
                here = pivot is not None and abs(pivot[0] - 50 * column) < 0.5 and abs(pivot[1] - 50 * row) < 0.5
                painter.setBrush(colour(MARIGOLD if here else QUIET))
                radius = 3.2 if here else 1.8
                painter.drawEllipse(self.place(column, row), radius, radius)
        painter.end()
