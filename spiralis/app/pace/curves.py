"""The three drawings of Pace on one axis: value with handles, speed, spacing."""

from __future__ import annotations

from functools import partial

import numpy as np
from attrs import evolve, frozen
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QFocusEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from spiralis.app.pace.ranged import ShownTrack, all_tracks
from spiralis.app.pace.segment import Segment, set_easing, shown_segment
from spiralis.app.session import Session
from spiralis.app.style import FAMILY_COLOURS, GROUND, LINE, MARIGOLD, QUIET, RAISED, TEXT, colour, font
from spiralis.app.widgets.still import Still
from spiralis.app.widgets.strokes import Lines, stroke, through
from spiralis.app.widgets.value_text import value_text
from spiralis.app.work.cached import Cached
from spiralis.app.work.paced import Paced
from spiralis.app.work.soon import Soon
from spiralis.core.animation.easing import CubicBezier
from spiralis.core.animation.spacing import spacing, speeds
from spiralis.core.animation.tracks import evaluate
from spiralis.core.editing.shaping import as_bezier, speed_shaped
from spiralis.core.model import Kind, Parameter, Value

_PAD = 16.0
_HANDLE_KEYS = {Qt.Key.Key_PageUp: 1, Qt.Key.Key_PageDown: 2}
_ARROWS = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, 1), Qt.Key.Key_Down: (0, -1)}


#: Speeds along a segment and its spacing, by track.
_speeds: Cached[np.ndarray] = Cached(50)
_spacings: Cached[np.ndarray] = Cached(50)


@frozen
class Plot:
    """Maps segment progress (0..1 across, low..high up) to a rectangle."""

    area: QRectF
    low: float
    high: float

    def at(self, share: float, value: float) -> QPointF:
        """Return the point of a time share and a value."""
        x = self.area.left() + _PAD + share * (self.area.width() - 2 * _PAD)
        height = self.area.height() - 2 * 12
        return QPointF(x, self.area.bottom() - 12 - (value - self.low) / (self.high - self.low) * height)

    def back(self, point: QPointF) -> tuple[float, float]:
        """Return time share and value at a point."""
        share = (point.x() - self.area.left() - _PAD) / max(self.area.width() - 2 * _PAD, 1)
        value = self.low + (self.area.bottom() - 12 - point.y()) / (self.area.height() - 24) * (self.high - self.low)
        return share, value


