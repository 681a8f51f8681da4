"""The loupe: what lies under a corner that is being placed, much larger than on the canvas."""

from __future__ import annotations

from typing import Any

import numpy as np
from PyQt6.QtCore import QObject, QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QImage, QPainter, QPainterPath, QPen

from spiralis.app.canvas.content_grips import ContentDrag
from spiralis.app.canvas.hand import Hand
from spiralis.app.canvas.pin_tool import PinTool
from spiralis.app.canvas.toolbox import Toolbox
from spiralis.app.session import Session
from spiralis.app.style import GROUND, MARIGOLD, SURROUND, colour
from spiralis.app.widgets.images import as_image
from spiralis.app.work.background import Background
from spiralis.core.geometry import Affine
from spiralis.core.render.frame import render_region8

Point = tuple[float, float]
#: Radius on the canvas and distance from the pointer, in px; widget pixels a pixel of the composition.
RADIUS, _AWAY, MAGNIFIED = 58, 26, 6
_HALF = RADIUS // MAGNIFIED + 2


def loupe_place(toolbox: Toolbox, hand: Hand) -> Point | None:
    """Return the place in the composition that is to be seen through the loupe, or None."""
    if isinstance(toolbox.tool, PinTool):
        return toolbox.tool.pointer
    return hand.drag.here if isinstance(hand.drag, ContentDrag) and hand.drag.of_effect else None


class Loupe(QObject):
    """Draws a part of the frame in full size beside the pointer; ``came`` tells that another picture of it is there."""

    came = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self._background = Background(self)
        self._shown: tuple[Point, QImage, np.ndarray] | None = None
        self._asked: object = None
        self._wanted: Point | None = None

    def paint(self, painter: QPainter, to_widget: Affine, place: Point | None, room: QRectF) -> None:
        """Draw it beside a place of the composition, within the room; nothing where there is no place."""
        self._wanted = place
        if place is None:
            self._shown = None
            return
        self._ask()
        pointer = QPointF(*to_widget.apply(*place))
        middle = self.middle(pointer, room)
        disc = QPainterPath()
        disc.addEllipse(middle, RADIUS, RADIUS)
        painter.save()
        painter.fillPath(disc, colour(SURROUND))
        painter.setClipPath(disc)
        if self._shown is not None:
            (x, y), image, _ = self._shown
            # Pixels are shown as they are, so that an edge can be met exactly.
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, False)
            left, top = (round(x) - _HALF - place[0]) * MAGNIFIED, (round(y) - _HALF - place[1]) * MAGNIFIED
            size = 2 * _HALF * MAGNIFIED
            painter.drawImage(QRectF(middle.x() + left, middle.y() + top, size, size), image)
        for tint, width in ((colour(GROUND, 0.6), 3.0), (colour(MARIGOLD), 1.0)):
            painter.setPen(QPen(tint, width))
            for dx, dy in ((1, 0), (-1, 0), (0, 1), (0, -1)):
                painter.drawLine(middle + QPointF(5 * dx, 5 * dy), middle + QPointF(RADIUS * dx, RADIUS * dy))
        painter.restore()
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(colour(MARIGOLD), 1.6))
        painter.drawEllipse(middle, RADIUS, RADIUS)

    @staticmethod
    def middle(pointer: QPointF, room: QRectF) -> QPointF:
        """Return where it lies: above and to the right of the pointer, on another side near the room's edges."""
        far = RADIUS + _AWAY
        x = pointer.x() + far if pointer.x() + far + RADIUS < room.right() else pointer.x() - far
        y = pointer.y() - far if pointer.y() - far - RADIUS > room.top() else pointer.y() + far
        return QPointF(x, y)

    def _ask(self) -> None:
        session, place = self.session, self._wanted
        if place is None or self._background.busy:
            return
        asked = (session.version, session.composition_id, session.frame, round(place[0]), round(place[1]))
        if asked == self._asked:
            return
        self._asked = asked
        project, piece, frame = session.project, session.composition_id, session.frame
        x, y = round(place[0]), round(place[1])
        region = (x - _HALF, y - _HALF, x + _HALF, y + _HALF)
        self._background.run(
            lambda: render_region8(project, piece, frame, 1.0, region), lambda pixels: self._take(place, pixels)
        )

    def _take(self, place: Point, pixels: Any) -> None:
        if isinstance(pixels, np.ndarray):
            self._shown = (place, as_image(pixels, premultiplied=True), pixels)
        self.came.emit()
