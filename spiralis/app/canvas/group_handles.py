"""Handles around several chosen layers: scale, stretch, slant and turn them as one, about a pivot that they share."""

from __future__ import annotations

import math

import numpy as np
from attrs import define, field, frozen

from spiralis.app.canvas.handles import KNOB, TURN_REACH, Drag, Point
from spiralis.app.session import Session
from spiralis.core.editing.arranging import roots, seen_box
from spiralis.core.editing.linking import set_where_own
from spiralis.core.editing.reparenting import decomposed
from spiralis.core.geometry import Affine, Box, box_around
from spiralis.core.model import Layer
from spiralis.core.render.layers import Evaluated, pivot_point

CORNERS: dict[str, Point] = {"nw": (0, 0), "ne": (1, 0), "se": (1, 1), "sw": (0, 1)}
SIDES: dict[str, Point] = {"n": (0.5, 0), "e": (1, 0.5), "s": (0.5, 1), "w": (0, 0.5)}
_STEEPEST = 85.0


@frozen
class GroupFrame:
    """The box around several layers, in the composition's pixels, and the map from there to the widget."""

    box: Box
    to_widget: Affine
    pivot: Point

    def handles(self) -> dict[str, Point]:
        """Return the corners, the sides, ``turn`` and ``pivot`` (its knob) in widget pixels."""
        left, top, right, bottom = self.box
        places = {
            name: self.to_widget.apply(left + x * (right - left), top + y * (bottom - top))
            for name, (x, y) in {**CORNERS, **SIDES}.items()
        }
        places["turn"] = (places["n"][0], places["n"][1] - TURN_REACH)
        x, y = self.pivot_place
        places["pivot"] = (x + KNOB[0], y + KNOB[1])
        return places

    @property
    def pivot_place(self) -> Point:
        """Return where the shared pivot is in widget pixels."""
        return self.to_widget.apply(*self.pivot)

    def handle_at(self, point: Point, reach: float = 8.0) -> str | None:
        """Return the handle under a point; all others win over the pivot."""
        hits = sorted((name == "pivot", math.dist(place, point), name) for name, place in self.handles().items())
        return next((name for _, distance, name in hits if distance <= reach), None)


def group_frame(session: Session, to_widget: Affine) -> GroupFrame | None:
    """Return the frame of the chosen layers, or None where fewer than two of them may move by themselves."""
    if len(session.selected) < 2:
        return None
    at = session.evaluated()
    layers = roots(session.composition, session.selected)
    if len(layers) < 2:
        return None
    left, top, right, bottom = box = box_around([seen_box(at, layer) for layer in layers])
    who, pivot = session.shared_pivot or (frozenset(), (0.0, 0.0))
    if who != frozenset(session.selected):
        pivot = ((left + right) / 2, (top + bottom) / 2)
    return GroupFrame(box, to_widget, pivot)


