"""The buttons over the canvas that say where it looks from, where a piece has depth; and the cameras it shows."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QEvent, QObject, QPointF, Qt
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QButtonGroup, QHBoxLayout, QToolButton, QWidget

from spiralis.app.session import Session
from spiralis.app.style import LINE, MARIGOLD, MINT, RAISED, TEXT, colour
from spiralis.app.work.paced import Paced
from spiralis.core.editing.viewpoints import VIEWS
from spiralis.core.geometry import Affine
from spiralis.core.model import layer_kind
from spiralis.core.render.space import camera_of

NAMES = {"camera": "Camera", "front": "Front", "top": "Top", "side": "Side", "free": "Free"}
_HELP = {
    "camera": "Through the camera, as it is written out", "front": "From the front, without perspective",
    "top": "From above: what is far away is up", "side": "From the right side: what is far away is right",
    "free": "From anywhere: drag the pad beside it",
}  # fmt: skip
#: Degrees for each pixel of the pad, and for each press of an arrow.
_TURN, _STEP = 0.7, 5.0


class OrbitPad(QWidget):
    """Turns the free view: drag it, or use the arrows."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        Paced(self)
        self.session = session
        self.setFixedSize(30, 26)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.SizeAllCursor)
        self.setAccessibleName("Turn the free view")
        self.setToolTip("Drag to go around; arrows turn by 5°")
        self._from: QPointF | None = None
        session.viewpoint.changed.connect(self.update)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._from = event.globalPosition()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._from is not None:
            way = event.globalPosition() - self._from
            self._from = event.globalPosition()
            self.session.viewpoint.orbit(-way.y() * _TURN, way.x() * _TURN)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._from = None

    def keyPressEvent(self, event: QKeyEvent) -> None:
        ways = {Qt.Key.Key_Left: (0, -1), Qt.Key.Key_Right: (0, 1), Qt.Key.Key_Up: (1, 0), Qt.Key.Key_Down: (-1, 0)}
        way = ways.get(Qt.Key(event.key()))
        if way is None:
            super().keyPressEvent(event)
        else:
            self.session.viewpoint.orbit(way[0] * _STEP, way[1] * _STEP)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(colour(MARIGOLD if self.hasFocus() else LINE), 2 if self.hasFocus() else 1))
        painter.setBrush(colour(RAISED))
        painter.drawRoundedRect(self.rect().adjusted(1, 1, -1, -1), 5, 5)
        painter.setPen(QPen(colour(TEXT), 1.4))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(QPointF(15, 13), 8, 8)
        painter.drawEllipse(QPointF(15, 13), 8, 3)


class ViewpointBar(QWidget):
    """Lies in the canvas' upper right corner while its piece has anything in depth."""

    def __init__(self, session: Session, canvas: QWidget) -> None:
        super().__init__(canvas)
        self.session = session
        self.setObjectName("Panel")
        row = QHBoxLayout(self)
        row.setContentsMargins(3, 3, 3, 3)
        row.setSpacing(2)
        self.buttons: dict[str, QToolButton] = {}
        group = QButtonGroup(self)
        for name in VIEWS:
            button = QToolButton()
            button.setText(NAMES[name])
            button.setCheckable(True)
            button.setMinimumHeight(26)
            button.setToolTip(_HELP[name])
            button.setAccessibleName(f"Look from: {NAMES[name]}")
            button.clicked.connect(lambda _=False, name=name: session.viewpoint.look_from(name))
            group.addButton(button)
            row.addWidget(button)
            self.buttons[name] = button
        self.pad = OrbitPad(session)
        row.addWidget(self.pad)
        self.two = QToolButton()
        self.two.setText("Two")
        self.two.setCheckable(True)
        self.two.setMinimumHeight(26)
        self.two.setToolTip("A second view in the corner; a click in it lets both change places")
        self.two.setAccessibleName("Second view")
        row.addWidget(self.two)
        canvas.installEventFilter(self)
        for signal in (session.projectChanged, session.compositionChanged, session.viewpoint.changed):
            signal.connect(self.refresh)
        session.compositionChanged.connect(lambda: session.viewpoint.look_from("camera"))
        self.refresh()

    def refresh(self) -> None:
        """Show where the canvas looks from, or nothing for a flat piece."""
        deep, name = self.session.composition.has_depth, self.session.viewpoint.name
        self.buttons[name].setChecked(True)
        self.pad.setVisible(name == "free")
        self.setVisible(deep)
        self.adjustSize()
        self.move(max(self.parentWidget().width() - self.width() - 16, 4), 8)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if event is not None and event.type() == QEvent.Type.Resize:
            self.refresh()
        return super().eventFilter(watched, event)


def draw_cameras(painter: QPainter, session: Session, to_widget: Affine) -> None:
    """Draw the frame and what each camera sees of the plane that it shows 1:1, where one looks from elsewhere."""
    if session.viewpoint.name == "camera" or not session.composition.has_depth:
        return
    piece, at = session.composition, session.evaluated()
    matrix = camera_of(session.looked_at()).matrix

    def place(point: np.ndarray) -> QPointF | None:
        x, y, w = matrix @ (*point, 1.0)
        return QPointF(*to_widget.apply(x / w, y / w)) if w > 1e-6 else None

    def line(first: np.ndarray, second: np.ndarray) -> None:
        ends = place(first), place(second)
        if ends[0] is not None and ends[1] is not None:
            painter.drawLine(*ends)

    w, h = piece.width, piece.height
    corners = [np.array([x, y, 0.0]) for x, y in ((0, 0), (w, 0), (w, h), (0, h))]
    painter.setPen(QPen(colour(LINE), 1.4, Qt.PenStyle.DashLine))
    for index in range(4):
        line(corners[index], corners[(index + 1) % 4])
    camera = camera_of(at)
    chosen = any(layer_kind(layer.kind).sees for layer in session.layers)
    painter.setPen(QPen(colour(MARIGOLD if chosen else MINT), 1.4))
    sides = ((-w, -h), (w, -h), (w, h), (-w, h))
    seen = [camera.place + camera.turn @ (x / 2, y / 2, camera.reach) for x, y in sides]
    for index in range(4):
        line(camera.place, seen[index])
        line(seen[index], seen[(index + 1) % 4])
