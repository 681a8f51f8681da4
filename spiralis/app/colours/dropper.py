"""The dropper: take a colour from anywhere in the window, through a loupe."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from spiralis.app.colours.converting import as_colour
from spiralis.app.style import GROUND, MARIGOLD, TEXT, colour, font

_CELLS, _CELL = 11, 11


class Dropper(QWidget):
    """Lies over a window as a picture of it. A click takes the colour under the loupe, Escape takes none."""

    taken = pyqtSignal(object)

    def __init__(self, owner: QWidget, target: QWidget) -> None:
        super().__init__(owner, Qt.WindowType.Window | Qt.WindowType.FramelessWindowHint)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setAccessibleName("Take a colour from the window")
        self._image = target.grab().toImage()
        self._ratio = self._image.devicePixelRatio()
        self._at = QPointF(target.width() / 2, target.height() / 2)
        self.setGeometry(target.x(), target.y(), target.width(), target.height())
        self.setMouseTracking(True)
        self.setCursor(Qt.CursorShape.CrossCursor)

    def colour_at(self, point: QPointF) -> QColor:
        """Return the colour of the window at a place."""
        x = min(max(int(point.x() * self._ratio), 0), self._image.width() - 1)
        y = min(max(int(point.y() * self._ratio), 0), self._image.height() - 1)
        return self._image.pixelColor(x, y)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self._at = event.position()
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton:
            self.taken.emit(as_colour(self.colour_at(event.position())))
        self.close()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.close()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.taken.emit(as_colour(self.colour_at(self._at)))
            self.close()
        else:
            super().keyPressEvent(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.drawImage(0, 0, self._image)
        radius = _CELLS * _CELL / 2
        centre = QPointF(self._at.x() + radius + 24, self._at.y() + radius + 24)
        centre.setX(centre.x() if centre.x() + radius < self.width() else self._at.x() - radius - 24)
        centre.setY(centre.y() if centre.y() + radius + 26 < self.height() else self._at.y() - radius - 40)
        circle = QPainterPath()
        circle.addEllipse(centre, radius, radius)
        painter.save()
        painter.setClipPath(circle)
        half = _CELLS // 2
        for row in range(_CELLS):
            for column in range(_CELLS):
                at = QPointF(self._at.x() + (column - half) / self._ratio, self._at.y() + (row - half) / self._ratio)
                place = QRectF(centre.x() - radius + column * _CELL, centre.y() - radius + row * _CELL, _CELL, _CELL)
                painter.fillRect(place.adjusted(0, 0, 0.5, 0.5), self.colour_at(at))
        painter.restore()
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(colour(GROUND), 5))
        painter.drawEllipse(centre, radius, radius)
        painter.setPen(QPen(colour(MARIGOLD), 2))
        painter.drawEllipse(centre, radius, radius)
        painter.drawRect(QRectF(centre.x() - _CELL / 2, centre.y() - _CELL / 2, _CELL, _CELL))
        label = QRectF(centre.x() - 38, centre.y() + radius + 4, 76, 20)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour(GROUND))
        painter.drawRoundedRect(label, 5, 5)
        painter.setPen(colour(TEXT))
        painter.setFont(font(12, 600, tabular=True))
        painter.drawText(label, Qt.AlignmentFlag.AlignCenter, self.colour_at(self._at).name())
        painter.end()
