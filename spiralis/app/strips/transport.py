"""By the picture: the loop ring, play and steps, preview resolution, zoom, and which panels are open."""

from __future__ import annotations

from PyQt6.QtCore import QSize
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import (
    QButtonGroup,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QSizePolicy,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from spiralis.app.canvas import CanvasView
from spiralis.app.seam.watch import SeamWatch
from spiralis.app.session import Session
from spiralis.app.strips.loop_ring import LoopRing
from spiralis.app.strips.sound_button import SoundButton
from spiralis.app.style import GROUND, icon
from spiralis.app.widgets.view_options import PANEL_KEYS, PANELS
from spiralis.app.work.playback import Player

_SHARES: tuple[tuple[str, float | None, str], ...] = (
    ("Auto", None, "As large as the canvas shows it"),
    ("Full", 1.0, "Every pixel of the piece"),
    ("1/2", 0.5, "Half the width and height"),
    ("1/4", 0.25, "A quarter of the width and height"),
)

_COARSE = "coarser"
#: From this width on, in px, the rows of settings say what they are.
_WITH_LABELS = 420
NARROWEST, HEIGHT = 356, 136


def neighbour_key(session: Session, forwards: bool) -> int | None:
    """Return the frame of the next or previous key of the chosen layers (of all where none is chosen)."""
    layers = session.layers or session.composition.layers
    frames = {key.frame for layer in layers for name in layer.animated() for key in layer.track(name).keys}
    frames = {frame for frame in frames if 0 <= frame < session.composition.length}
    if forwards:
        return min((frame for frame in frames if frame > session.frame), default=None)
    return max((frame for frame in frames if frame < session.frame), default=None)


class Transport(QWidget):
    """Controls of time."""

    def __init__(self, session: Session, player: Player, canvas: CanvasView, seam: SeamWatch) -> None:
        super().__init__()
        self.session, self.player, self.canvas = session, player, canvas
        self.setObjectName("Panel")
        self.setFixedHeight(HEIGHT)
        self.ring = LoopRing(session, player, seam)
        self.play = self._button("play", "Play or stop (Space)", player.toggle)
        self.play.setIcon(icon("play", GROUND))
        self.play.setStyleSheet("background: #f5b23d; border-radius: 6px;")
        self.play.setFixedSize(44, 34)
        self.play.setIconSize(QSize(18, 18))
        player.playingChanged.connect(self._show_playing)
        buttons = QHBoxLayout()
        buttons.setSpacing(4)
        buttons.addWidget(self.play)
        for name, text, action in (
            ("first", "To the first frame (Home)", lambda: session.go_to(session.composition.span[0])),
            ("previous-key", "To the previous key (Ctrl+Left)", lambda: self.to_key(False)),
            ("next-key", "To the next key (Ctrl+Right)", lambda: self.to_key(True)),
            ("last", "To the last frame (End)", lambda: session.go_to(session.composition.span[1] - 1)),
        ):
            buttons.addWidget(self._button(name, text, action))
        self.loop = self._button("loop", "Play round and round, or once", self._toggle_loop)
        self.loop.setCheckable(True)
        self.loop.setChecked(True)
        buttons.addWidget(self.loop)
        self.sound = SoundButton(session, player)
        buttons.addWidget(self.sound)
        buttons.addStretch(1)
        column = QVBoxLayout()
        column.setSpacing(6)
        column.addStretch(1)
        column.addLayout(buttons)
        column.addLayout(self._settings())
        column.addStretch(1)
        row = QHBoxLayout(self)
        row.setContentsMargins(6, 6, 6, 6)
        row.setSpacing(8)
        row.addWidget(self.ring)
        row.addLayout(column, 1)

    def _button(self, name: str, text: str, action) -> QToolButton:  # type: ignore[no-untyped-def]
        button = QToolButton()
        button.setIcon(icon(name))
        button.setAccessibleName(text.split(" (")[0])
        button.setToolTip(text)
        button.setFixedSize(32, 34)
        button.clicked.connect(lambda: action())
        return button

    def _settings(self) -> QGridLayout:
        grid = QGridLayout()
        grid.setVerticalSpacing(5)
        grid.setHorizontalSpacing(6)
        label = QLabel("Preview")
        label.setObjectName("Quiet")
        grid.addWidget(label, 0, 0)
        group = QButtonGroup(self)
        shares = QHBoxLayout()
        shares.setSpacing(3)
        for text, share, help in _SHARES:
            button = QToolButton()
            button.setText(text)
            button.setToolTip(help)
            button.setCheckable(True)
            button.setChecked(share is None)
            button.setSizePolicy(QSizePolicy.Policy.Minimum, QSizePolicy.Policy.Fixed)
            button.clicked.connect(lambda _=False, picked=share: self._set_share(picked))
            group.addButton(button)
            shares.addWidget(button)
        self.coarse = QLabel()
        self.coarse.setObjectName("Quiet")
        self.coarse.setToolTip("Coarser, to play in time: sharp at rest, and as soon as all whole frames are made")
        # Where there is no room for it, nothing gives way.
        self.coarse.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        self.player.pictureChanged.connect(self._show_coarse)
        shares.addSpacing(6)
        shares.addWidget(self.coarse, 1)
        grid.addLayout(shares, 0, 1)
        zoom_label = QLabel("Zoom")
        zoom_label.setObjectName("Quiet")
        grid.addWidget(zoom_label, 1, 0)
        grid.addLayout(self._zooms(), 1, 1)
        self._labels = (label, zoom_label)
        grid.setColumnStretch(1, 1)
        self.canvas.viewport.zoomed.connect(lambda percent: self.percent.setText(f"{percent:.0f} %"))
        return grid

    def _zooms(self) -> QHBoxLayout:
        """Return the row of zoom and of the panels that fold."""
        zooms = QHBoxLayout()
        zooms.setSpacing(3)
        for text, help, action in (
            ("minus", "Zoom out (Ctrl+-)", lambda: self.canvas.viewport.zoom_by(0.8)),
            ("plus", "Zoom in (Ctrl++)", lambda: self.canvas.viewport.zoom_by(1.25)),
        ):
            button = QToolButton()
            button.setIcon(icon(text))
            button.setToolTip(help)
            button.setAccessibleName(help.split(" (")[0])
            button.setFixedWidth(28)
            button.clicked.connect(lambda _=False, run=action: run())
            zooms.addWidget(button)
        self.percent = QToolButton()
        self.percent.setText("100 %")
        self.percent.setFixedWidth(52)
        self.percent.setToolTip("Press to show the whole piece (Ctrl+0)")
        self.percent.clicked.connect(self.canvas.viewport.fit)
        zooms.addWidget(self.percent)
        zooms.addStretch(1)
        for name in ("layers", "pace", "details", "alone"):
            zooms.addWidget(self._switch(name))
        return zooms

    def _switch(self, name: str) -> QToolButton:
        """Return a button that opens or folds a panel."""
        view, label = self.session.view, PANELS[name][0]
        button = QToolButton()
        button.setIcon(icon(f"room-{name}"))
        button.setCheckable(True)
        button.setFixedSize(24, 26)
        button.setProperty("part", "tool")
        button.setAccessibleName(label)
        what = "nothing but picture and time" if name == "alone" else "open or folded"
        button.setToolTip(f"{label}: {what} ({PANEL_KEYS[name]})")

        def press() -> None:
            if view["alone"] and name != "alone":
                # What one asks for is to be seen, so the picture is not alone any more.
                view.put({"alone": False, name: True})
            else:
                view.toggle(name)

        button.clicked.connect(press)

        def show() -> None:
            button.setChecked(view[name] and (name == "alone" or not view["alone"]))

        view.changed.connect(show)
        show()
        return button

    def minimumSizeHint(self) -> QSize:
        """As narrow as the buttons without what names their rows."""
        return QSize(NARROWEST, self.height())

    def resizeEvent(self, event: QResizeEvent) -> None:
        for label in self._labels:
            label.setVisible(self.width() >= _WITH_LABELS)
        super().resizeEvent(event)

    def _show_playing(self, playing: bool) -> None:
        self.play.setIcon(icon("pause" if playing else "play", GROUND))

    def _toggle_loop(self) -> None:
        self.player.set_loop(self.loop.isChecked())

    def _show_coarse(self) -> None:
        label, coarse = self.coarse, self.player.played_at < 1.0
        label.setText(_COARSE if coarse and label.width() >= label.fontMetrics().horizontalAdvance(_COARSE) else "")

    def _set_share(self, share: float | None) -> None:
        self.player.share = share
        self.player.refresh()

    def to_key(self, forwards: bool) -> None:
        """Move the playhead to the next or previous key."""
        frame = neighbour_key(self.session, forwards)
        if frame is not None:
            self.session.go_to(frame)
