"""Scroll bars along the canvas, there only while the piece is larger than what shows of it."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QObject, Qt
from PyQt6.QtWidgets import QScrollBar

from spiralis.app.canvas.viewport import Viewport

_THICK = 10


class CanvasBars(QObject):
    """Follow the viewport, and move it."""

    def __init__(self, viewport: Viewport) -> None:
        super().__init__(viewport)
        self.viewport = viewport
        ways = (Qt.Orientation.Horizontal, Qt.Orientation.Vertical)
        self.bars = tuple(QScrollBar(way, viewport.widget) for way in ways)
        for axis, bar in enumerate(self.bars):
            bar.setAccessibleName(("Move the picture across", "Move the picture up and down")[axis])
            bar.valueChanged.connect(lambda value, axis=axis: self._scrolled(axis, value))
            bar.hide()
        viewport.zoomed.connect(self.follow)
        viewport.widget.installEventFilter(self)

    def follow(self) -> None:
        """Show what is seen of the piece."""
        view, piece = self.viewport, self.viewport.session.composition
        widget = view.widget
        room = (widget.width(), widget.height())
        for axis, bar in enumerate(self.bars):
            whole, page = (piece.width, piece.height)[axis], room[axis] / view.zoom
            low, high = min(0.0, view.centre[axis] - page / 2), max(float(whole), view.centre[axis] + page / 2)
            bar.setVisible(high - low > page * 1.001 and not view.fits)
            bar.blockSignals(True)
            bar.setRange(round(10 * low), round(10 * (high - page)))
            bar.setPageStep(max(round(10 * page), 1))
            bar.setSingleStep(max(round(page), 1))
            bar.setValue(round(10 * (view.centre[axis] - page / 2)))
            bar.blockSignals(False)
        self.bars[0].setGeometry(0, room[1] - _THICK, room[0] - _THICK, _THICK)
        self.bars[1].setGeometry(room[0] - _THICK, 0, _THICK, room[1] - _THICK)

    def _scrolled(self, axis: int, value: int) -> None:
        view = self.viewport
        page = (view.widget.width(), view.widget.height())[axis] / view.zoom
        centre = list(view.centre)
        centre[axis] = value / 10 + page / 2
        view.show_at((centre[0], centre[1]))

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if event is not None and event.type() == QEvent.Type.Resize:
            self.follow()
        return False
