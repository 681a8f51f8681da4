"""Grips of what a layer shows: the line and stops of a gradient, the points of a colour field."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Any

from attrs import define, field, frozen

from spiralis.app.canvas.handles import Drag, Point
from spiralis.app.session import Session
from spiralis.core.colour import Colour
from spiralis.core.editing.edits import set_value
from spiralis.core.geometry import Affine
from spiralis.core.model import Layer


@frozen
class ContentGrip:
    """Something to grab: ``start``, ``end`` or ``centre`` of a ramp, a ``stop`` or a field's ``point`` by its index."""

    kind: str
    index: int
    place: Point
    colour: Colour | None = None


@frozen
class RampLine:
    """A gradient's line in the layer's units: for a conic one from its centre outwards."""

    start: Point
    end: Point


def ramp_line(values: Mapping[str, Any], width: float, height: float) -> RampLine | None:
    """Return the line along which a backdrop's stops lie; None for a flat one."""
    style = values["style"]
    if style == "flat":
        return None
    cx, cy = (size * part / 100 for size, part in zip((width, height), values["centre"], strict=True))
    if style == "radial":
        return RampLine((cx, cy), (cx + float(values["reach"]) / 100 * math.hypot(width, height) / 2, cy))
    angle = math.radians(float(values["angle"]))
    across, down = math.cos(angle), math.sin(angle)
    if style == "conic":
        reach = min(width, height) / 3
        return RampLine((cx, cy), (cx + reach * across, cy + reach * down))
    half = float(values["reach"]) / 200 * (abs(width * across) + abs(height * down))
    return RampLine((cx - half * across, cy - half * down), (cx + half * across, cy + half * down))


def grip_layer(session: Session) -> Layer | None:
    """Return the one chosen, free layer that has grips of its content."""
    if len(session.layers) != 1 or session.layers[0].locked:
        return None
    return session.layers[0] if session.layers[0].kind in ("backdrop", "field") else None


def content_grips(session: Session, to_widget: Affine) -> list[ContentGrip]:
    """Return the chosen layer's grips, stops before the ends that they may lie on."""
    layer = grip_layer(session)
    if layer is None:
        return []
    at = session.evaluated()
    values, matrix = at.values(layer), to_widget @ at.matrix(layer)
    width, height = at.scene.width, at.scene.height
    if layer.kind == "field":
        count = int(min(max(round(values["points"]), 2), 8))
        return [
            ContentGrip("point", n, matrix.apply(*_part(values[f"place_{n}"], width, height)), values[f"colour_{n}"])
            for n in range(1, count + 1)
        ]
    line = ramp_line(values, width, height)
    if line is None:
        return []
    grips = []
    if values["style"] != "conic":
        for index, stop in enumerate(values["stops"]):
            place = matrix.apply(*_between(line, stop[0]))
            grips.append(ContentGrip("stop", index, place, (stop[1], stop[2], stop[3], stop[4])))
    centre = "start" if values["style"] == "linear" else "centre"
    return [*grips, ContentGrip(centre, 0, matrix.apply(*line.start)), ContentGrip("end", 0, matrix.apply(*line.end))]


def _part(percent: Point, width: float, height: float) -> Point:
    return width * percent[0] / 100, height * percent[1] / 100


def _between(line: RampLine, share: float) -> Point:
    return (
        line.start[0] + share * (line.end[0] - line.start[0]), line.start[1] + share * (line.end[1] - line.start[1])
    )  # fmt: skip


def content_grip_at(session: Session, to_widget: Affine, point: Point, reach: float = 8.0) -> ContentGrip | None:
    """Return the grip under a point; ends win over stops at the very end, so that both can be had."""
    near = [grip for grip in content_grips(session, to_widget) if math.dist(grip.place, point) <= reach]
    return min(near, key=lambda grip: (math.dist(grip.place, point) > 3, grip.kind == "stop"), default=None)


@define
class ContentDrag(Drag):
    """Drag a grip."""

    layer: str = ""
    grip: ContentGrip | None = None
    inverse: Affine = field(factory=Affine)

    @staticmethod
    def begin(session: Session, start: Point, grip: ContentGrip) -> ContentDrag:
        """Remember the layer and the way into its units."""
        layer = session.layers[0]
        inverse = session.evaluated().matrix(layer).inverse() or Affine()
        return ContentDrag(session, start, layer=layer.id, grip=grip, inverse=inverse)

    def move(self, point: Point, shift: bool, control: bool, reach: float) -> None:
        layer = self.session.composition.find(self.layer)
        if layer is None or self.grip is None:
            return
        here, frame = self.inverse.apply(*point), self.session.frame
        changes = self._changes(layer, here, shift)

        def change(old: Layer) -> Layer:
            for name, value in changes.items():
                old = set_value(old, name, value, frame)
            return old

        self.session.edit_layers(f"Gradient of {layer.name}", change, [layer.id], self.merge)

    def _changes(self, layer: Layer, here: Point, shift: bool) -> dict[str, object]:
        assert self.grip is not None
        at = self.session.evaluated()
        values, width, height = at.values(layer), at.scene.width, at.scene.height
        percent = (round(100 * here[0] / width, 2), round(100 * here[1] / height, 2))
        if self.grip.kind == "point":
            return {f"place_{self.grip.index}": percent}
        if self.grip.kind == "centre":
            return {"centre": percent}
        line = ramp_line(values, width, height)
        if line is None:
            return {}
        if self.grip.kind == "stop":
            return {"stops": _moved_stop(values["stops"], self.grip.index, _share(line, here))}
        if values["style"] == "radial":
            return {"reach": _within(200 * math.dist(line.start, here) / math.hypot(width, height))}
        ends = (here, line.end) if self.grip.kind == "start" else (line.start, here)
        angle = math.degrees(math.atan2(ends[1][1] - ends[0][1], ends[1][0] - ends[0][0]))
        angle = round(angle / 15) * 15.0 if shift else round(angle, 1)
        if values["style"] == "conic":
            return {"angle": angle}
        turn = math.radians(angle)
        whole = abs(width * math.cos(turn)) + abs(height * math.sin(turn))
        middle = ((ends[0][0] + ends[1][0]) / 2, (ends[0][1] + ends[1][1]) / 2)
        centre = (round(100 * middle[0] / width, 2), round(100 * middle[1] / height, 2))
        return {"angle": angle, "centre": centre, "reach": _within(100 * math.dist(*ends) / whole)}


def _within(reach: float) -> float:
    return round(min(max(reach, 1.0), 1000.0), 2)


def _share(line: RampLine, here: Point) -> float:
    dx, dy = line.end[0] - line.start[0], line.end[1] - line.start[1]
    length = dx * dx + dy * dy
    share = ((here[0] - line.start[0]) * dx + (here[1] - line.start[1]) * dy) / length if length > 0 else 0.0
    return round(min(max(share, 0.0), 1.0), 3)


def _moved_stop(stops: tuple[tuple[float, ...], ...], index: int, share: float) -> tuple[tuple[float, ...], ...]:
    return tuple((share, *stop[1:]) if number == index else stop for number, stop in enumerate(stops))
