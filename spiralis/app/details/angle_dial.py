"""A small dial for an angle: drag its hand round, over whole turns as often as one likes."""

from __future__ import annotations

import math

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from spiralis.app.style import LINE, MARIGOLD, RAISED, colour
from spiralis.app.work.gesture import TakesBack
from spiralis.app.work.paced import Paced

_SIZE, _STEP = 24, 15.0


class AngleDial(QWidget):
    """Shows an angle in degrees (0 to the right, 90 down); ``changed`` tells it while its hand is dragged.

    Shift keeps to steps of 15 degrees. The number field beside it is what the keyboard works.
    """

    changed = pyqtSignal(float)
    finished = pyqtSignal()

    def __init__(self, label: str) -> None:
        super().__init__()
        Paced(self, self._follow)
        TakesBack(self, self._let_go)
        self.value = 0.0
        #: While it is held: the angle of the pointer, with its whole turns.
        self._held: float | None = None
        self.setFixedSize(_SIZE, _SIZE)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setAccessibleName(f"{label}: dial")
        self.setToolTip(f"{label}: drag round; Shift keeps to steps of {_STEP:g}°")

    def show_value(self, value: float) -> None:
        """Show an angle from outside."""
        self.value = value
        self.update()

    def _angle_at(self, point: QPointF) -> float:
        middle = QPointF(_SIZE / 2, _SIZE / 2)
        return math.degrees(math.atan2(point.y() - middle.y(), point.x() - middle.x()))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton and self.isEnabled():
            self._held = self.value
            self._turn_to(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._held is not None:
            self._turn_to(event)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._held is not None:
            self._let_go()

    def _let_go(self) -> None:
        self._held = None
        self.finished.emit()

    def _follow(self, event: QMouseEvent) -> float:
        """Go with the pointer by the shorter way while it is held, so that whole turns add up; return the angle."""
        if self._held is None:
            return self.value
        self._held += (self._angle_at(event.position()) - self._held + 180) % 360 - 180
        return self._held

    def _turn_to(self, event: QMouseEvent) -> None:
        value = self._follow(event)
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            value = round(value / _STEP) * _STEP
        if value != self.value:
            self.show_value(round(value, 1))
            self.changed.emit(self.value)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        middle, radius = QPointF(_SIZE / 2, _SIZE / 2), _SIZE / 2 - 2
        painter.setPen(QPen(colour(LINE), 1.4))
        painter.setBrush(colour(RAISED))
        painter.drawEllipse(QRectF(2, 2, _SIZE - 4, _SIZE - 4))
        angle = math.radians(self.value)
        hand = middle + QPointF(math.cos(angle), math.sin(angle)) * (radius - 2)
        painter.setPen(QPen(colour(MARIGOLD), 2, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
        painter.drawLine(middle, hand)
        painter.end()
