"""The timeline panel: the ruler over the scrolling rows, one time axis for both."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QWheelEvent
from PyQt6.QtWidgets import QFrame, QScrollArea, QScrollBar, QToolButton, QVBoxLayout, QWidget

from spiralis.app.session import Session
from spiralis.app.style import icon
from spiralis.app.timeline.layout import LABELS, RIGHT, Filter, TimeAxis
from spiralis.app.timeline.rows import Rows
from spiralis.app.timeline.ruler import Ruler
from spiralis.app.widgets.text_fields import TextField
from spiralis.app.work.playback import Player
from spiralis.app.work.soon import Soon


class _RowsArea(QScrollArea):
    """Scrolls rows; a wheel with a key pressed zooms or pans the time instead."""

    def wheelEvent(self, event: QWheelEvent) -> None:
        held = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier
        if event.modifiers() & held or event.angleDelta().x():
            event.ignore()
        else:
            super().wheelEvent(event)


class TimelinePanel(QWidget):
    """Ruler and rows."""

    def __init__(self, session: Session, player: Player) -> None:
        super().__init__()
        self.session = session
        self._first = 0.0
        #: How many frames fit in sight; None shows the whole time.
        self._room: float | None = None
        self.setObjectName("Panel")
        self.ruler = Ruler(session, player, self.axis)
        self.rows = Rows(session, self.axis)
        self.search = TextField("", self.ruler)
        self.search.setPlaceholderText("Layers")
        self.search.setClearButtonEnabled(True)
        self.search.setAccessibleName("Filter layers")
        self.search.setToolTip("Type a part of a name or a kind, such as text, to see only such layers")
        self.search.setGeometry(8, 8, LABELS - 48, 26)
        self.animated = QToolButton(self.ruler)
        self.animated.setCheckable(True)
        self.animated.setIcon(icon("filter"))
        self.animated.setAccessibleName("Only animated layers")
        self.animated.setToolTip("Show only layers that have keys")
        self.animated.setGeometry(LABELS - 36, 8, 26, 26)
        self.search.textChanged.connect(self._filter)
        self.animated.toggled.connect(self._filter)
        self.area = _RowsArea()
        self.area.setWidgetResizable(True)
        self.area.setFrameShape(QFrame.Shape.NoFrame)
        self.area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.area.setWidget(self.rows)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self.ruler)
        layout.addWidget(self.area)
        self.setMinimumSize(332, 120)
        session.selectionChanged.connect(self._reveal)
        self.bar = QScrollBar(Qt.Orientation.Horizontal)
        self.bar.setAccessibleName("Move through time")
        self.bar.valueChanged.connect(self._scrolled)
        self.bar.hide()
        layout.addWidget(self.bar)
        session.frameChanged.connect(self._follow)
        session.compositionChanged.connect(self.fit_time)
        session.projectChanged.connect(Soon(self, self._settle).ask)
        session.view.changed.connect(self.ruler.update)

    def _filter(self) -> None:
        self.rows.set_filter(Filter(self.search.text().strip(), self.animated.isChecked()))

    def _reveal(self) -> None:
        """Scroll so that the chosen layer and its threads are in sight."""
        chosen = [row for row in self.rows.rows() if row.layer.id in self.session.selected]
        if chosen:
            bottom = chosen[-1].top + chosen[-1].height
            bar, room = self.area.verticalScrollBar(), self.area.viewport().height()
            if chosen[0].top < bar.value() or bottom > bar.value() + room:
                bar.setMaximum(max(bar.maximum(), self.rows.minimumHeight() - room))
                bar.setValue(
                    int(min(chosen[0].top, max(bottom - room, 0) if bottom - chosen[0].top < room else chosen[0].top))
                )

    def rename_chosen(self) -> None:
        """Open a field over the name of the first chosen layer."""
        chosen = self.session.selected
        row = next((row for row in self.rows.rows() if row.name is None and row.layer.id in chosen), None)
        if row is not None:
            self.rows.rename(row)

    def axis(self) -> TimeAxis:
        """The time axis as the panel is wide and zoomed now."""
        length = self.session.composition.length
        width = max(self.width() - RIGHT, LABELS + 60) - LABELS
        if self._room is None:
            return TimeAxis(LABELS, LABELS + width, length)
        per_frame = width / self._room
        left = LABELS - self._first * per_frame
        return TimeAxis(left, left + length * per_frame, length)

    # -- zoom --------------------------------------------------------------------------------------------

    def zoom_time(self, factor: float, around: float | None = None) -> None:
        """Zoom the time axis about a frame, the playhead by itself."""
        length = float(self.session.composition.length)
        room = self._room or length
        held = self.session.frame if around is None else around
        share = (held - self._first) / room
        wanted = min(max(room / factor, min(8.0, length)), length)
        self._room = None if wanted >= length else wanted
        self._first = held - share * wanted
        self._settle()

    def fit_time(self) -> None:
        """Show the whole time."""
        self._first, self._room = 0.0, None
        self._settle()

    def pan_time(self, frames: float) -> None:
        """Move through time."""
        self._first += frames
        self._settle()

    def _settle(self) -> None:
        length = float(self.session.composition.length)
        room = min(self._room or length, length)
        self._first = min(max(self._first, 0.0), max(length - room, 0.0))
        self.bar.setVisible(self._room is not None)
        self.bar.blockSignals(True)
        self.bar.setRange(0, round(100 * (length - room)))
        self.bar.setPageStep(round(100 * room))
        self.bar.setValue(round(100 * self._first))
        self.bar.blockSignals(False)
        self.ruler.update()
        self.rows.update()

    def _scrolled(self, value: int) -> None:
        self._first = value / 100
        self._settle()

    def _follow(self, frame: int) -> None:
        """Turn the page when the playhead leaves the sight."""
        if self._room is not None and not self._first <= frame <= self._first + self._room - 1:
            self._first = frame - 0.1 * self._room
            self._settle()

    def wheelEvent(self, event: QWheelEvent) -> None:
        steps = event.angleDelta().y() / 120
        keys, axis = event.modifiers(), self.axis()
        if keys & Qt.KeyboardModifier.ControlModifier and steps:
            at = (event.position().x() - axis.left) / axis.per_frame
            self.zoom_time(1.25**steps, min(max(at, 0.0), float(axis.length)))
            event.accept()
        elif self._room is not None and (keys & Qt.KeyboardModifier.ShiftModifier or event.angleDelta().x()):
            self.pan_time(-(steps or event.angleDelta().x() / 120) * self._room / 8)
            event.accept()
        else:
            super().wheelEvent(event)
