"""Pin a layer to a surface in the picture: draw a rectangle over it, or click its four corners."""

from __future__ import annotations

import math

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QKeyEvent, QPainter, QPen, QPolygonF

from spiralis.app.session import Session
from spiralis.app.style import GROUND, MARIGOLD, colour
from spiralis.app.work.steps import Steps
from spiralis.core.editing.corner_pinning import Point, pinned_to
from spiralis.core.errors import ModelError
from spiralis.core.geometry import Affine

HELP = "Pin: draw a rectangle over the surface, or click its four corners; Escape leaves."


class PinTool:
    """Gathers four corners in the composition's pixels, then pins the layer to them in one step."""

    def __init__(self, session: Session, layer_id: str) -> None:
        self.session, self.layer_id = session, layer_id
        self.done = False
        self.corners: list[Point] = []
        #: Where the pointer is: the loupe shows what lies there.
        self.pointer: Point | None = None
        self._pressed: Point | None = None
        self._reach = 1.0
        self.steps = Steps(lambda: tuple(self.corners), self._put)
        session.said.emit(HELP)

    def press(self, point: Point, reach: float, alt: bool) -> None:
        """Begin a rectangle, or put a corner."""
        self._pressed, self._reach, self.pointer = point, reach, point

    def move(self, point: Point, held: bool, alt: bool) -> None:
        """Follow the pointer."""
        self.pointer = point

    def _drawn(self) -> list[Point] | None:
        """Return the corners of the rectangle that is being drawn, or None where it is a click so far."""
        if self._pressed is None or self.pointer is None or self.corners:
            return None
        (x0, y0), (x1, y1) = self._pressed, self.pointer
        if min(abs(x1 - x0), abs(y1 - y0)) < self._reach:
            return None
        return [(x0, y0), (x1, y0), (x1, y1), (x0, y1)]

    def release(self) -> None:
        """Take the rectangle, or the corner that was clicked."""
        drawn, pressed = self._drawn(), self._pressed
        self._pressed = None
        if drawn is not None:
            self._take(drawn)
        elif pressed is not None and self.pointer is not None:
            if all(math.dist(self.pointer, corner) > self._reach / 2 for corner in self.corners):
                self.steps.keep()
                self.corners.append(self.pointer)
            if len(self.corners) == 4:
                self._take(self.corners)

    def double_click(self, point: Point, reach: float) -> None:
        """Nothing: corners are single clicks."""

    def key(self, event: QKeyEvent) -> bool:
        """Take keys; False for those that are not the tool's."""
        if event.key() == Qt.Key.Key_Escape:
            self.done = True
        elif event.key() in (Qt.Key.Key_Backspace, Qt.Key.Key_Delete):
            self.steps.keep()
            self.corners = self.corners[:-1]
        else:
            return False
        return True

    def _put(self, corners: tuple[Point, ...]) -> None:
        self.corners = list(corners)

    def settle(self) -> bool:
        """Whether the layer is still there, and chosen."""
        layer = self.session.composition.find(self.layer_id)
        return layer is not None and not layer.locked and layer.id in self.session.selected

    def _take(self, points: list[Point]) -> None:
        session = self.session
        try:
            at, layer = session.evaluated(), session.composition.layer(self.layer_id)
            pinned = pinned_to(at, layer, points)
        except ModelError as error:
            session.failed.emit(str(error))
            self.corners = []
            return
        self.done = True
        session.edit_layers(f"Pin {layer.name} to four corners", lambda _: pinned, [layer.id])
        behind = session.composition.layers[session.composition.place_of[layer.id] + 1 :]
        if any(at.own_frame(other) is not None for other in behind if other.shown_at(at.frame)):
            session.said.emit("Does the surface move? Motion > Stick to what lies beneath lets the corners go along.")

    def paint(self, painter: QPainter, to_widget: Affine) -> None:
        """Draw the corners so far, and the outline that they will give."""
        drawn = self._drawn()
        points = drawn or [*self.corners, *([self.pointer] if self.pointer is not None and self.corners else [])]
        places = [QPointF(*to_widget.apply(*point)) for point in points]
        painter.setBrush(colour(MARIGOLD, 0.12))
        for tint, width in ((colour(GROUND, 0.7), 3.6), (colour(MARIGOLD), 1.6)):
            painter.setPen(QPen(tint, width))
            if drawn is not None or len(places) > 2:
                painter.drawPolygon(QPolygonF(places))
            else:
                painter.drawPolyline(QPolygonF(places))
            painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setBrush(colour(GROUND))
        painter.setPen(QPen(colour(MARIGOLD), 1.6))
        for corner in drawn or self.corners:
            painter.drawEllipse(QPointF(*to_widget.apply(*corner)), 4.0, 4.0)
