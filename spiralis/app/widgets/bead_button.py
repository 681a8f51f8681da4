"""The bead button: whether a value has keys, and a key right here."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QAbstractButton

from spiralis.app.style import FAMILY_COLOURS, MARIGOLD, MARK, colour


class BeadButton(QAbstractButton):
    """The key button: an empty ring is not animated, a ring with a dot has keys, a full one a key right here.

    Where it stands for a ``thread_name``, it can be dragged off; ``torn`` tells so.
    """

    torn = pyqtSignal(str)

    def __init__(self, label: str, family: str) -> None:
        super().__init__()
        self.family = family
        self.state = "none"
        self.track_name = ""
        self._pressed: QPointF | None = None
        self.setFixedSize(24, 24)
        self.setAccessibleName(f"Key for {label}")
        self.setToolTip(f"Set or remove a key for {label} at the playhead")

    def sizeHint(self) -> QSize:
        return QSize(24, 24)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._pressed = event.position()
        super().mousePressEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        pressed = self._pressed
        if self.track_name and pressed is not None and (event.position() - pressed).manhattanLength() > 10:
            self._pressed = None
            self.setDown(False)
            self.torn.emit(self.track_name)
            return
        super().mouseMoveEvent(event)

    def show_state(self, state: str) -> None:
        """Show ``none``, ``keys`` or ``here``."""
        self.state = state
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        tint = FAMILY_COLOURS[self.family] if self.state != "none" else (MARIGOLD if self.underMouse() else MARK)
        centre = QRectF(self.rect()).center()
        painter.setPen(QPen(colour(tint), 1.5))
        painter.setBrush(colour(tint) if self.state == "here" else Qt.BrushStyle.NoBrush)
        painter.drawEllipse(centre, 4.6, 4.6)
        if self.state == "keys":
            painter.setBrush(colour(tint))
            painter.drawEllipse(centre, 1.4, 1.4)
        if self.hasFocus():
            painter.setPen(QPen(colour(MARIGOLD), 1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(2.5, 2.5, -2.5, -2.5), 4, 4)
        painter.end()
