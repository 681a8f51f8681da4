"""Handles around the chosen layer, and what dragging each of them does. Pure but for the session's edits."""

from __future__ import annotations

import math
from itertools import count

import numpy as np
from attrs import define, field, frozen

from spiralis.app.canvas.sight import NOWHERE, axes_moved, edge_on, in_space, moved_by, sight, slopes_of
from spiralis.app.canvas.snapping import Line, Mark, snap_box, snap_pivot, snap_point
from spiralis.app.canvas.surroundings import lines_around, other_boxes
from spiralis.app.session import Session
from spiralis.core.editing.edge_pinning import held_ways, moved_off
from spiralis.core.editing.edits import set_value, shifted
from spiralis.core.editing.linking import check_own, set_seen_value, settable
from spiralis.core.geometry import Affine, Box, Map, box_around, point_in
from spiralis.core.model import EdgePin, Layer
from spiralis.core.render.extent import own_box, shown_box
from spiralis.core.render.layers import pivot_point
from spiralis.core.render.space import pivot_shift

Point = tuple[float, float]
_drag_numbers = count(1)

#: Handle names and where they sit on the box, in parts of it.
SCALE_HANDLES: dict[str, Point] = {
    "nw": (0, 0), "n": (0.5, 0), "ne": (1, 0), "e": (1, 0.5), "se": (1, 1), "s": (0.5, 1), "sw": (0, 1), "w": (0, 0.5),
}  # fmt: skip
TURN_REACH = 26.0
#: The knob that moves the pivot stands aside of it: in the middle of a layer people grab the layer itself.
KNOB = (17.0, 17.0)


@frozen
class Frame:
    """The chosen layer on the canvas: its content box and the map from its units to the widget's pixels."""

    layer: Layer
    box: Box
    to_widget: Map
    pivot: Point

    def place(self, share: Point) -> Point:
        """Return the point at a part of the box, in the layer's units."""
        return point_in(self.box, (100 * share[0], 100 * share[1]))

    def at(self, share: Point) -> Point:
        """Return the widget point at a part of the box."""
        return self.to_widget.apply(*self.place(share))

    def handles(self) -> dict[str, Point]:
        """Return all handles by name in widget pixels: eight to scale, ``turn`` and ``pivot`` (its knob)."""
        places = {name: self.at(share) for name, share in SCALE_HANDLES.items()}
        middle, top = self.at((0.5, 0.5)), places["n"]
        reach = math.dist(middle, top)
        k = 1 + TURN_REACH / reach if reach > 1 else 1.0
        places["turn"] = (middle[0] + (top[0] - middle[0]) * k, middle[1] + (top[1] - middle[1]) * k)
        x, y = self.pivot_place
        places["pivot"] = (x + KNOB[0], y + KNOB[1])
        return places

    @property
    def pivot_place(self) -> Point:
        """Return where the pivot itself is in widget pixels."""
        return self.to_widget.apply(*self.pivot)

    def handle_at(self, point: Point, reach: float = 8.0) -> str | None:
        """Return the handle under a point; the turn and scale handles win over the pivot."""
        near = [(math.dist(place, point), name) for name, place in self.handles().items()]
        hits = sorted((name == "pivot", distance, name) for distance, name in near if distance <= reach)
        return hits[0][2] if hits else None


def frame_of(session: Session, to_widget: Affine) -> Frame | None:
    """Return the frame of the one chosen layer, or None where none or several are, or it is nowhere, as a dial is."""
    if len(session.layers) != 1 or session.layers[0].placeless:
        return None
    layer = session.layers[0]
    at = session.evaluated()
    box = own_box(at, layer)
    map_ = sight(session, layer)
    if map_ is NOWHERE or edge_on(session, layer) is not None:
        # Its handles would lie on each other; it can be moved all the same.
        return None
    return Frame(layer, box, to_widget @ map_, pivot_point(at.values(layer), at.box(layer)))


@define
class Drag:
    """Base of drags: ``move`` is called with the pointer in composition pixels."""

    session: Session
    start: Point
    merge: str = field(factory=lambda: f"drag-{next(_drag_numbers)}")
    guides: list[Mark] = field(factory=list)
    #: What is said beside the pointer: a size, a percentage.
    says: str = ""

    def move(self, point: Point, shift: bool, control: bool, reach: float) -> None:
        """Follow the pointer. Shift constrains, Control switches snapping off; ``reach`` is the snap distance."""
        raise NotImplementedError

    def pass_by(self, point: Point) -> None:
        """Take note that the pointer went by here, where the way it takes matters; the picture follows later."""


