"""The button that says a piece's format: as much of it as there is room for."""

from __future__ import annotations

from PyQt6.QtCore import QSize
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QPushButton

from spiralis.core.model import Composition

_BETWEEN = "  ·  "


class FormatButton(QPushButton):
    """Size, frame rate and length; where that is too long it leaves out the rate, then the length."""

    def __init__(self) -> None:
        super().__init__()
        self._ways: tuple[str, ...] = ("",)

    def show_format(self, piece: Composition) -> None:
        """Say what a piece's format is."""
        size, rate = f"{piece.width} × {piece.height}", f"{float(piece.rate):.4g} fps"
        length = f"{float(piece.seconds):.2f} s"
        self._ways = (_BETWEEN.join((size, rate, length)), _BETWEEN.join((size, length)), size)
        self.setToolTip(f"{self._ways[0]}\nChange size, frame rate and length")
        self.setAccessibleName(f"Format: {self._ways[0]}")
        self.updateGeometry()
        self._choose()

    def sizeHint(self) -> QSize:
        return self._hint(self._ways[0])

    def minimumSizeHint(self) -> QSize:
        return self._hint(self._ways[-1])

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._choose()

    def _hint(self, text: str) -> QSize:
        """Return how much room the button takes with a text: what is around the text stays the same."""
        metrics, hint = self.fontMetrics(), super().sizeHint()
        longer = metrics.horizontalAdvance(text) - metrics.horizontalAdvance(self.text())
        return QSize(hint.width() + longer, hint.height())

    def _choose(self) -> None:
        fitting = next((way for way in self._ways if self._hint(way).width() <= self.width()), self._ways[-1])
        if fitting != self.text():
            self.setText(fitting)
