"""Lights up what something dragged over the window would be dropped on."""

from __future__ import annotations

from collections.abc import Callable

from attrs import frozen
from PyQt6.QtCore import QRect, QRectF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from spiralis.app.style import GROUND, MARIGOLD, colour, font


@frozen(eq=False)
class Target:
    """Where it would land: a box in the window (a line where it lands between layers), what happens, and doing it."""

    area: QRect
    says: str
    take: Callable[[], object]


class DropLight(QWidget):
    """Lies over the window while something is dragged across it, and lets every event through."""

    def __init__(self, window: QWidget) -> None:
        super().__init__(window)
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.target: Target | None = None
        self.hide()

    def show_target(self, target: Target | None) -> None:
        """Light up a target, or nothing."""
        self.target = target
        self.setVisible(target is not None)
        if target is not None:
            self.setGeometry(self.parentWidget().rect())
            self.raise_()
            self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self.target is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        area = QRectF(self.target.area).adjusted(1.5, 1.5, -1.5, -1.5)
        painter.setPen(QPen(colour(MARIGOLD), 3))
        painter.setBrush(colour(MARIGOLD, 0.1))
        if area.height() < 4:
            painter.drawLine(area.topLeft(), area.topRight())
        else:
            painter.drawRoundedRect(area, 6, 6)
        painter.setFont(font(13, 600))
        width = painter.fontMetrics().horizontalAdvance(self.target.says) + 24
        left = min(max(area.center().x() - width / 2, 8.0), self.width() - width - 8.0)
        top = min(max(area.center().y() - 15, 8.0), self.height() - 38.0)
        label = QRectF(left, top, width, 30)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour(GROUND, 0.94))
        painter.drawRoundedRect(label, 6, 6)
        painter.setPen(colour(MARIGOLD))
        painter.drawText(label, Qt.AlignmentFlag.AlignCenter, self.target.says)
        painter.end()
