"""One tile a move, in which the chosen layer's picture moves as it would."""

from __future__ import annotations

import math
import time

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen, QPixmap, QTransform
from PyQt6.QtWidgets import QAbstractButton

from spiralis.app.style import CHOSEN, MARIGOLD, RAISED, TEXT, colour, font
from spiralis.app.widgets.preferences import preferred
from spiralis.core.model import MoveUse
from spiralis.core.moves import Move, Point, Room, between, points_of

_SHARE, _LABEL, _PAUSE = 0.68, 20, 0.5
#: How far a move is that stands still.
_RESTS = 0.4
#: How far away the stage is looked at from, beside its width.
_FAR = 50.0 / 36.0


class MoveTile(QAbstractButton):
    """A small stage with the layer's picture in its middle; the move plays over and over."""

    def __init__(self, move: Move) -> None:
        super().__init__()
        self.move_, self.picture = move, QPixmap()
        self.setCheckable(True)
        self.setText(move.label)
        self.setAccessibleName(move.label)
        self.setToolTip(move.help)
        self.setMinimumSize(self.sizeHint())
        self.use = MoveUse(move.name, 0, 1)
        self._points: tuple[Point, ...] = ()
        self._shape: object = None

    def sizeHint(self) -> QSize:
        return QSize(128, 98)

    def show_picture(self, picture: QPixmap | None) -> None:
        """Play with this picture; None is one that is still being drawn."""
        self.picture, self._shape = picture or QPixmap(), None

    def show_use(self, use: MoveUse) -> None:
        """Play the move with these numbers."""
        self.use = use

    def _stage(self) -> tuple[float, float]:
        return self.width() - 8.0, self.height() - _LABEL - 8.0

    def points(self) -> tuple[Point, ...]:
        """Return the points of the move on this stage."""
        width, height = self._stage()
        shape = (self.use, width, height)
        if shape != self._shape:
            self._shape = shape
            w, h = self._size()
            middle = ((width - w) / 2, (height - h) / 2, (width + w) / 2, (height + h) / 2)
            self._points = points_of(self.use, Room((width, height), middle))
        return self._points

    def _size(self) -> tuple[float, float]:
        width, height = self._stage()
        scale = min(width / max(self.picture.width(), 1), height / max(self.picture.height(), 1)) * _SHARE
        return self.picture.width() * scale, self.picture.height() * scale

    def share(self, seconds: float) -> float:
        """Return how far the move is at a time; entrances and exits pause between."""
        length = self.move_.length * (self.use.times if self.move_.family == "loop" else 1)
        if self.move_.family == "loop":
            return seconds % length / length
        at = seconds % (length + 2 * _PAUSE) - _PAUSE
        return min(max(at / length, 0.0), 1.0)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        chosen = self.isChecked()
        edge = MARIGOLD if chosen or self.hasFocus() else ("#5a5169" if self.underMouse() else RAISED)
        painter.setPen(QPen(colour(edge), 1.2))
        painter.setBrush(colour(CHOSEN if chosen else RAISED))
        painter.drawRoundedRect(QRectF(self.rect()).adjusted(0.6, 0.6, -0.6, -0.6), 6, 6)
        width, height = self._stage()
        painter.save()
        painter.setClipRect(QRectF(4, 4, width, height))
        rests = preferred("still") and not (self.underMouse() or self.hasFocus())
        self._paint_picture(painter, between(self.points(), _RESTS if rests else self.share(time.perf_counter())))
        painter.restore()
        painter.setPen(colour(MARIGOLD if chosen else TEXT))
        painter.setFont(font(12, 500))
        label = QRectF(0, self.height() - _LABEL - 1, self.width(), _LABEL - 2)
        painter.drawText(label, Qt.AlignmentFlag.AlignCenter, self.move_.label)
        painter.end()

    def _paint_picture(self, painter: QPainter, point: Point) -> None:
        width, height = self._stage()
        slant = QTransform(1, math.tan(math.radians(point.skew[1])), math.tan(math.radians(-point.skew[0])), 1, 0, 0)
        place = QTransform.fromTranslate(4 + width / 2 + point.place[0], 4 + height / 2 + point.place[1])
        turned = QTransform().rotate(point.turn)
        leaning = QTransform().rotate(point.swing, Qt.Axis.YAxis).rotate(-point.tip, Qt.Axis.XAxis)
        near = width * _FAR / max(width * _FAR + point.deep, width * 0.1)
        sized = QTransform.fromScale(point.scale[0] * near, point.scale[1] * near)
        painter.setTransform(sized * slant * turned * leaning * place, True)
        painter.setOpacity(min(max(point.opacity, 0.0), 1.0))
        w, h = self._size()
        corner = QPointF(-w / 2, -h / 2)
        painter.drawPixmap(QRectF(corner.x(), corner.y(), w, h), self.picture, QRectF(self.picture.rect()))
