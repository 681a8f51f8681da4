"""Handles of a layer in depth: farther and nearer, tipping about its level, swinging about its upright."""

from __future__ import annotations

import math
from collections.abc import Mapping

from attrs import define, field
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QPainter, QPen

from spiralis.app.canvas.handles import Drag, Frame, Point
from spiralis.app.session import Session
from spiralis.app.style import GROUND, MINT, TEXT, colour, font
from spiralis.core.geometry import Affine
from spiralis.core.model import Layer, layer_kind

#: How far the handles stand off the layer, and the one for depth off its pivot, in widget pixels.
_OFF, _AWAY = 30.0, (-38.0, -38.0)
#: Degrees and px for each widget pixel that a handle is dragged.
_TURN, _DEEPER = 0.5, 2.0
#: So near to another layer's depth, in px, one means the same.
_SNAP = 14.0
_SAYS = {"deep": "z", "tip": "x", "swing": "y"}


def space_handles(frame: Frame) -> Mapping[str, Point]:
    """Return the handles' places in widget pixels; none for a layer that does not stand in depth by itself."""
    if not frame.layer.track("depth").value or frame.layer.locked:
        return {}
    middle = frame.at((0.5, 0.5))
    places = {"deep": (frame.pivot_place[0] + _AWAY[0], frame.pivot_place[1] + _AWAY[1])}
    for name, share in (("tip", (0.5, 1.0)), ("swing", (1.0, 0.5))):
        side = frame.at(share)
        reach = math.dist(middle, side)
        way = (side[0] - middle[0], side[1] - middle[1]) if reach > 1 else (share[0] - 0.5, share[1] - 0.5)
        long = max(math.hypot(*way), 1e-6)
        places[name] = (side[0] + way[0] / long * _OFF, side[1] + way[1] / long * _OFF)
    return places


def space_handle_at(frame: Frame, point: Point, reach: float = 9.0) -> str | None:
    """Return the handle under a point."""
    near = [(math.dist(place, point), name) for name, place in space_handles(frame).items()]
    return min((pair for pair in near if pair[0] <= reach), default=(0.0, None))[1]


@define
class SpaceDrag(Drag):
    """Change one number of where a layer stands in depth; Shift keeps to steps of 15° or 50 px.

    Depth snaps to that of other layers beside it, and to the frame's plane; Control switches that off.
    """

    layer: str = ""
    name: str = ""
    before: float = 0.0
    to_widget: float = 1.0
    #: How deep others stand, with their names.
    depths: dict[float, str] = field(factory=dict)

    @staticmethod
    def begin(session: Session, start: Point, frame: Frame, handle: str, to_widget: Affine) -> SpaceDrag:
        """Remember the number that the handle is for."""
        name = {"deep": "position_z", "tip": "turn_x", "swing": "turn_y"}[handle]
        values = session.evaluated().values(frame.layer)
        return SpaceDrag(session, start, layer=frame.layer.id, name=name, before=values[name],
                         to_widget=max(to_widget.stretch()), depths=_depths_beside(session, frame.layer))  # fmt: skip

    def move(self, point: Point, shift: bool, control: bool, reach: float) -> None:
        dx, dy = ((now - then) * self.to_widget for now, then in zip(point, self.start, strict=True))
        if self.name == "position_z":
            # Up is farther away, as it looks.
            value, step, unit = self.before - dy * _DEEPER, 50.0, " px"
        else:
            # The side that is grabbed comes nearer as it is drawn inwards.
            value, step, unit = self.before + (dx if self.name == "turn_y" else -dy) * -_TURN, 15.0, "°"
        value = round(value / step) * step if shift else round(value, 1)
        beside = ""
        if self.name == "position_z" and not control and self.session.view["snap"]:
            nearest = min(self.depths, key=lambda z: abs(z - value))
            if abs(nearest - value) <= _SNAP:
                value, beside = nearest, f", as {self.depths[nearest]}"
        self.says = f"{self.name.replace('_', ' ')}: {value:g}{unit}{beside}"
        self.session.set_property(self.name, float(value), [self.layer], self.merge)


def _depths_beside(session: Session, layer: Layer) -> dict[float, str]:
    """Return how deep the layers stand that hang on the same, with their names; the frame's plane among them."""
    at, found = session.evaluated(), {0.0: "the frame"}
    for other in reversed(session.composition.layers):
        beside = other.id != layer.id and other.parent == layer.parent and not layer_kind(other.kind).unseen
        if beside and other.track("depth").value:
            found[float(at.values(other)["position_z"])] = other.name
    return found


def draw_space_handles(painter: QPainter, frame: Frame) -> None:
    """Draw the handles, each with the axis that it is for."""
    places = space_handles(frame)
    ends = {"deep": frame.pivot_place, "tip": frame.at((0.5, 1.0)), "swing": frame.at((1.0, 0.5))}
    painter.setFont(font(11, 700))
    for name, place in places.items():
        painter.setPen(QPen(colour(MINT), 1.4, Qt.PenStyle.DotLine))
        painter.drawLine(QPointF(*ends[name]), QPointF(*place))
        painter.setPen(QPen(colour(MINT), 1.6))
        painter.setBrush(colour(GROUND))
        painter.drawEllipse(QPointF(*place), 8.0, 8.0)
        painter.setPen(colour(TEXT))
        painter.drawText(QPointF(place[0] - 3.2, place[1] + 4.0), _SAYS[name])
