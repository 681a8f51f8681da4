"""The timeline panel: the ruler over the scrolling rows, one time axis for both."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFrame, QScrollArea, QVBoxLayout, QWidget

from spiralis.app.playback import Player
from spiralis.app.session import Session
from spiralis.app.timeline.layout import LABELS, RIGHT, TimeAxis
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
        self.scroll = QScrollArea()
        self.scroll.setWidgetResizable(True)
        self.scroll.setFrameShape(QFrame.Shape.NoFrame)
        self.scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.scroll.setWidget(self.rows)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self.ruler)
        layout.addWidget(self.scroll)
        self.setMinimumSize(420, 150)

    def axis(self) -> TimeAxis:
        """The time axis as the panel is wide now."""
        return TimeAxis(LABELS, max(self.width() - RIGHT, LABELS + 60), self.session.composition.length)
