"""A picture that one draws on: a box, strokes of a round brush; the wheel zooms, the space bar and a drag move it."""

from __future__ import annotations

import math

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF, QWheelEvent
from PyQt6.QtWidgets import QWidget

from spiralis.app.style import ALARM, MARIGOLD, MINT, SURROUND, colour
from spiralis.app.touching.pyramid import Pyramid
from spiralis.app.widgets.images import as_image
from spiralis.core.model.touching import AREA, COPY, DROP, INSIDE, KEEP, SOFT, Stroke

BOX = "box"
COLOURS = {KEEP: MINT, DROP: ALARM, SOFT: "#a78bfa", AREA: MARIGOLD, COPY: "#6fb7e8", BOX: MARIGOLD, INSIDE: MINT}
_LEAST, _MOST = 0.02, 32.0
_MOST_POINTS = 4000


class TouchView(QWidget):
    """``strokeMade`` carries a stroke, ``boxMade`` a box, in px of the picture."""

    strokeMade = pyqtSignal(object)
    boxMade = pyqtSignal(object)
    #: What is to be done is not possible yet; says what to do first.
    refused = pyqtSignal(str)

    def __init__(self, width: int, height: int) -> None:
        """Make a view of a picture of this size, in px; ``show_picture`` brings it."""
        super().__init__()
        self._size = (width, height)
        self._picture: Pyramid | None = None
        self.setMinimumSize(420, 360)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Picture")
        self.tool, self.radius = BOX, 20.0
        self.strokes: tuple[Stroke, ...] = ()
        self.box: tuple[float, float, float, float] | None = None
        #: Where a copying brush takes from, until the next Alt-click; and how far that is from the first stroke after.
        self.taken_from: QPointF | None = None
        self.away: tuple[float, float] | None = None
        self.zoom: float | None = None
        self._centre: QPointF | None = None
        self._points: list[tuple[float, float]] = []
        self._begun: QPointF | None = None
        self._moves: QPointF | None = None
        self._space = False
        self._at = QPointF(-1, -1)
        self._shown: QImage | None = None

    def show_picture(self, picture: Pyramid) -> None:
        """Show a picture of the size that was said, in place of the one before."""
        self._picture = picture
        self.update()

    def show_result(self, pixels: np.ndarray | None) -> None:
        """Lay what comes of the strokes, straight uint8 of any size, over the picture; None shows the picture alone."""
        self._over = np.ascontiguousarray(pixels) if pixels is not None else None
        self._shown = as_image(self._over, premultiplied=False) if self._over is not None else None
        self.update()

    def set_tool(self, tool: str) -> None:
        """Draw with a brush, or the box, from now on."""
        self.tool = tool

    def set_radius(self, radius: float) -> None:
        """Draw as wide as that, in px of the picture, to each side."""
        self.radius = radius
        self.update()

    # -- places ----------------------------------------------------------------------------------------

    @property
    def factor(self) -> float:
        """How many px of the window a px of the picture is."""
        fit = min(self.width() / self._size[0], self.height() / self._size[1]) * 0.98
        return self.zoom if self.zoom is not None else fit

    def place(self) -> QRectF:
        """Return where the picture lies in the window."""
        width, height = (side * self.factor for side in self._size)
        centre = self._centre or QPointF(self.width() / 2, self.height() / 2)
        return QRectF(centre.x() - width / 2, centre.y() - height / 2, width, height)

    def to_picture(self, point: QPointF) -> tuple[float, float]:
        """Return a point of the window in px of the picture."""
        place = self.place()
        return (point.x() - place.left()) / self.factor, (point.y() - place.top()) / self.factor

    def to_window(self, x: float, y: float) -> QPointF:
        """Return a place in the picture as a point of the window."""
        place = self.place()
        return QPointF(place.left() + x * self.factor, place.top() + y * self.factor)

    def zoom_by(self, factor: float, about: QPointF | None = None) -> None:
        """Show the picture larger or smaller; a point stays where it is."""
        about = about or QPointF(self.width() / 2, self.height() / 2)
        x, y = self.to_picture(about)
        self.zoom = min(max(self.factor * factor, _LEAST), _MOST)
        there = self.to_window(x, y)
        place = self.place()
        self._centre = place.center() + about - there
        self.update()

    def fit(self) -> None:
        """Show the whole picture."""
        self.zoom = self._centre = None
        self.update()

    # -- drawing ---------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), colour(SURROUND))
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, self.factor < 3)
        if self._picture is not None:
            painter.drawImage(self.place(), self._picture.image(self.factor * self.devicePixelRatioF()))
        if self._shown is not None:
            # What does not belong to the subject steps back.
            painter.fillRect(self.place(), QColor(24, 18, 32, 205))
            painter.drawImage(self.place(), self._shown)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for stroke in self.strokes:
            self._draw_stroke(painter, stroke.kind, stroke.radius, list(stroke.points))
        if self._points:
            self._draw_stroke(painter, self.tool, self.radius, self._points)
        box = self.box
        if self._begun is not None and self.tool == BOX:
            box = _box(self.to_picture(self._begun), self.to_picture(self._at))
        if box is not None:
            painter.setPen(QPen(colour(MARIGOLD), 1.5, Qt.PenStyle.DashLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(QRectF(self.to_window(*box[:2]), self.to_window(*box[2:])))
        self._draw_brush(painter)
        painter.end()

    def _draw_stroke(self, painter: QPainter, kind: str, radius: float, points: list[tuple[float, float]]) -> None:
        if kind == COPY:
            return  # What it does is seen in the picture.
        tint = QColor(COLOURS[kind])
        tint.setAlpha(90 if kind in (SOFT, AREA) else 130)
        thin = 1.0 if kind in (SOFT, AREA) else 0.35
        pen = QPen(tint, max(2 * radius * thin * self.factor, 1.5), Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap)
        pen.setJoinStyle(Qt.PenJoinStyle.RoundJoin)
        painter.setPen(pen)
        way = [self.to_window(x, y) for x, y in points]
        if kind == INSIDE:
            painter.setPen(QPen(colour(MINT), 1.6))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawPolygon(QPolygonF(way))
            return
        if len(way) == 1:
            painter.drawPoint(way[0])
        else:
            painter.drawPolyline(QPolygonF(way))

    def _draw_brush(self, painter: QPainter) -> None:
        if self.tool in (BOX, INSIDE) or not self.underMouse():
            return
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(QColor(COLOURS[self.tool]), 1.2))
        painter.drawEllipse(self._at, self.radius * self.factor, self.radius * self.factor)
        if self.tool == COPY and self.taken_from is not None:
            away = self.away
            x, y = self.to_picture(self._at)
            source = self.to_window(x + away[0], y + away[1]) if away is not None else self.to_window(
                self.taken_from.x(), self.taken_from.y()
            )
            painter.drawLine(source + QPointF(-5, 0), source + QPointF(5, 0))
            painter.drawLine(source + QPointF(0, -5), source + QPointF(0, 5))

    # -- the hand --------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        self._at = event.position()
        if event.button() == Qt.MouseButton.MiddleButton or self._space:
            self._moves = event.position()
            return
        if event.button() != Qt.MouseButton.LeftButton:
            return
        point = self.to_picture(event.position())
        if self.tool == COPY and event.modifiers() & Qt.KeyboardModifier.AltModifier:
            self.taken_from, self.away = QPointF(*point), None
        elif self.tool == COPY and self.taken_from is None:
            self.refused.emit("Alt-click first on the place that the brush is to copy from.")
        else:
            if self.tool == COPY and self.away is None and self.taken_from is not None:
                self.away = (self.taken_from.x() - point[0], self.taken_from.y() - point[1])
            self._begun = event.position()
            self._points = [] if self.tool == BOX else [point]
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        self._at = event.position()
        if self._moves is not None:
            self._centre = self.place().center() + event.position() - self._moves
            self.zoom, self._moves = self.factor, event.position()
        elif self._points:
            point = self.to_picture(event.position())
            fine = 2 / self.factor if self.tool == INSIDE else max(self.radius / 6, 0.5)
            if math.dist(point, self._points[-1]) >= fine and len(self._points) < _MOST_POINTS:
                self._points.append(point)
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        self._moves = None
        if self._begun is None:
            return
        begun, points = self._begun, tuple(self._points)
        self._begun, self._points = None, []
        if self.tool == BOX:
            box = _box(self.to_picture(begun), self.to_picture(event.position()))
            if min(box[2] - box[0], box[3] - box[1]) * self.factor > 4:
                self.boxMade.emit(box)
        elif self.tool == INSIDE and len(points) < 3:
            self.refused.emit("Draw the outline all around the subject; it closes by itself.")
        elif points:
            away = self.away if self.tool == COPY and self.away is not None else (0.0, 0.0)
            self.strokeMade.emit(Stroke(self.tool, self.radius, points, away))
        self.update()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is not None and event.angleDelta().y():
            self.zoom_by(1.2 ** (event.angleDelta().y() / 120), event.position())

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() == Qt.Key.Key_Space:
            self._space = True
        else:
            super().keyPressEvent(event)

    def keyReleaseEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() == Qt.Key.Key_Space and not event.isAutoRepeat():
            self._space = False
        super().keyReleaseEvent(event)


def _box(first: tuple[float, float], second: tuple[float, float]) -> tuple[float, float, float, float]:
    xs, ys = sorted((first[0], second[0])), sorted((first[1], second[1]))
    return xs[0], ys[0], xs[1], ys[1]