@define
class GroupDrag(Drag):
    """Scale, stretch, slant or turn several layers as one; each keeps its own pivot."""

    handle: str = "se"
    slants: bool = False
    box: Box = (0.0, 0.0, 1.0, 1.0)
    pivot: Point = (0.0, 0.0)
    at: Evaluated | None = None
    layers: list[Layer] = field(factory=list)

    @staticmethod
    def begin(session: Session, start: Point, frame: GroupFrame, handle: str, slants: bool = False) -> GroupDrag:
        """Remember where all of them are; a side ``slants`` them, or stretches."""
        layers = roots(session.composition, session.selected)
        return GroupDrag(
            session, start, handle=handle, slants=slants, box=frame.box, pivot=frame.pivot, at=session.evaluated(),
            layers=layers,
        )  # fmt: skip

    def move(self, point: Point, shift: bool, control: bool, reach: float) -> None:
        left, top, right, bottom = self.box
        if self.handle == "pivot":
            place = (self.pivot[0] + point[0] - self.start[0], self.pivot[1] + point[1] - self.start[1])
            self.session.share_pivot(place)
            return
        if self.handle in SIDES:
            self._by_side(point, shift)
            return
        if self.handle == "turn":
            middle = self.pivot
            angle = _angle(middle, point) - _angle(middle, self.start)
            angle = round(angle / 15) * 15 if shift else round(angle, 1)
            self._apply(middle, 1.0, (angle + 180) % 360 - 180)
            return
        x, y = CORNERS[self.handle]
        fixed = (right if x == 0 else left, bottom if y == 0 else top)
        if control:
            fixed = self.pivot
        arm = (self.start[0] - fixed[0], self.start[1] - fixed[1])
        length = arm[0] ** 2 + arm[1] ** 2
        if length > 1e-9:
            along = ((point[0] - fixed[0]) * arm[0] + (point[1] - fixed[1]) * arm[1]) / length
            self._apply(fixed, max(along, 0.01), 0.0)

    def _by_side(self, point: Point, shift: bool) -> None:
        """Slant about the pivot, or stretch from the opposite side."""
        axis = 0 if self.handle in ("e", "w") else 1
        (low, high) = (self.box[0], self.box[2]) if axis == 0 else (self.box[1], self.box[3])
        away = point[0] - self.start[0], point[1] - self.start[1]
        grip = low if self.handle in ("n", "w") else high
        if self.slants:
            arm = grip - self.pivot[axis]
            if abs(arm) < 1e-6:
                return
            angle = math.degrees(math.atan(away[1 - axis] / arm))
            angle = round(angle / 5) * 5 if shift else round(angle, 1)
            slope = math.tan(math.radians(min(max(angle, -_STEEPEST), _STEEPEST)))
            self.says = f"{angle:g}°"
            self._map(self.pivot, Affine(1.0, slope, 0.0, 1.0) if axis == 0 else Affine(1.0, 0.0, slope, 1.0), "Slant")
            return
        fixed = high if self.handle in ("n", "w") else low
        by = max((grip + away[axis] - fixed) / (grip - fixed), 0.01) if abs(grip - fixed) > 1e-6 else 1.0
        centre = (fixed, self.pivot[1]) if axis == 0 else (self.pivot[0], fixed)
        self.says = f"{100 * by:.0f} %"
        self._map(centre, Affine.scaling(*((by, 1.0) if axis == 0 else (1.0, by))), "Stretch")

    def _map(self, centre: Point, by: Affine, what: str) -> None:
        """Map all layers about a point, from where they began: what is not even or turned comes out slanted."""
        whole = Affine.shift(*centre) @ by @ Affine.shift(-centre[0], -centre[1])
        frame, before = self.session.frame, {layer.id: layer for layer in self.layers}

        def change(layer: Layer) -> Layer:
            at = self.at
            inverse = at.parent_matrix(before[layer.id]).inverse() if at is not None and layer.id in before else None
            if at is None or inverse is None:
                return layer
            values = at.values(before[layer.id])
            own = inverse @ whole @ at.matrix(before[layer.id])
            scale, turn, skew = decomposed(own)
            x, y = own.apply(*pivot_point(values, at.box(before[layer.id])))
            # As many whole turns as before.
            turn = values["rotation"] + (turn - values["rotation"] + 180) % 360 - 180
            placed = {"position": (round(x, 3), round(y, 3)), "scale": scale, "rotation": round(turn, 4), "skew": skew}
            for name, value in placed.items():
                if not np.allclose(value, values[name], atol=1e-4):
                    layer = set_where_own(at.composition, layer, name, value, frame)
            return layer

        self.session.edit_layers(f"{what} {len(before)} layers", change, before, self.merge)

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
            piece = at.composition
            changed = set_where_own(piece, layer, "position", (round(place[0], 3), round(place[1], 3)), frame)
            if by != 1:
                scale = tuple(round(min(max(s * by, -1e5), 1e5), 3) for s in values["scale"])
                changed = set_where_own(piece, changed, "scale", scale, frame)
            mirrored = 1.0 if parent.determinant >= 0 else -1.0
            turned = values["rotation"] + mirrored * angle
            return set_where_own(piece, changed, "rotation", turned, frame) if angle else changed

        name = f"Turn {len(before)} layers" if self.handle == "turn" else f"Scale {len(before)} layers"
        self.session.edit_layers(name, change, before, self.merge)


def _angle(centre: Point, point: Point) -> float:
    return math.degrees(math.atan2(point[1] - centre[1], point[0] - centre[0]))