@define
class MoveDrag(Drag):
    """Move the chosen layers."""

    positions: dict[str, Point] = field(factory=dict)
    parents: dict[str, Affine] = field(factory=dict)
    #: What pinned them, and which ways it did: those they are moved by their gaps.
    pins: dict[str, tuple[tuple[EdgePin, ...], frozenset[int]]] = field(factory=dict)
    #: How deep those that stand in space were.
    spaces: dict[str, float] = field(factory=dict)
    around: Box | None = None
    #: How those that stand in space are seen to move, as they were when the drag began.
    changes: dict[str, np.ndarray] = field(factory=dict)
    lines: list[Line] = field(factory=list)
    others: list[Box] = field(factory=list)

    @staticmethod
    def begin(session: Session, start: Point) -> MoveDrag:
        """Remember where all chosen layers are."""
        at = session.evaluated()
        drag = MoveDrag(session, start)
        chosen = set(session.selected)
        boxes = []
        apart = [layer for layer in session.layers if not layer.locked and layer.parent not in chosen]
        # Others follow something else, which moves them.
        for layer in settable(session.composition, apart, "position"):
            drag.positions[layer.id] = at.values(layer)["position"]
            drag.parents[layer.id] = at.parent_matrix(layer)
            drag.pins[layer.id] = layer.edge_pins, held_ways(at, layer)
            if in_space(session, layer):
                drag.spaces[layer.id] = at.values(layer)["position_z"]
            boxes.append(sight(session, layer).box(shown_box(at, layer)))
        if boxes:
            drag.around = box_around(boxes)
            drag.others = other_boxes(session, chosen)
            drag.lines = lines_around(session, drag.others)
        return drag

    def move(self, point: Point, shift: bool, control: bool, reach: float) -> None:
        dx, dy = point[0] - self.start[0], point[1] - self.start[1]
        if shift:
            dx, dy = (dx, 0.0) if abs(dx) >= abs(dy) else (0.0, dy)
        self.guides = []
        if not control and self.around is not None and self.session.view["snap"]:
            left, top, right, bottom = self.around
            moved = (left + dx, top + dy, right + dx, bottom + dy)
            grid = self.session.composition.grid if self.session.view["grid"] else 0.0
            (sx, sy), self.guides = snap_box(moved, self.lines, reach, grid, self.others)
            dx, dy = dx + sx, dy + sy
        self.shift_by(dx, dy)

    def shift_by(self, dx: float, dy: float) -> None:
        """Put the layers this far from where they began, in composition pixels."""
        frame = self.session.frame

        def moved(layer: Layer) -> Layer:
            if layer.id not in self.positions:
                return layer
            old = self.positions[layer.id]
            if layer.id in self.spaces:
                return self._moved_in_space(layer, old, dx, dy)
            pins, held = self.pins[layer.id]
            layer = moved_off(layer, pins, held, (dx, dy)) if held else layer
            if len(held) == 2:
                return layer
            inverse = self.parents[layer.id].inverse() or Affine()
            x, y = inverse.apply_direction(0.0 if 0 in held else dx, 0.0 if 1 in held else dy)
            place = (round(old[0] + x, 3), round(old[1] + y, 3))
            return set_seen_value(self.session.composition, layer, "position", place, frame)

        names = [layer.name for layer in self.session.layers]
        what = names[0] if len(names) == 1 else f"{len(names)} layers"
        self.session.edit_layers(f"Move {what}", moved, merge=self.merge)

    def _moved_in_space(self, layer: Layer, old: Point, dx: float, dy: float) -> Layer:
        change = self.changes.setdefault(layer.id, slopes_of(self.session, layer))
        x, y, z = moved_by(change, axes_moved(self.session), dx, dy)
        frame, piece = self.session.frame, self.session.composition
        if z and layer.track("depth").value:
            layer = set_seen_value(piece, layer, "position_z", round(self.spaces[layer.id] + z, 3), frame)
        return set_seen_value(piece, layer, "position", (round(old[0] + x, 3), round(old[1] + y, 3)), frame)


