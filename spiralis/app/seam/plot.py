"""The change from frame to frame around the loop, the seam in the middle: it stands out, or it does not."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from spiralis.app.style import ALARM, GROUND, LINE, MARIGOLD, MINT, QUIET, colour, font


class ChangePlot(QWidget):
    """``changes`` are those of ``frame_changes``; ``frameAsked`` carries a frame that was clicked."""

    frameAsked = pyqtSignal(int)

    def __init__(self) -> None:
        super().__init__()
        self.setFixedHeight(120)
        self.setAccessibleName("Change from frame to frame")
        self.setToolTip("How much the picture changes from each frame to the next; click to go there")
        self.changes: np.ndarray | None = None
        self.begin, self.broken = 0, False

    def show_changes(self, changes: np.ndarray | None, begin: int, broken: bool) -> None:
        """Show changes of a span that begins at a frame; ``broken`` colours the seam."""
        self.changes, self.begin, self.broken = changes, begin, broken
        self.update()

    def order(self) -> list[int]:
        """Return the places of the changes from left to right, that of the seam in the middle."""
        count = len(self.changes) if self.changes is not None else 0
        start = count // 2
        return [(start + place) % count for place in range(count)]

    def _plot(self) -> QRectF:
        return QRectF(self.rect()).adjusted(10, 22, -10, -18)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour(GROUND))
        painter.drawRoundedRect(QRectF(self.rect()), 6, 6)
        painter.setPen(colour(QUIET))
        painter.setFont(font(11, tabular=True))
        area = self._plot()
        painter.drawText(QPointF(10, 15), "change from each frame to the next, the seam in the middle")
        if self.changes is None or not len(self.changes):
            painter.drawText(area, Qt.AlignmentFlag.AlignCenter, "being measured…")
            painter.end()
            return
        top = max(float(np.nanmax(self.changes)), 1 / 255)
        order = self.order()
        step = area.width() / len(order)
        painter.setPen(QPen(colour(LINE), 1))
        painter.drawLine(area.bottomLeft(), area.bottomRight())
        seam = len(self.changes) - 1
        for place, index in enumerate(order):
            height = float(np.nan_to_num(self.changes[index])) / top * area.height()
            at_seam = index == seam
            tint = (ALARM if self.broken else MARIGOLD) if at_seam else MINT
            width = max(step - 1, 1.0) if not at_seam else max(step - 1, 3.0)
            bar = QRectF(area.left() + place * step, area.bottom() - height, width, max(height, 1.0))
            painter.fillRect(bar, colour(tint, 1.0 if at_seam else 0.7))
        self._paint_words(painter, area, order, top)
        painter.end()

    def _paint_words(self, painter: QPainter, area: QRectF, order: list[int], top: float) -> None:
        assert self.changes is not None
        seam = order.index(len(self.changes) - 1)
        x = area.left() + (seam + 0.5) * area.width() / len(order)
        painter.setPen(colour(ALARM if self.broken else MARIGOLD))
        level = float(np.nan_to_num(self.changes[-1])) * 255
        text = f"seam: {level:.1f} levels"
        painter.drawText(QRectF(x - 80, area.bottom() + 2, 160, 15), Qt.AlignmentFlag.AlignCenter, text)
        painter.setPen(colour(QUIET))
        half = self.begin + order[0]
        painter.drawText(QRectF(area.left(), area.bottom() + 2, 90, 15), Qt.AlignmentFlag.AlignLeft, f"frame {half}")
        painter.drawText(
            QRectF(area.right() - 130, area.top() - 18, 130, 15), Qt.AlignmentFlag.AlignRight,
            f"most: {top * 255:.1f} levels",
        )  # fmt: skip

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self.changes is not None and len(self.changes):
            area, order = self._plot(), self.order()
            place = int((event.position().x() - area.left()) / area.width() * len(order))
            self.frameAsked.emit(self.begin + order[min(max(place, 0), len(order) - 1)])
