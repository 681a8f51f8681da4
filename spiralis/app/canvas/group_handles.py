"""Handles around several chosen layers: scale them from the opposite corner, turn them about their middle."""

from __future__ import annotations

import math

from attrs import define, field, frozen

from spiralis.app.canvas.handles import TURN_REACH, Drag, Point
from spiralis.app.session import Session
from spiralis.core.editing.arranging import roots, seen_box
from spiralis.core.editing.edits import set_value
from spiralis.core.geometry import Affine, Box, box_around
from spiralis.core.model import Layer
from spiralis.core.render.layers import Evaluated

CORNERS: dict[str, Point] = {"nw": (0, 0), "ne": (1, 0), "se": (1, 1), "sw": (0, 1)}


@frozen
class GroupFrame:
    """The box around several layers, in the composition's pixels, and the map from there to the widget."""

    box: Box
    to_widget: Affine

    def handles(self) -> dict[str, Point]:
        """Return the corners and the turn handle in widget pixels."""
        left, top, right, bottom = self.box
        places = {
            name: self.to_widget.apply(left + x * (right - left), top + y * (bottom - top))
            for name, (x, y) in CORNERS.items()
        }
        middle = self.to_widget.apply((left + right) / 2, top)
        places["turn"] = (middle[0], middle[1] - TURN_REACH)
        return places

    def handle_at(self, point: Point, reach: float = 8.0) -> str | None:
        """Return the handle under a point."""
        near = min(self.handles().items(), key=lambda item: math.dist(item[1], point))
        return near[0] if math.dist(near[1], point) <= reach else None


def group_frame(session: Session, to_widget: Affine) -> GroupFrame | None:
    """Return the frame of the chosen layers, or None where fewer than two of them may move by themselves."""
    if len(session.selected) < 2:
        return None
    at = session.evaluated()
    layers = roots(session.composition, session.selected)
    return GroupFrame(box_around([seen_box(at, layer) for layer in layers]), to_widget) if len(layers) > 1 else None


@define
class GroupDrag(Drag):
    """Scale or turn several layers as one; each keeps its own pivot."""

    handle: str = "se"
    box: Box = (0.0, 0.0, 1.0, 1.0)
    at: Evaluated | None = None
    layers: list[Layer] = field(factory=list)

    @staticmethod
    def begin(session: Session, start: Point, frame: GroupFrame, handle: str) -> GroupDrag:
        """Remember where all of them are."""
        layers = roots(session.composition, session.selected)
        return GroupDrag(session, start, handle=handle, box=frame.box, at=session.evaluated(), layers=layers)

    def move(self, point: Point, shift: bool, control: bool, reach: float) -> None:
        left, top, right, bottom = self.box
        if self.handle == "turn":
            middle = ((left + right) / 2, (top + bottom) / 2)
            angle = _angle(middle, point) - _angle(middle, self.start)
            angle = round(angle / 15) * 15 if shift else round(angle, 1)
            self._apply(middle, 1.0, (angle + 180) % 360 - 180)
            return
        x, y = CORNERS[self.handle]
        fixed = (right if x == 0 else left, bottom if y == 0 else top)
        if control:
            fixed = ((left + right) / 2, (top + bottom) / 2)
        arm = (self.start[0] - fixed[0], self.start[1] - fixed[1])
        length = arm[0] ** 2 + arm[1] ** 2
        if length > 1e-9:
            along = ((point[0] - fixed[0]) * arm[0] + (point[1] - fixed[1]) * arm[1]) / length
            self._apply(fixed, max(along, 0.01), 0.0)

    def _apply(self, centre: Point, by: float, angle: float) -> None:
        """Scale and turn all layers about a point, from where they began."""
        back = Affine.shift(-centre[0], -centre[1])
        whole = Affine.shift(*centre) @ Affine.rotation(angle) @ Affine.scaling(by, by) @ back
        frame = self.session.frame
        before = {layer.id: layer for layer in self.layers}

        def change(layer: Layer) -> Layer:
            at = self.at
            if at is None or layer.id not in before:
                return layer
            values, parent = at.values(before[layer.id]), at.parent_matrix(before[layer.id])
            inverse = parent.inverse()
            if inverse is None:
                return layer
            place = inverse.apply(*whole.apply(*parent.apply(*values["position"])))
            changed = set_value(layer, "position", (round(place[0], 3), round(place[1], 3)), frame)
            if by != 1:
                scale = tuple(round(min(max(s * by, -1e5), 1e5), 3) for s in values["scale"])
                changed = set_value(changed, "scale", scale, frame)
            mirrored = 1.0 if parent.determinant >= 0 else -1.0
            return set_value(changed, "rotation", values["rotation"] + mirrored * angle, frame) if angle else changed

        name = f"Turn {len(before)} layers" if self.handle == "turn" else f"Scale {len(before)} layers"
        self.session.edit_layers(name, change, before, self.merge)


def _angle(centre: Point, point: Point) -> float:
    return math.degrees(math.atan2(point[1] - centre[1], point[0] - centre[0]))
