"""Pace over time: the chosen threads' values on the timeline's own axis, with handles to bend each segment; below them
their speeds."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from attrs import evolve, frozen
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from spiralis.app.pace.ranged import ShownTrack, tracks_of
from spiralis.app.pace.segment import chosen_tracks
from spiralis.app.session import Session
from spiralis.app.style import FAMILY_COLOURS, GROUND, LINE, MARIGOLD, QUIET, TEXT, colour, font
from spiralis.app.timeline.layout import LABELS, RIGHT, TimeAxis
from spiralis.app.widgets.strokes import stroke, through
from spiralis.app.work.gesture import TakesBack
from spiralis.app.work.paced import Paced
from spiralis.app.work.soon import Soon
from spiralis.core.animation.easing import CubicBezier, Easing
from spiralis.core.animation.spacing import speeds
from spiralis.core.animation.tracks import evaluate
from spiralis.core.editing.shaping import with_easing
from spiralis.core.model import Layer


@frozen
class Grip:
    """A handle of a segment: its thread, the index of the left key, 1 or 2, and where it is."""

    track: ShownTrack
    index: int
    number: int
    place: QPointF


class TrackCurves(QWidget):
    """Drag a handle to bend its segment; with Shift both handles of the segment bend alike."""

    def __init__(self, session: Session, axis: Callable[[], TimeAxis], width: Callable[[], int]) -> None:
        super().__init__()
        Paced(self)
        TakesBack(self, self._let_go)
        self.session, self._axis, self.window_width = session, axis, width
        self.common = False
        self.setMouseTracking(True)
        self.setMinimumSize(190, 172)
        self.setAccessibleName("Values of the chosen threads over time")
        self._grip: Grip | None = None
        self._merge = ""
        soon = Soon(self, self.update)
        session.projectChanged.connect(soon.ask)
        for signal in (
            session.compositionChanged, session.selectionChanged, session.keysChanged, session.frameChanged,
        ):  # fmt: skip
            signal.connect(self.update)

    def axis(self) -> TimeAxis:
        """The time that the timeline shows, fitted into this widget: beside the tiles there is less room."""
        axis = self._axis()
        left, right = 14.0, max(self.width() - 14.0, 60.0)
        factor = (right - left) / max(self._room(), 1.0)
        return TimeAxis(left + (axis.left - LABELS) * factor, left + (axis.right - LABELS) * factor, axis.length)

    def _room(self) -> float:
        """Return how many pixels the timeline has for the time in sight."""
        axis = self._axis()
        return self.window_width() - LABELS - RIGHT if axis.left < LABELS - 0.5 else axis.right - LABELS

    def areas(self) -> tuple[QRectF, QRectF]:
        """Return the rectangles of values and of speeds."""
        speed = max(46.0, 0.27 * self.height())
        return QRectF(0, 0, self.width(), self.height() - speed - 5), QRectF(
            0, self.height() - speed, self.width(), speed
        )

    def _y(self, shown: ShownTrack, value: float) -> float:
        area = self.areas()[0]
        share = (value - shown.low) / (shown.high - shown.low)
        return area.bottom() - 10 - share * (area.height() - 26)

    def grips(self) -> list[Grip]:
        """Return the handles of all bent segments in sight."""
        axis, found = self.axis(), []
        for shown in tracks_of(self.session, self.common):
            for index, (left, right) in enumerate(zip(shown.track.keys, shown.track.keys[1:], strict=False)):
                easing = left.easing
                if not isinstance(easing, CubicBezier):
                    continue
                start, end = (shown.parameter.to_array(k.value)[shown.component] for k in (left, right))
                for number, (x, y) in ((1, (easing.x1, easing.y1)), (2, (easing.x2, easing.y2))):
                    frame = left.frame + x * (right.frame - left.frame)
                    place = QPointF(axis.x(frame), self._y(shown, start + y * (end - start)))
                    found.append(Grip(shown, index, number, place))
        return found

    # -- painting ----------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        values, speed = self.areas()
        for area, label in ((values, "values over time"), (speed, "speeds")):
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(colour(GROUND))
            painter.drawRoundedRect(area, 6, 6)
            painter.setPen(colour(QUIET))
            painter.setFont(font(11))
            painter.drawText(area.adjusted(8, 4, 0, 0), Qt.AlignmentFlag.AlignTop, label)
        threads, axis = tracks_of(self.session, self.common), self.axis()
        if not threads:
            painter.setFont(font(13))
            hint = "Choose layers, or keys of threads,\nto see how their values run."
            painter.drawText(values, Qt.AlignmentFlag.AlignCenter, hint)
        x = axis.x(self.session.frame)
        painter.setPen(QPen(colour(MARIGOLD, 0.6), 1))
        painter.drawLine(QPointF(x, 0), QPointF(x, self.height()))
        frames = np.linspace(0, axis.length, max(int(self.width() / 2), 32))
        for shown in threads:
            self._paint_track(painter, shown, axis, frames)
        self._paint_grips(painter)
        self._paint_names(painter, threads)
        painter.end()

    def _paint_track(self, painter: QPainter, shown: ShownTrack, axis: TimeAxis, frames: np.ndarray) -> None:
        at = np.minimum(frames, axis.length - 1e-3)
        values = evaluate(shown.track, shown.parameter, at)[:, shown.component]
        points = [QPointF(axis.x(f), self._y(shown, v)) for f, v in zip(frames.tolist(), values.tolist(), strict=True)]
        painter.setClipRect(self.areas()[0])
        # Outside its keys a thread is what its rules make of it: a ghost.
        stroke(painter, through(points), colour(shown.tint, 0.4), 1.6)
        keys = shown.track.keys
        between = [p for p, f in zip(points, frames, strict=True) if keys[0].frame <= f <= keys[-1].frame]
        stroke(painter, through(between), colour(shown.tint), 2.0)
        painter.setPen(QPen(colour(GROUND), 1.2))
        painter.setBrush(colour(TEXT))
        for key in shown.track.keys:
            value = float(shown.parameter.to_array(key.value)[shown.component])
            painter.drawEllipse(QPointF(axis.x(key.frame), self._y(shown, value)), 3.6, 3.6)
        area = self.areas()[1]
        speed = np.abs(speeds(shown.track, shown.parameter, at))
        top = float(speed.max())
        painter.setClipRect(area)
        if top > 1e-9:
            room = area.height() - 20
            line = [
                QPointF(axis.x(f), area.bottom() - 4 - v / top * room)
                for f, v in zip(frames.tolist(), speed.tolist(), strict=True)
            ]
            stroke(painter, through(line), colour(shown.tint, 0.8), 1.4)
        painter.setClipping(False)

    def _paint_grips(self, painter: QPainter) -> None:
        axis = self.axis()
        painter.setClipRect(self.areas()[0])
        for grip in self.grips():
            key = grip.track.track.keys[grip.index + grip.number - 1]
            value = float(grip.track.parameter.to_array(key.value)[grip.track.component])
            painter.setPen(QPen(colour(MARIGOLD, 0.55), 1))
            painter.drawLine(QPointF(axis.x(key.frame), self._y(grip.track, value)), grip.place)
            painter.setPen(QPen(colour(GROUND), 1.2))
            painter.setBrush(colour(MARIGOLD))
            painter.drawEllipse(grip.place, 3.8, 3.8)
        painter.setClipping(False)

    def _paint_names(self, painter: QPainter, threads: list[ShownTrack]) -> None:
        painter.setFont(font(10.5, 600))
        for index, shown in enumerate(threads):
            text = f"{shown.layer.name} · {shown.parameter.full_label}"
            text = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, self.width() // 2)
            area = QRectF(self.width() / 2, 4 + 13 * index, self.width() / 2 - 8, 14)
            painter.setPen(colour(shown.tint))
            painter.drawText(area, Qt.AlignmentFlag.AlignRight, text)
        painter.setPen(QPen(colour(LINE), 1))

    # -- mouse -------------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() != Qt.MouseButton.LeftButton:
            return
        near = [(grip, (grip.place - event.position()).manhattanLength()) for grip in self.grips()]
        grip, distance = min(near, key=lambda pair: pair[1], default=(None, 99.0))
        self._grip = grip if distance < 12 else None
        self._merge = f"bend-{self.session.version}"
        if self._grip is None:
            self.session.go_to(
                min(max(self.axis().frame(event.position().x()), 0), self.session.composition.length - 1)
            )

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._grip is None:
            over = any((grip.place - event.position()).manhattanLength() < 12 for grip in self.grips())
            self.setCursor(Qt.CursorShape.PointingHandCursor if over else Qt.CursorShape.ArrowCursor)
            return
        shown, index = self._grip.track, self._grip.index
        left, right = shown.track.keys[index : index + 2]
        start, end = (float(shown.parameter.to_array(k.value)[shown.component]) for k in (left, right))
        frame = (event.position().x() - self.axis().left) / self.axis().per_frame
        x = round(min(max((frame - left.frame) / (right.frame - left.frame), 0.0), 1.0), 3)
        area = self.areas()[0]
        share = (area.bottom() - 10 - event.position().y()) / (area.height() - 26)
        value = shown.low + share * (shown.high - shown.low)
        y = round(min(max((value - start) / (end - start), -2.0), 3.0), 3) if abs(end - start) > 1e-9 else 0.0
        self._bend(x, y, bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))

    def _bend(self, x: float, y: float, both: bool) -> None:
        assert self._grip is not None
        shown, index, number = self._grip.track, self._grip.index, self._grip.number
        easing = shown.track.keys[index].easing
        assert isinstance(easing, CubicBezier)
        here = {"x1": x, "y1": y} if number == 1 else {"x2": x, "y2": y}
        far = round(1 - x, 3), round(1 - y, 3)
        other = {"x2": far[0], "y2": far[1]} if number == 1 else {"x1": far[0], "y1": far[1]}
        bent = evolve(easing, **here, **(other if both else {}))
        name, frame = shown.parameter.name, shown.track.keys[index].frame

        def change(layer: Layer) -> Layer:
            return layer.with_track(name, with_easing(layer.track(name), {frame}, bent))

        self.session.edit_layers("Ease: bent curve", change, [shown.layer.id], self._merge)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._grip is not None:
            self._let_go()

    def _let_go(self) -> None:
        self._grip = None
        self.session.close_step()


class Compare(QWidget):
    """The chosen segments' eases over one another, each from 0 to 1, so that equal and different ones show."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setMinimumSize(190, 172)
        self.setAccessibleName("Chosen segments compared")
        soon = Soon(self, self.update)
        session.projectChanged.connect(soon.ask)
        for signal in (session.compositionChanged, session.selectionChanged, session.keysChanged):
            signal.connect(self.update)

    def groups(self) -> list[tuple[Easing, list[str], str]]:
        """Return each different ease of the chosen segments with whose it is and a tint, the most common first."""
        found: dict[Easing, tuple[list[str], str]] = {}
        for layer, name in chosen_tracks(self.session):
            track, parameter = layer.track(name), layer.parameter(name)
            chosen = {ref.frame for ref in self.session.keys if (ref.layer, ref.name) == (layer.id, name)}
            for left, right in zip(track.keys, track.keys[1:], strict=False):
                if not chosen or left.frame in chosen:
                    names, _ = found.setdefault(left.easing, ([], FAMILY_COLOURS[parameter.family]))
                    names.append(f"{layer.name} · {parameter.full_label} · {left.frame} → {right.frame}")
        groups = [(easing, names, tint) for easing, (names, tint) in found.items()]
        return sorted(groups, key=lambda group: -len(group[1]))

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        area = QRectF(self.rect())
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour(GROUND))
        painter.drawRoundedRect(area, 6, 6)
        groups = self.groups()
        plot = area.adjusted(18, 24, -18, -18)
        painter.setPen(QPen(colour(LINE), 1))
        painter.drawRect(plot)
        shares = np.linspace(0, 1, 161)
        for easing, names, tint in reversed(groups[:24]):
            values = easing.solve(shares)
            values[-1] = 1.0
            points = [
                QPointF(plot.left() + s * plot.width(), plot.bottom() - v * plot.height())
                for s, v in zip(shares.tolist(), values.tolist(), strict=True)
            ]
            stroke(painter, through(points), colour(tint), min(1.2 + 0.9 * len(names), 6.0))
        painter.setPen(colour(QUIET))
        painter.setFont(font(11))
        count = sum(len(names) for _, names, _ in groups)
        same = f", {len(groups[0][1])} of them alike" if groups and len(groups[0][1]) > 1 else ", all different"
        text = (
            f"{count} segments{same if count > 1 else ''}" if count else "Choose layers or keys to compare their eases."
        )
        painter.drawText(area.adjusted(10, 5, 0, 0), Qt.AlignmentFlag.AlignTop, text)
        painter.end()