@define
class FrameDrag(Drag):
    """Base of drags of something at one layer's frame, which snaps to what lies around."""

    frame: Frame | None = None
    lines: list[Line] = field(factory=list)

    def snapped(self, point: Point, control: bool, reach: float) -> Point:
        """Return a point moved onto what it snaps to, if it is to snap."""
        self.guides = []
        if not control and self.session.view["snap"]:
            point, self.guides = snap_point(point, self.lines, reach)
        return point


def lines_beside(session: Session, layer: Layer) -> list[Line]:
    """Return the lines that something of a layer snaps to."""
    return lines_around(session, other_boxes(session, {layer.id}))


@define
class ScaleDrag(FrameDrag):
    """Scale the chosen layer about its pivot by one of the eight handles."""

    handle: str = "se"
    scale: Point = (100.0, 100.0)
    matrix: Map = field(factory=Affine)

    @staticmethod
    def begin(session: Session, start: Point, frame: Frame, handle: str) -> ScaleDrag:
        """Remember the scale and the matrix."""
        at = session.evaluated()
        scale = at.values(frame.layer)["scale"]
        return ScaleDrag(
            session, start, frame=frame, lines=lines_beside(session, frame.layer), handle=handle, scale=scale,
            matrix=sight(session, frame.layer),
        )  # fmt: skip

    def move(self, point: Point, shift: bool, control: bool, reach: float) -> None:
        frame, inverse = self.frame, self.matrix.inverse()
        if frame is None or inverse is None:
            return
        point = self.snapped(point, control, reach)
        share = SCALE_HANDLES[self.handle]
        box, pivot, grip = frame.box, frame.pivot, frame.place(share)
        here = inverse.apply(*point)
        factors = []
        for axis in (0, 1):
            arm = grip[axis] - pivot[axis]
            fixed = share[axis] == 0.5 or abs(arm) < 1e-6
            factors.append(1.0 if fixed else (here[axis] - pivot[axis]) / arm)
        if len(self.handle) == 2 and frame.layer.linked_scale != shift:
            arm2 = (grip[0] - pivot[0], grip[1] - pivot[1])
            length = arm2[0] ** 2 + arm2[1] ** 2
            if length > 1e-9:
                along = ((here[0] - pivot[0]) * arm2[0] + (here[1] - pivot[1]) * arm2[1]) / length
                factors = [along, along]
        scale = tuple(round(min(max(s * f, -1e5), 1e5), 2) for s, f in zip(self.scale, factors, strict=True))
        width, height = (side * abs(s) / 100 for side, s in zip((box[2] - box[0], box[3] - box[1]), scale, strict=True))
        self.says = f"{width:.0f} × {height:.0f} px"
        self.session.set_property("scale", scale, [frame.layer.id], self.merge)


@define
class TurnDrag(Drag):
    """Turn the chosen layer about its pivot; Shift goes in steps of 15 degrees."""

    layer: str = ""
    centre: Point = (0.0, 0.0)
    rotation: float = 0.0
    mirrored: float = 1.0
    turned: float = 0.0
    last: float = 0.0

    @staticmethod
    def begin(session: Session, start: Point, frame: Frame) -> TurnDrag:
        """Remember the turn and where the pivot stands."""
        at = session.evaluated()
        centre = sight(session, frame.layer).apply(*frame.pivot)
        drag = TurnDrag(session, start, layer=frame.layer.id, centre=centre)
        drag.rotation = at.values(frame.layer)["rotation"]
        drag.mirrored = 1.0 if at.parent_matrix(frame.layer).determinant >= 0 else -1.0
        drag.last = math.atan2(start[1] - centre[1], start[0] - centre[0])
        return drag

    def pass_by(self, point: Point) -> None:
        """Add up small steps, so that several turns can be made in one drag."""
        angle = math.atan2(point[1] - self.centre[1], point[0] - self.centre[0])
        self.turned += (angle - self.last + math.pi) % (2 * math.pi) - math.pi
        self.last = angle

    def move(self, point: Point, shift: bool, control: bool, reach: float) -> None:
        self.pass_by(point)
        rotation = self.rotation + self.mirrored * math.degrees(self.turned)
        rotation = round(rotation / 15) * 15 if shift else round(rotation, 1)
        self.says = f"{rotation:g}°"
        self.session.set_property("rotation", float(rotation), [self.layer], self.merge)


