"""Ease tiles: small drawings with names; a click eases the chosen segments."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QAbstractButton, QGridLayout, QWidget

from spiralis.app.style import CHOSEN, MARIGOLD, RAISED, TEXT, colour, font
from spiralis.core.animation.ease_tiles import EASE_TILES, EaseTile
from spiralis.core.animation.easing import Easing


class Tile(QAbstractButton):
    """One ease, drawn as its curve."""

    def __init__(self, tile: EaseTile) -> None:
        super().__init__()
        self.tile = tile
        self.setCheckable(True)
        self.setAccessibleName(tile.label)
        self.setToolTip(f"{tile.label}: {tile.help}")
        self.setMinimumSize(50, 44)

    def sizeHint(self) -> QSize:
        return QSize(58, 52)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        chosen = self.isChecked()
        edge = MARIGOLD if chosen or self.hasFocus() else ("#5a5169" if self.underMouse() else RAISED)
        painter.setPen(QPen(colour(edge), 1.2))
        painter.setBrush(colour(CHOSEN if chosen else RAISED))
        painter.drawRoundedRect(QRectF(self.rect()).adjusted(0.6, 0.6, -0.6, -0.6), 6, 6)
        shares = np.linspace(0, 1, 81)
        values = self.tile.easing.solve(shares)
        values[-1] = 1.0
        low, high = min(0.0, values.min()), max(1.0, values.max())
        area = QRectF(10, 7, self.width() - 20, self.height() - 27)
        points = [
            QPointF(area.left() + s * area.width(), area.bottom() - (v - low) / (high - low) * area.height())
            for s, v in zip(shares, values, strict=True)
        ]
        painter.setPen(QPen(colour(MARIGOLD if chosen else TEXT, 1.0 if self.isEnabled() else 0.3), 1.5))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPolyline(QPolygonF(points))
        painter.setFont(font(10.5, 500))
        label = QRectF(0, self.height() - 18, self.width(), 14)
        painter.drawText(label, Qt.AlignmentFlag.AlignCenter, self.tile.label)
        painter.end()


class Tiles(QWidget):
    """All ease tiles in a grid."""

    chosen = pyqtSignal(object)

    def __init__(self, columns: int = 3) -> None:
        super().__init__()
        layout = QGridLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(4)
        self.tiles: dict[str, Tile] = {}
        for index, tile in enumerate(EASE_TILES):
            button = Tile(tile)
            button.clicked.connect(lambda _=False, picked=tile: self.chosen.emit(picked))
            layout.addWidget(button, index // columns, index % columns)
            self.tiles[tile.name] = button

    def show_easing(self, easing: Easing | None) -> None:
        """Light up the tile of an easing, if it has one; without a segment all are off."""
        for button in self.tiles.values():
            button.setEnabled(easing is not None)
            button.setChecked(easing is not None and button.tile.easing == easing)
