"""The ruler: seconds, play span, ready frames and the playhead's notch."""

from __future__ import annotations

from collections.abc import Callable

from attrs import evolve
from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QContextMenuEvent, QCursor, QFontMetricsF, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QInputDialog, QToolTip, QWidget

from spiralis.app.session import Session
from spiralis.app.style import MARIGOLD, PANEL, colour, font
from spiralis.app.timeline.layout import LABELS, TimeAxis
from spiralis.app.timeline.ruler_painting import (
    paint_chosen,
    paint_markers,
    paint_notch,
    paint_ready,
    paint_span,
    paint_ticks,
)
from spiralis.app.widgets.passing_menu import PassingMenu
from spiralis.app.widgets.still import Still
from spiralis.app.work.playback import Player
from spiralis.app.work.soon import Soon
from spiralis.core.animation.timecode import UNITS, time_text
from spiralis.core.editing.keys import fewer_keys_note, keys_stretched
from spiralis.core.model import Composition


class Ruler(QWidget):
    """Drag on it to scrub; drag the ends of the upper line to set the play span."""

    def __init__(self, session: Session, player: Player, axis: Callable[[], TimeAxis]) -> None:
        super().__init__()
        self.session, self.player, self.axis = session, player, axis
        self.setFixedHeight(42)
        self.setMouseTracking(True)
        self.setAccessibleName("Ruler")
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setToolTip("Drag to scrub. Drag the ends of the upper line to set the play span; double-click frees it.")
        self._still, self._font = Still(), font(11, 700, tabular=True)
        #: Where the numbers are that were painted last.
        self._numbers: list[QRectF] = []
        #: What is dragged, told the frame under the pointer.
        self._drag: Callable[[int], None] | None = None
        player.readyChanged.connect(self._update_ready)
        self._at = session.frame
        session.frameChanged.connect(self._on_frame)
        for signal in (session.compositionChanged, session.keysChanged):
            signal.connect(self.update)
        session.projectChanged.connect(Soon(self, self.update).ask)

    def _on_frame(self) -> None:
        """Paint where the playhead's notch was and where it is."""
        for frame in (self._at, self.session.frame):
            left, width, _ = self._notch(frame)
            left, right = left - 2, left + width + 2
            for place in self._numbers:
                if place.left() < right and place.right() > left:
                    left, right = min(left, place.left() - 1), max(right, place.right() + 1)
            self.update(QRectF(left, 0, right - left, self.height()).toAlignedRect())
        self._at = self.session.frame

    def _update_ready(self) -> None:
        self.update(0, 36, self.width(), 4)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        axis, piece = self.axis(), self.session.composition
        painter.setClipRect(QRectF(LABELS - 12, 0, self.width(), self.height()))
        key = axis, self.session.view.unit, self.chosen_range()
        self._still.paint(painter, self.rect(), (piece,), key, lambda inner: self._paint_still(inner, axis))
        paint_ready(painter, axis, self.player.ready_runs())
        self._paint_notch(painter, axis)
        if self.hasFocus():
            painter.setClipping(False)
            painter.setPen(QPen(colour(MARIGOLD), 1.2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(LABELS - 10, 1, self.width() - LABELS + 8, self.height() - 2), 4, 4)
        painter.end()

    def _paint_still(self, painter: QPainter, axis: TimeAxis) -> None:
        """Paint what stays while the playhead moves."""
        piece, chosen = self.session.composition, self.chosen_range()
        self._numbers = paint_ticks(painter, axis, piece.rate, self.session.view.unit, self.width())
        if chosen is not None:
            paint_chosen(painter, axis, chosen)
        paint_span(painter, axis, piece.span)
        paint_markers(painter, axis, piece.markers)

    def chosen_range(self) -> tuple[int, int] | None:
        """Return the first and the last frame of the chosen keys, where those are two frames."""
        frames = [ref.frame for ref in self.session.keys]
        return (min(frames), max(frames)) if frames and min(frames) < max(frames) else None

    def _notch(self, frame: int) -> tuple[float, float, str]:
        """Return the left side, the width and the words of the playhead's notch at a frame."""
        text = time_text(frame, self.session.composition.rate, self.session.view.unit)
        width = max(20.0, QFontMetricsF(self._font).horizontalAdvance(text) + 8.0)
        return min(max(self.axis().x(frame) - width / 2, 0), self.width() - width), width, text

    def _paint_notch(self, painter: QPainter, axis: TimeAxis) -> None:
        left, width, text = self._notch(self.session.frame)
        notch = QRectF(left, 14, width, 16)
        # A number that the notch covers in part goes whole: what peeks out of it reads as another one.
        covered = [place for place in self._numbers if place.intersects(notch)]
        for place in covered:
            painter.fillRect(place, colour(PANEL))
        if covered:
            paint_markers(painter, axis, self.session.composition.markers)
        paint_notch(painter, axis.x(self.session.frame), notch, text, self._font)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Arrows step, with Shift by ten frames; the play span has commands of its own."""
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        if step is None:
            super().keyPressEvent(event)
            return
        step *= 10 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1
        self.player.stop()
        self.session.go_to(self.session.frame + step)

    def _end_at(self, event: QMouseEvent) -> int | None:
        axis, span = self.axis(), self.session.composition.span
        if event.position().y() > 14:
            return None
        near = [(abs(axis.x(span[i]) - event.position().x()), i) for i in (0, 1)]
        distance, index = min(near)
        return index if distance < 8 else None

    def _marker_at(self, event: QMouseEvent) -> int | None:
        x, y = event.position().x(), event.position().y()
        frames = [m.frame for m in self.session.composition.markers if abs(self.axis().x(m.frame) - x) <= 5]
        return frames[0] if frames and 16 <= y <= 31 else None

    def _grip_at(self, event: QMouseEvent) -> int | None:
        """Return 0 or 1 for an end of the chosen keys' bar under the pointer."""
        chosen = self.chosen_range()
        if chosen is None or event.position().y() < 33:
            return None
        gaps = [abs(self.axis().x(frame) - event.position().x()) for frame in chosen]
        return gaps.index(min(gaps)) if min(gaps) <= 7 else None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() != Qt.MouseButton.LeftButton:
            return
        self.session.gesture.begin(self._let_go)
        end, marker, grip = self._end_at(event), self._marker_at(event), self._grip_at(event)
        if grip is not None:
            self._drag = self._stretch(grip)
        elif marker is not None:
            self._drag = self._move_marker(marker)
        elif end is not None:
            self._drag = self._move_end(end)
        else:
            self._drag = self._scrub
            self._scrub(self.axis().frame(event.position().x()))

    def _let_go(self) -> None:
        self._drag = None
        self.session.gesture.end()

    def _stretch(self, grip: int) -> Callable[[int], None]:
        """Stretch the chosen keys' time by one end of their bar."""
        session, before, refs = self.session, self.session.composition, self.session.keys
        chosen = self.chosen_range() or (0, 1)
        anchor, held = chosen[1 - grip], chosen[grip]
        merge = f"stretch-{session.version}"

        def drag(frame: int) -> None:
            factor = max((frame - anchor) / (held - anchor), 0.0)
            changed, landed = keys_stretched(before, refs, anchor, factor)
            if session.edit("Stretch keys", lambda _: changed, merge):
                session.select(session.selected, landed)
                note = fewer_keys_note(before, changed)
                QToolTip.showText(QCursor.pos(), f"{round(factor * 100)} %" + (note and f", {note}"), self)

        return drag

    def _move_marker(self, frame: int) -> Callable[[int], None]:
        session, before = self.session, self.session.composition
        marker = next(m for m in before.markers if m.frame == frame)
        others = tuple(m for m in before.markers if m.frame != frame)
        merge = f"marker-{session.version}"

        def drag(to: int) -> None:
            if any(other.frame == to for other in others):
                return  # Each marker has a frame to itself; the one that is there stays.
            moved = tuple(sorted((*others, evolve(marker, frame=to)), key=lambda m: m.frame))
            session.edit("Move marker", lambda piece: evolve(piece, markers=moved), merge)

        return drag

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if not event.buttons() & Qt.MouseButton.LeftButton:
            over = self._end_at(event) is not None or self._grip_at(event) is not None
            self.setCursor(Qt.CursorShape.SizeHorCursor if over else Qt.CursorShape.ArrowCursor)
        elif self._drag is not None:
            self._drag(self.axis().frame(event.position().x()))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._let_go()
        self.session.close_step()

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        """Offer the ways of counting."""
        menu = PassingMenu(self)
        for unit in UNITS:
            action = menu.addAction(f"Count in {unit}", lambda unit=unit: self.session.view.count_in(unit))
            action.setCheckable(True)
            action.setChecked(self.session.view.unit == unit)
        menu.exec(event.globalPos())

    def rename_marker(self, frame: int) -> None:
        """Ask for a marker's name; an empty one takes the marker away."""
        marker = next(m for m in self.session.composition.markers if m.frame == frame)
        name, taken = QInputDialog.getText(self, "Marker", "Name (empty removes the marker):", text=marker.name)
        if not taken:
            return

        def change(piece: Composition) -> Composition:
            kept = tuple(m for m in piece.markers if m.frame != frame)
            named = (evolve(marker, name=name.strip()),) if name.strip() else ()
            return evolve(piece, markers=tuple(sorted((*kept, *named), key=lambda m: m.frame)))

        self.session.edit("Name marker" if name.strip() else "Remove marker", change)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        marker = self._marker_at(event)
        if marker is not None:
            self.rename_marker(marker)
            return
        if event.position().y() <= 14:
            self.session.edit("Free the play span", lambda piece: evolve(piece, play_span=None))

    def _move_end(self, end: int) -> Callable[[int], None]:
        def drag(frame: int) -> None:
            piece = self.session.composition
            first, last = piece.span
            if end == 0:
                first = min(max(frame, 0), last - 1)
            else:
                last = max(min(frame, piece.length), first + 1)
            span = None if (first, last) == (0, piece.length) else (first, last)
            self.session.edit("Play span", lambda old: evolve(old, play_span=span), merge="play-span")

        return drag

    def _scrub(self, frame: int) -> None:
        self.player.stop()
        self.session.go_to(min(max(frame, 0), self.session.composition.length - 1))