class Curves(QWidget):
    """Drag a handle to bend the value curve, with Shift both alike; drag in the speed to put its peak elsewhere."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        Paced(self)
        self.session = session
        self.setMinimumSize(190, 172)
        self.setMouseTracking(True)
        self.setAccessibleName("Pace curves")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setToolTip("Drag a handle or the line; by keyboard arrows move one, Page up and Page down take the other")
        #: The handle that the keyboard moves.
        self.held = 1
        self._handle: int | None = None
        self._speeding = False
        self._range: tuple[float, float] | None = None
        self._merge = ""
        self._lines: Cached[Lines] = Cached(400)
        self._soon = Soon(self, self.update)
        session.projectChanged.connect(self._soon.ask)
        for signal in (session.compositionChanged, session.selectionChanged, session.keysChanged):
            signal.connect(self.update)
        self._still = Still()
        #: What was painted: the segment, on which the playhead is seen, and the frame.
        self._painted: tuple[Segment | None, int] = (None, 0)
        session.frameChanged.connect(self._on_frame)

    def _on_frame(self) -> None:
        """Paint where the playhead was and where it is, or all of it where that is on another segment."""
        segment, (painted, frame) = shown_segment(self.session), self._painted
        if segment is not None and painted is not None and _alike(segment, painted):
            for place in (*self._now(segment, frame), *self._now(segment, self.session.frame)):
                self.update(round(place) - 3, 0, 7, self.height())
        elif segment is not None or painted is not None:
            self.update()

    def areas(self) -> tuple[QRectF, QRectF, QRectF]:
        """Return the rectangles of value, speed and spacing, from the top."""
        width, height = self.width(), self.height()
        spacing_height, gap = 30.0, 5.0
        speed_height = max(38.0, 0.24 * height)
        value_height = height - spacing_height - speed_height - 2 * gap
        return (
            QRectF(0, 0, width, value_height),
            QRectF(0, value_height + gap, width, speed_height),
            QRectF(0, height - spacing_height, width, spacing_height),
        )

    def plot(self, segment: Segment) -> Plot:
        """Return the map of the value drawing, wide enough for overshoot and handles."""
        if self._range is not None:
            return Plot(self.areas()[0], *self._range)
        shares = np.linspace(0, 1, 129)
        progress = segment.left.easing.solve(shares)
        low, high = min(0.0, float(progress.min())), max(1.0, float(progress.max()))
        if isinstance(segment.left.easing, CubicBezier):
            easing = segment.left.easing
            low, high = min(low, easing.y1, easing.y2), max(high, easing.y1, easing.y2)
        room = 0.06 * (high - low)
        return Plot(self.areas()[0], max(low, -3) - room, min(high, 4) + room)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        segment = shown_segment(self.session)
        self._painted = segment, self.session.frame
        of = (self.session.composition,) if segment is None else (segment.track, segment.parameter)
        key = segment and segment.left.frame, self.hasFocus(), self.held, self._range
        self._still.paint(painter, self.rect(), of, key, lambda inner: self._paint_still(inner, segment))
        if segment is not None:
            self._paint_now(painter, segment)
        painter.end()

    def _paint_still(self, painter: QPainter, segment: Segment | None) -> None:
        """Paint what stays while the playhead moves."""
        value_area, speed_area, spacing_area = self.areas()
        value = "value" if segment is None else f"value of {segment.parameter.full_label}"
        for area, label in ((value_area, value), (speed_area, "speed"), (spacing_area, "spacing")):
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(colour(GROUND))
            painter.drawRoundedRect(area, 6, 6)
            painter.setPen(colour(QUIET))
            painter.setFont(font(11))
            painter.drawText(area.adjusted(8, 4, 0, 0), Qt.AlignmentFlag.AlignTop, label)
        if segment is None:
            hint = "Choose a layer with two keys on one thread to bend how it moves."
            painter.setFont(font(12))
            flags = Qt.AlignmentFlag.AlignHCenter | Qt.TextFlag.TextWordWrap
            where = value_area.adjusted(14, 20, -14, -8)
            painter.drawText(where, flags, hint)
            self._paint_piece(painter, value_area, painter.boundingRect(where, flags, hint).bottom() + 10)
        else:
            tint = FAMILY_COLOURS[segment.parameter.family]
            self._paint_ends(painter, segment, painter.fontMetrics().horizontalAdvance(value))
            self._paint_value(painter, segment, tint)
            self._paint_speed(painter, segment, tint)
            self._paint_spacing(painter, segment, tint)

    def _now(self, segment: Segment, frame: int) -> list[float]:
        """Return where a frame of a segment is across: in value and speed, and in the spacing."""
        first, last = segment.left.frame, segment.right.frame
        if not first <= frame <= last:
            return []
        left, width, ticks = self._ticks(segment)
        across = [Plot(self.areas()[0], 0, 1).at((frame - first) / (last - first), 0).x()]
        return across + ([left + float(ticks[frame - first]) * width] if len(ticks) else [])

    def _paint_now(self, painter: QPainter, segment: Segment) -> None:
        """Paint the playhead over the segment."""
        places = self._now(segment, self.session.frame)
        value_area, speed_area, spacing_area = self.areas()
        painter.setPen(QPen(colour(MARIGOLD, 0.6), 1))
        for area in (value_area, speed_area) if places else ():
            painter.drawLine(QPointF(places[0], area.top()), QPointF(places[0], area.bottom()))
        painter.setPen(QPen(colour(MARIGOLD), 2.4))
        for x in places[1:]:
            painter.drawLine(QPointF(x, spacing_area.top() + 6), QPointF(x, spacing_area.bottom() - 6))

    def _paint_piece(self, painter: QPainter, area: QRectF, top: float) -> None:
        """Draw how everything in the piece moves, each value in the height there is: where nothing is there to bend."""
        room = area.adjusted(10, top - area.top(), -10, -10)
        length = self.session.composition.length
        for shown in all_tracks(self.session):
            # Kept by thread: an edit works out only those that it touched.
            key = (shown.layer.kind, shown.parameter.name, length, room.getRect())
            line = self._lines.of(shown.track, key, partial(_line, shown, room, length))
            stroke(painter, line, colour(shown.tint, 0.55), 1.3)

    def _paint_ends(self, painter: QPainter, segment: Segment, title: int) -> None:
        """Say from which value to which the segment runs, beside its title, where there is room."""
        ends = [_short(segment.parameter, key.value) for key in (segment.left, segment.right)]
        room = self.areas()[0].adjusted(title + 20, 4, -8, 0)
        text = " → ".join(ends) if all(ends) else ""
        painter.setFont(font(11, tabular=True))
        if painter.fontMetrics().horizontalAdvance(text) <= room.width():
            painter.drawText(room, Qt.AlignmentFlag.AlignTop | Qt.AlignmentFlag.AlignRight, text)

    def _paint_value(self, painter: QPainter, segment: Segment, tint: str) -> None:
        plot = self.plot(segment)
        painter.setPen(QPen(colour(RAISED), 1))
        for value in (0.0, 0.5, 1.0):
            painter.drawLine(plot.at(-0.02, value), plot.at(1.02, value))
        shares = np.linspace(0, 1, 241)
        progress = segment.left.easing.solve(shares)
        progress[-1] = 1.0
        painter.setClipRect(plot.area)
        line = through(plot.at(s, p) for s, p in zip(shares.tolist(), progress.tolist(), strict=True))
        stroke(painter, line, colour(tint), 2.2)
        easing = segment.left.easing
        if isinstance(easing, CubicBezier):
            for end, handle in (((0.0, 0.0), (easing.x1, easing.y1)), ((1.0, 1.0), (easing.x2, easing.y2))):
                painter.setPen(QPen(colour(MARIGOLD), 1.2))
                painter.drawLine(plot.at(*end), plot.at(*handle))
                painter.setPen(QPen(colour(GROUND), 1.5))
                painter.setBrush(colour(MARIGOLD))
                painter.drawEllipse(plot.at(*handle), 5.5, 5.5)
                if self.hasFocus() and self.held == (1 if end == (0.0, 0.0) else 2):
                    painter.setPen(QPen(colour(TEXT), 1.5))
                    painter.setBrush(Qt.BrushStyle.NoBrush)
                    painter.drawEllipse(plot.at(*handle), 9.0, 9.0)
        painter.setPen(QPen(colour(GROUND), 1.5))
        painter.setBrush(colour(TEXT))
        for end in ((0.0, 0.0), (1.0, 1.0)):
            painter.drawEllipse(plot.at(*end), 4.5, 4.5)
        painter.setClipping(False)

    def _paint_speed(self, painter: QPainter, segment: Segment, tint: str) -> None:
        area = self.areas()[1]
        shares = np.linspace(0.002, 0.998, 161)
        if segment.parameter.numeric and len(np.ravel(segment.left.value)) == len(np.ravel(segment.right.value)):
            frames = segment.left.frame + shares * (segment.right.frame - segment.left.frame)
            speed = _speeds.of(
                segment.track, segment.left.frame, lambda: np.abs(speeds(segment.track, segment.parameter, frames))
            )
        else:
            speed = np.zeros_like(shares)
        top = float(speed.max())
        painter.setPen(QPen(colour(LINE), 1))
        plot = Plot(area, 0.0, 1.15)
        painter.drawLine(plot.at(-0.02, 0), plot.at(1.02, 0))
        if top <= 1e-9:
            return
        points = [plot.at(float(s), float(v) / top) for s, v in zip(shares, speed, strict=True)]
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour(tint, 0.35))
        painter.drawPolygon(QPolygonF([plot.at(0, 0), *points, plot.at(1, 0)]))
        painter.setPen(colour(QUIET))
        painter.setFont(font(11, tabular=True))
        unit = segment.parameter.unit or ""
        text = f"fastest {top:.3g} {unit} a frame".replace("  ", " ")
        painter.drawText(area.adjusted(0, 4, -8, 0), Qt.AlignmentFlag.AlignTop | Qt.AlignmentFlag.AlignRight, text)

    def _ticks(self, segment: Segment) -> tuple[float, float, np.ndarray]:
        """Return where the spacing begins across, how wide it is, and the share of it at which each frame is."""
        area, first, last = self.areas()[2], segment.left.frame, segment.right.frame
        left, width = area.left() + 62, area.width() - 62 - _PAD
        if not segment.parameter.numeric or last - first > 2000:
            return left, width, np.empty(0)
        ticks = _spacings.of(
            segment.track, (first, last), lambda: spacing(segment.track, segment.parameter, first, last)
        )
        return left, width, ticks

    def _paint_spacing(self, painter: QPainter, segment: Segment, tint: str) -> None:
        area, (left, width, ticks) = self.areas()[2], self._ticks(segment)
        painter.setPen(QPen(colour(LINE), 1))
        painter.drawLine(QPointF(left, area.center().y()), QPointF(left + width, area.center().y()))
        painter.setPen(QPen(colour(tint), 1.4))
        for x in (left + ticks * width).tolist():
            painter.drawLine(QPointF(x, area.top() + 6), QPointF(x, area.bottom() - 6))

    # -- handles ---------------------------------------------------------------------------------------

    def handle_at(self, point: QPointF) -> int | None:
        """Return 1 or 2 for the handle under a point, or None."""
        segment = shown_segment(self.session)
        if segment is None or not isinstance(segment.left.easing, CubicBezier):
            return None
        easing, plot = segment.left.easing, self.plot(segment)
        for number, place in ((2, (easing.x2, easing.y2)), (1, (easing.x1, easing.y1))):
            if (plot.at(*place) - point).manhattanLength() < 14:
                return number
        return None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        segment = shown_segment(self.session)
        if event.button() != Qt.MouseButton.LeftButton or segment is None:
            return
        self.session.gesture.begin(self._let_go)
        self._handle = self.handle_at(event.position())
        self._speeding = self.areas()[1].contains(event.position())
        if self._speeding:
            self._merge = f"speed-{self.session.version}"
            self._shape_speed(event)
            return
        if self._handle is None and self.areas()[0].contains(event.position()):
            # Pulling the curve itself takes the handle of that half.
            self._handle = 1 if self.plot(segment).back(event.position())[0] < 0.5 else 2
        if self._handle is not None:
            self.held = self._handle
            plot = self.plot(segment)
            self._range = (plot.low, plot.high)
            self._merge = f"bend-{self.session.version}"

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        segment = shown_segment(self.session)
        if self._speeding and event.buttons() & Qt.MouseButton.LeftButton:
            self._shape_speed(event)
            return
        if self._handle is None or segment is None:
            self.setCursor(
                Qt.CursorShape.PointingHandCursor if self.handle_at(event.position()) else Qt.CursorShape.ArrowCursor
            )
            return
        x, y = self.plot(segment).back(event.position())
        for flat in (0.0, 1.0):
            y = flat if abs(y - flat) < 0.025 else y
        self._bend(segment, self._handle, (x, y), bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))

    def _bend(self, segment: Segment, handle: int, place: tuple[float, float], both: bool) -> None:
        """Put a handle (1 or 2) somewhere, and the other one alike where it bends ``both``."""
        x, y = round(min(max(place[0], 0.0), 1.0), 2), round(min(max(place[1], -2.0), 3.0), 2)
        easing = as_bezier(segment.left.easing)
        if handle == 1:
            easing = evolve(easing, x1=x, y1=y)
            easing = evolve(easing, x2=round(1 - x, 2), y2=round(1 - y, 2)) if both else easing
        else:
            easing = evolve(easing, x2=x, y2=y)
            easing = evolve(easing, x1=round(1 - x, 2), y1=round(1 - y, 2)) if both else easing
        set_easing(self.session, easing, "bent curve", self._merge)
        self.update()

    def _shape_speed(self, event: QMouseEvent) -> None:
        """Put the fastest moment where the pointer is along the segment, the higher the faster."""
        area = self.areas()[1]
        peak = (event.position().x() - area.left() - _PAD) / max(area.width() - 2 * _PAD, 1)
        height = (area.bottom() - event.position().y()) / max(area.height(), 1)
        set_easing(self.session, speed_shaped(peak, height), "speed", self._merge)
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Arrows move the handle that is held, Page up and Page down take the other one."""
        segment, key = shown_segment(self.session), Qt.Key(event.key())
        if segment is not None and key in _HANDLE_KEYS:
            self.held = _HANDLE_KEYS[key]
            self.update()
        elif segment is not None and key in _ARROWS:
            step = 0.1 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 0.01
            easing = as_bezier(segment.left.easing)
            x, y = (easing.x1, easing.y1) if self.held == 1 else (easing.x2, easing.y2)
            across, up = _ARROWS[key]
            if not self._merge.startswith("keyed") or not event.isAutoRepeat():
                self._merge = f"keyed-{self.session.version}"
            self._bend(segment, self.held, (x + step * across, y + step * up), False)
        else:
            super().keyPressEvent(event)

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        self.update()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        drags = self._speeding or self._handle is not None
        self._let_go()
        if drags:
            self.session.close_step()

    def _let_go(self) -> None:
        self._handle, self._range, self._speeding = None, None, False
        self.session.gesture.end()
        self.update()


def _alike(first: Segment, second: Segment) -> bool:
    """Whether two are the same part of the same thread."""
    return first.track is second.track and first.left is second.left


def _line(shown: ShownTrack, room: QRectF, length: int) -> Lines:
    """Return a thread's curve over a piece of a length, as high as a box."""
    frames = np.linspace(0, length - 1, max(int(room.width() / 3), 16))
    across = (room.left() + frames / max(length - 1, 1) * room.width()).tolist()
    values = evaluate(shown.track, shown.parameter, frames)[:, shown.component]
    down = room.bottom() - (values - shown.low) / (shown.high - shown.low) * room.height()
    return through(QPointF(x, y) for x, y in zip(across, down.tolist(), strict=True))


def _short(parameter: Parameter, value: Value) -> str:
    """Return a value in few words: of a pair the numbers alone."""
    if parameter.kind is Kind.PAIR:
        return ", ".join(f"{number:.4g}" for number in value)
    return value_text(parameter, value)
