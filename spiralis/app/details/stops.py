"""The gradient field: a bar with stops. Drag a stop, click it for its colour, double-click the bar for a new one,
drag a stop far off the bar to remove it."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QLinearGradient, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from spiralis.app.colours import choose_colour
from spiralis.app.colours.converting import as_qcolor
from spiralis.app.style import GROUND, LINE, MARIGOLD, TEXT, colour
from spiralis.app.work.gesture import TakesBack
from spiralis.app.work.paced import Paced
from spiralis.core.raster.ramps import ramp

Stops = tuple[tuple[float, ...], ...]


class StopsField(QWidget):
    """Shows and edits gradient stops (offset, red, green, blue, alpha)."""

    changed = pyqtSignal(object)
    finished = pyqtSignal()

    def __init__(self, label: str) -> None:
        super().__init__()
        Paced(self)
        TakesBack(self, self._let_go)
        self.label = label
        self.value: Stops = ((0.0, 0.0, 0.0, 0.0, 1.0), (1.0, 1.0, 1.0, 1.0, 1.0))
        self.chosen = 0
        self._held: int | None = None
        self._moved = False
        self.setFixedHeight(38)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(label)
        self.setToolTip(
            "Drag a stop to move it, click it to choose its colour, double-click the bar to add one, "
            "drag one off the bar to remove it"
        )

    def sizeHint(self) -> QSize:
        return QSize(150, 38)

    def show_value(self, value: Stops) -> None:
        """Show stops from outside."""
        self.value = value
        self.chosen = min(self.chosen, len(value) - 1)
        self.update()

    def _bar(self) -> QRectF:
        return QRectF(8, 3, self.width() - 16, 17)

    def _place(self, offset: float) -> QPointF:
        bar = self._bar()
        return QPointF(bar.left() + offset * bar.width(), bar.bottom() + 8)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        bar = self._bar()
        gradient = QLinearGradient(bar.topLeft(), bar.topRight())
        table = ramp(self.value, 64)
        for index, (r, g, b, a) in enumerate(table.tolist()):
            straight = (r / a, g / a, b / a, a) if a > 0 else (0.0, 0.0, 0.0, 0.0)
            gradient.setColorAt(index / 63, as_qcolor(straight))
        painter.setPen(QPen(colour(MARIGOLD if self.hasFocus() else LINE), 1))
        painter.setBrush(gradient)
        painter.drawRoundedRect(bar, 4, 4)
        for index, stop in enumerate(self.value):
            painter.setPen(QPen(colour(MARIGOLD if index == self.chosen else TEXT), 1.8))
            painter.setBrush(as_qcolor((stop[1], stop[2], stop[3], 1.0)))
            painter.drawEllipse(self._place(stop[0]), 5.2, 5.2)
        painter.setPen(colour(GROUND))
        painter.end()

    def _let_go(self) -> None:
        self._held = None
        self.finished.emit()

    def _stop_at(self, point: QPointF) -> int | None:
        distances = [abs(self._place(stop[0]).x() - point.x()) for stop in self.value]
        nearest = min(range(len(distances)), key=distances.__getitem__)
        return nearest if distances[nearest] < 9 and point.y() > self._bar().bottom() - 4 else None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._held = self._stop_at(event.position())
        self._moved = False
        if self._held is not None:
            self.chosen = self._held
            self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._held is None:
            return
        self._moved = True
        bar = self._bar()
        if abs(event.position().y() - self.height() / 2) > 60 and len(self.value) > 2:
            self._set(tuple(stop for index, stop in enumerate(self.value) if index != self._held))
            self._held = None
            return
        offset = round(min(max((event.position().x() - bar.left()) / bar.width(), 0.0), 1.0), 3)
        stops = list(self.value)
        stops[self._held] = (offset, *stops[self._held][1:])
        self._set(tuple(stops))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        held, self._held = self._held, None
        if held is not None and not self._moved:
            self._choose(held)
        self.finished.emit()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        bar = self._bar()
        if len(self.value) >= 16 or not bar.contains(event.position()):
            return
        offset = round((event.position().x() - bar.left()) / bar.width(), 3)
        r, g, b, a = ramp(self.value, 256)[round(offset * 255)].tolist()
        straight = (r / a, g / a, b / a, a) if a > 0 else (1.0, 1.0, 1.0, 0.0)
        stop = (offset, *(round(v, 6) for v in straight))
        self._set(tuple(sorted((*self.value, stop))))
        self.finished.emit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        stop = self.value[self.chosen]
        if event.key() in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            step = 0.01 if event.key() == Qt.Key.Key_Right else -0.01
            stops = list(self.value)
            stops[self.chosen] = (round(min(max(stop[0] + step, 0.0), 1.0), 3), *stop[1:])
            self._set(tuple(stops))
            self.finished.emit()
        elif event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self.chosen = (self.chosen + (1 if event.key() == Qt.Key.Key_Up else -1)) % len(self.value)
            self.update()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._choose(self.chosen)
        else:
            super().keyPressEvent(event)

    def _choose(self, index: int) -> None:
        before, old = self.value, self.value[index]

        def take(picked: tuple[float, ...]) -> None:
            stops = list(self.value)
            stops[index] = (old[0], *picked)
            self._set(tuple(stops))

        chosen = choose_colour(self, self.label, (old[1], old[2], old[3], old[4]), take)
        if chosen is None:
            self.show_value(before)
        else:
            take(chosen)

    def _set(self, stops: Stops) -> None:
        if stops != self.value:
            self.show_value(stops)
            self.changed.emit(stops)
