"""The timeline panel: the ruler over the scrolling rows, one time axis for both."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFrame, QLineEdit, QScrollArea, QToolButton, QVBoxLayout, QWidget

from spiralis.app.playback import Player
from spiralis.app.session import Session
from spiralis.app.style import icon
from spiralis.app.timeline.layout import LABELS, RIGHT, Filter, TimeAxis
from spiralis.app.timeline.rows import Rows
from spiralis.app.timeline.ruler import Ruler


class TimelinePanel(QWidget):
    """Ruler and rows."""

    def __init__(self, session: Session, player: Player) -> None:
        super().__init__()
        self.session = session
        self.setObjectName("Panel")
        self.ruler = Ruler(session, player, self.axis)
        self.rows = Rows(session, self.axis)
        self.search = QLineEdit(self.ruler)
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
        self.area = QScrollArea()
        self.area.setWidgetResizable(True)
        self.area.setFrameShape(QFrame.Shape.NoFrame)
        self.area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.area.setWidget(self.rows)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self.ruler)
        layout.addWidget(self.area)
        self.setMinimumSize(392, 150)
        session.selectionChanged.connect(self._reveal)

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

    def axis(self) -> TimeAxis:
        """The time axis as the panel is wide now."""
        return TimeAxis(LABELS, max(self.width() - RIGHT, LABELS + 60), self.session.composition.length)
