"""The loop ring: the loop as a circle. Drag around it to scrub, over the seam as often as you like."""

from __future__ import annotations

import math

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from spiralis.app.seam.watch import SeamWatch
from spiralis.app.session import Session
from spiralis.app.style import ALARM, GROUND, LINE, MARIGOLD, MINT, QUIET, TEXT, colour, font
from spiralis.app.widgets.still import Still
from spiralis.app.work.gesture import TakesBack
from spiralis.app.work.playback import Player
from spiralis.app.work.soon import Soon

#: Width and height of the ring, in px.
SIDE = 112


class LoopRing(QWidget):
    """Frame 0 is on top, time runs clockwise."""

    def __init__(self, session: Session, player: Player, seam: SeamWatch) -> None:
        super().__init__()
        self.session, self.player, self.seam = session, player, seam
        seam.changed.connect(self.update)
        self.setFixedSize(SIDE, SIDE)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Loop ring")
        self.setToolTip("Drag around the ring to scrub; the arrow keys step by a frame")
        self._still = Still()
        self._angle: float | None = None
        TakesBack(self, self._let_go)
        self._exact = 0.0
        player.readyChanged.connect(self.update)
        for signal in (session.compositionChanged, session.selectionChanged, session.frameChanged):
            signal.connect(self.update)
        session.projectChanged.connect(Soon(self, self.update).ask)

    def sizeHint(self) -> QSize:
        return QSize(SIDE, SIDE)

    def _circle(self) -> QRectF:
        return QRectF(self.rect()).adjusted(11, 11, -11, -11)

    def _point(self, frame: float, outward: float = 0.0) -> QPointF:
        angle = 2 * math.pi * frame / self.session.composition.length
        circle = self._circle()
        radius = circle.width() / 2 + outward
        return circle.center() + QPointF(radius * math.sin(angle), -radius * math.cos(angle))

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        circle, runs = self._circle(), self.player.ready_runs()
        of = (self.session.composition, self.seam.verdict, *self.session.layers)
        self._still.paint(painter, self.rect(), of, tuple(runs), lambda inner: self._paint_still(inner, runs))
        frame = self.session.frame
        painter.setPen(QPen(colour(MARIGOLD), 4, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
        painter.drawLine(self._point(frame, -8), self._point(frame, 8))
        painter.setPen(colour(TEXT))
        painter.setFont(font(23, 700, tabular=True))
        painter.drawText(QRectF(self.rect()).adjusted(0, -12, 0, -12), Qt.AlignmentFlag.AlignCenter, str(frame))
        painter.setPen(colour(QUIET))
        painter.setFont(font(12, tabular=True))
        seconds = f"{float(frame / self.session.composition.rate):.2f} s"
        painter.drawText(QRectF(self.rect()).adjusted(0, 22, 0, 22), Qt.AlignmentFlag.AlignCenter, seconds)
        if self.hasFocus():
            painter.setPen(QPen(colour(MARIGOLD, 0.7), 1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(circle.adjusted(-8, -8, 8, 8))
        painter.end()

    def _paint_still(self, painter: QPainter, runs: list[tuple[int, int]]) -> None:
        """Paint what stays while the playhead moves."""
        circle, length = self._circle(), self.session.composition.length
        painter.setPen(QPen(colour(LINE), 8))
        painter.drawEllipse(circle)
        painter.setPen(QPen(colour(MINT, 0.62), 8, Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap))
        for first, end in runs:
            turn = -360 * 16 * first / length
            painter.drawArc(circle, round(90 * 16 + turn), round(-360 * 16 * (end - first) / length))
        self._paint_seam(painter)
        self._paint_keys(painter)

    def _paint_seam(self, painter: QPainter) -> None:
        """Mark where the loop is round; in the colour of alarm, and as a gap, where it breaks there."""
        verdict, end = self.seam.verdict, self.session.composition.span[1]
        if verdict is None or verdict.clean:
            painter.setPen(QPen(colour(TEXT), 2))
            painter.drawLine(self._point(0, -7), self._point(0, 7))
            return
        painter.setPen(QPen(colour(GROUND), 7))
        painter.drawLine(self._point(end, -6), self._point(end, 6))
        painter.setPen(QPen(colour(ALARM), 3))
        painter.drawLine(self._point(end, -9), self._point(end, 9))

    def _paint_keys(self, painter: QPainter) -> None:
        length = self.session.composition.length
        frames = {key.frame for layer in self.session.layers for n in layer.animated() for key in layer.track(n).keys}
        painter.setPen(QPen(colour(GROUND), 1.2))
        painter.setBrush(colour(TEXT))
        for frame in frames:
            if 0 <= frame <= length:
                painter.drawEllipse(self._point(frame), 3.4, 3.4)

    def _angle_at(self, event: QMouseEvent) -> float:
        away = event.position() - self._circle().center()
        return math.atan2(away.x(), -away.y())

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.player.stop()
        self._angle = self._angle_at(event)
        length = self.session.composition.length
        self._exact = (self._angle / (2 * math.pi)) % 1.0 * length
        self.session.go_to(int(self._exact + 0.5) % length)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._angle is None:
            return
        angle = self._angle_at(event)
        # Steps add up instead of jumping to the angle, so that the seam is no wall.
        step = (angle - self._angle + math.pi) % (2 * math.pi) - math.pi
        self._angle = angle
        length = self.session.composition.length
        self._exact = (self._exact + step / (2 * math.pi) * length) % length
        self.session.go_to(int(self._exact + 0.5) % length)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._let_go()

    def _let_go(self) -> None:
        self._angle = None

    def keyPressEvent(self, event: QKeyEvent) -> None:
        steps = {Qt.Key.Key_Left: -1, Qt.Key.Key_Down: -1, Qt.Key.Key_Right: 1, Qt.Key.Key_Up: 1}
        if event.key() in steps:
            self.session.go_to(self.session.frame + steps[Qt.Key(event.key())])
        else:
            super().keyPressEvent(event)
