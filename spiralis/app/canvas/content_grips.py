"""Grips of what a layer shows, as its kind declares them: a gradient's line and stops, a colour field's points."""

from __future__ import annotations

import math

from attrs import define, evolve, field

from spiralis.app.canvas.handles import Drag, Point
from spiralis.app.session import Session
from spiralis.core.editing.edits import set_value
from spiralis.core.geometry import Affine
from spiralis.core.model import Layer, layer_kind
from spiralis.core.model.adding import Grip


def grip_layer(session: Session) -> Layer | None:
    """Return the one chosen, free layer that has grips of its content."""
    if len(session.layers) != 1 or session.layers[0].locked:
        return None
    return session.layers[0] if layer_kind(session.layers[0].kind).grips is not None else None


def content_grips(session: Session, to_widget: Affine) -> list[Grip]:
    """Return the chosen layer's grips, in widget pixels."""
    layer = grip_layer(session)
    grips = layer_kind(layer.kind).grips if layer is not None else None
    if layer is None or grips is None:
        return []
    at = session.evaluated()
    matrix = to_widget @ at.matrix(layer)
    found = grips.of(at.values(layer), at.scene.width, at.scene.height)
    return [evolve(grip, place=matrix.apply(*grip.place)) for grip in found]


def content_grip_at(session: Session, to_widget: Affine, point: Point, reach: float = 8.0) -> Grip | None:
    """Return the grip under a point; ends win over stops at the very end, so that both can be had."""
    near = [grip for grip in content_grips(session, to_widget) if math.dist(grip.place, point) <= reach]
    return min(near, key=lambda grip: (math.dist(grip.place, point) > 3, grip.what == "stop"), default=None)


@define
class ContentDrag(Drag):
    """Drag a grip."""

    layer: str = ""
    grip: Grip | None = None
    inverse: Affine = field(factory=Affine)

    @staticmethod
    def begin(session: Session, start: Point, grip: Grip) -> ContentDrag:
        """Remember the layer and the way into its units."""
        layer = session.layers[0]
        inverse = session.evaluated().matrix(layer).inverse() or Affine()
        return ContentDrag(session, start, layer=layer.id, grip=grip, inverse=inverse)

    def move(self, point: Point, shift: bool, control: bool, reach: float) -> None:
        """Put the grip to a point."""
        layer = self.session.composition.find(self.layer)
        grips = layer_kind(layer.kind).grips if layer is not None else None
        if layer is None or self.grip is None or grips is None:
            return
        at, frame = self.session.evaluated(), self.session.frame
        size = (at.scene.width, at.scene.height)
        changes = grips.moved(at.values(layer), *size, self.grip, self.inverse.apply(*point), shift)

        def change(old: Layer) -> Layer:
            for name, value in changes.items():
                old = set_value(old, name, value, frame)
            return old

        self.session.edit_layers(f"Gradient of {layer.name}", change, [layer.id], self.merge)
