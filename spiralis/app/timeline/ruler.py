"""The ruler: seconds, play span, ready frames and the playhead's notch."""

from __future__ import annotations

from collections.abc import Callable

from attrs import evolve
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from spiralis.app.playback import Player
from spiralis.app.session import Session
from spiralis.app.style import GROUND, LINE, MARIGOLD, MINT, QUIET, colour, font
from spiralis.app.timeline.layout import TimeAxis, tick_step

_SPAN_Y = 8.0


class Ruler(QWidget):
    """Drag on it to scrub; drag the ends of the upper line to set the play span."""

    def __init__(self, session: Session, player: Player, axis: Callable[[], TimeAxis]) -> None:
        super().__init__()
        self.session, self.player, self.axis = session, player, axis
        self.setFixedHeight(42)
        self.setMouseTracking(True)
        self.setAccessibleName("Ruler")
        self.setToolTip("Drag to scrub. Drag the ends of the upper line to set the play span; double-click frees it.")
        self._end: int | None = None
        player.readyChanged.connect(self.update)
        for signal in (session.projectChanged, session.compositionChanged, session.frameChanged):
            signal.connect(self.update)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        axis, piece = self.axis(), self.session.composition
        self._paint_ticks(painter, axis)
        first, last = piece.span
        painter.setPen(QPen(colour(MARIGOLD), 2))
        painter.drawLine(QPointF(axis.x(first), _SPAN_Y), QPointF(axis.x(last), _SPAN_Y))
        for end in (first, last):
            painter.drawLine(QPointF(axis.x(end), _SPAN_Y - 4), QPointF(axis.x(end), _SPAN_Y + 4))
        self._paint_ready(painter, axis)
        self._paint_notch(painter, axis)
        painter.end()

    def _paint_ticks(self, painter: QPainter, axis: TimeAxis) -> None:
        rate = float(self.session.composition.rate)
        small, label = tick_step(axis, rate)
        painter.setPen(QPen(colour(LINE), 1))
        for frame in range(0, axis.length + 1, small):
            painter.drawLine(QPointF(axis.x(frame), 31), QPointF(axis.x(frame), 34))
        painter.setFont(font(11, 400, tabular=True))
        second = 0.0
        while second * rate <= axis.length + 1e-6:
            x = axis.x(second * rate)
            painter.setPen(QPen(colour(LINE), 1))
            painter.drawLine(QPointF(x, 27), QPointF(x, 34))
            painter.setPen(colour(QUIET))
            room = QRectF(x + 3, 15, 46, 14) if x + 34 < self.width() else QRectF(x - 40, 15, 38, 14)
            side = Qt.AlignmentFlag.AlignLeft if x + 34 < self.width() else Qt.AlignmentFlag.AlignRight
            painter.drawText(room, side, f"{second:g} s")
            second += label

    def _paint_ready(self, painter: QPainter, axis: TimeAxis) -> None:
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour(MINT))
        width = max(axis.per_frame - (1 if axis.per_frame > 4 else 0), 1.0)
        for frame in self.player.ready_frames():
            painter.drawRect(QRectF(axis.x(frame), 37, width, 2))

    def _paint_notch(self, painter: QPainter, axis: TimeAxis) -> None:
        frame = self.session.frame
        text = str(frame)
        painter.setFont(font(11, 700, tabular=True))
        width = max(20.0, painter.fontMetrics().horizontalAdvance(text) + 8.0)
        x = axis.x(frame)
        left = min(max(x - width / 2, 0), self.width() - width)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour(MARIGOLD))
        painter.drawRoundedRect(QRectF(left, 14, width, 16), 3, 3)
        painter.drawPolygon(QPolygonF([QPointF(x - 5, 30), QPointF(x + 5, 30), QPointF(x, 37)]))
        painter.drawRect(QRectF(x - 0.75, 30, 1.5, 12))
        painter.setPen(colour(GROUND))
        painter.drawText(QRectF(left, 14, width, 16), Qt.AlignmentFlag.AlignCenter, text)

    def _end_at(self, event: QMouseEvent) -> int | None:
        axis, span = self.axis(), self.session.composition.span
        if event.position().y() > 14:
            return None
        near = [(abs(axis.x(span[i]) - event.position().x()), i) for i in (0, 1)]
        distance, index = min(near)
        return index if distance < 8 else None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton:
            self._end = self._end_at(event)
            if self._end is None:
                self._scrub(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if not event.buttons() & Qt.MouseButton.LeftButton:
            over = self._end_at(event) is not None
            self.setCursor(Qt.CursorShape.SizeHorCursor if over else Qt.CursorShape.ArrowCursor)
        elif self._end is None:
            self._scrub(event)
        else:
            self._set_end(self.axis().frame(event.position().x()))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._end = None
        self.session.close_step()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        if event.position().y() <= 14:
            self.session.edit("Free the play span", lambda piece: evolve(piece, play_span=None))

    def _set_end(self, frame: int) -> None:
        piece = self.session.composition
        first, last = piece.span
        if self._end == 0:
            first = min(max(frame, 0), last - 1)
        else:
            last = max(min(frame, piece.length), first + 1)
        span = None if (first, last) == (0, piece.length) else (first, last)
        self.session.edit("Play span", lambda old: evolve(old, play_span=span), merge="play-span")

    def _scrub(self, event: QMouseEvent) -> None:
        self.player.stop()
        frame = self.axis().frame(event.position().x())
        self.session.go_to(min(max(frame, 0), self.session.composition.length - 1))