@define
class PivotDrag(FrameDrag):
    """Move the pivot; the picture stays where it is."""

    aside: Point = (0.0, 0.0)

    @staticmethod
    def begin(session: Session, start: Point, frame: Frame) -> PivotDrag:
        """Remember how far from the pivot it was grabbed."""
        pivot = sight(session, frame.layer).apply(*frame.pivot)
        aside = (start[0] - pivot[0], start[1] - pivot[1])
        return PivotDrag(session, start, frame=frame, lines=lines_beside(session, frame.layer), aside=aside)

    def move(self, point: Point, shift: bool, control: bool, reach: float) -> None:
        if self.frame is None:
            return
        point = self.snapped((point[0] - self.aside[0], point[1] - self.aside[1]), control, reach)
        layer = self.session.composition.layer(self.frame.layer.id)
        map_ = sight(self.session, layer)
        inverse = map_.inverse()
        box = self.session.evaluated().box(layer)
        width, height = box[2] - box[0], box[3] - box[1]
        if inverse is None or width <= 0 or height <= 0:
            return
        x, y = inverse.apply(*point)
        percent = (100 * (x - box[0]) / width, 100 * (y - box[1]) / height)
        if not control:
            stretch = map_.stretch() if isinstance(map_, Affine) else (1.0, 1.0)
            near = tuple(100 * reach / max(s * side, 1e-6) for s, side in zip(stretch, (width, height), strict=True))
            percent = snap_pivot(percent, (near[0], near[1]))
        rounded = (round(percent[0], 2), round(percent[1], 2))
        self.session.edit_layers(
            f"Pivot of {layer.name}", lambda old: with_pivot(self.session, old, rounded), [layer.id], self.merge
        )


def with_pivot(session: Session, layer: Layer, percent: Point) -> Layer:
    """Return the layer with another pivot and its position (all keys of it) moved so that nothing shifts.

    Raises:
        ModelError: the position follows something else, which would put the pivot there.
    """
    at = session.evaluated()
    check_own(at.composition, layer, "position")
    values, box = at.values(layer), at.box(layer)
    new = (box[0] + (box[2] - box[0]) * percent[0] / 100, box[1] + (box[3] - box[1]) * percent[1] / 100)
    parent = at.parent_matrix(layer).inverse() or Affine()
    place = (parent @ at.matrix(layer)).apply(*new)
    old = values["position"]
    if values["depth"]:
        before = pivot_point(values, box)
        x, y, z = pivot_shift(values, new[0] - before[0], new[1] - before[1])
        layer = layer.with_track("position_z", layer.track("position_z").mapped(lambda depth: depth + z))
        moved = shifted(layer, x, y)
    else:
        moved = shifted(layer, place[0] - old[0], place[1] - old[1])
    return set_value(moved, "pivot", percent, session.frame)


@define
class SkewDrag(Drag):
    """Slant the chosen layer: the grabbed side follows the pointer along itself."""

    frame: Frame | None = None
    axis: int = 0
    skew: Point = (0.0, 0.0)

    @staticmethod
    def begin(session: Session, start: Point, frame: Frame, handle: str) -> SkewDrag:
        """Remember the slant; top and bottom slant the uprights, left and right the levels."""
        skew = session.evaluated().values(frame.layer)["skew"]
        return SkewDrag(session, start, frame=frame, axis=0 if handle in ("n", "s") else 1, skew=skew)

    def move(self, point: Point, shift: bool, control: bool, reach: float) -> None:
        at = self.session.evaluated()
        layer = self.session.composition.layer(self.frame.layer.id) if self.frame is not None else None
        inverse = at.parent_matrix(layer).inverse() if layer is not None else None
        if layer is None or inverse is None:
            return
        values = at.values(layer)
        place = values["position"]
        # Where the pointer began and is now, seen from the pivot in the layer's turned axes.
        turned = Affine.rotation(-values["rotation"])
        before, now = (turned.apply_direction(*_minus(inverse.apply(*p), place)) for p in (self.start, point))
        arm = before[1 - self.axis]
        if abs(arm) < 1e-6:
            return
        slope = math.tan(math.radians(self.skew[self.axis])) + (now[self.axis] - before[self.axis]) / arm
        angle = min(max(math.degrees(math.atan(slope)), -85.0), 85.0)
        angle = round(angle / 5) * 5.0 if shift else round(angle, 1)
        skew = (angle, self.skew[1]) if self.axis == 0 else (self.skew[0], angle)
        self.session.set_property("skew", skew, [layer.id], self.merge)


def _minus(a: Point, b: Point) -> Point:
    return a[0] - b[0], a[1] - b[1]
