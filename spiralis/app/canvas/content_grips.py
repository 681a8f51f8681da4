"""Grips of what a layer shows, as its kind and its effects declare them: a gradient's line, a centre."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Any

from attrs import define, evolve, field

from spiralis.app.canvas.effect_grips import effect_grips, is_effects
from spiralis.app.canvas.handles import Drag, Point
from spiralis.app.canvas.sight import sight
from spiralis.app.session import Session
from spiralis.core.editing.edits import set_value
from spiralis.core.geometry import Affine, percent_in
from spiralis.core.model import Layer, layer_kind
from spiralis.core.model.adding import Grip


def grip_layer(session: Session) -> Layer | None:
    """Return the one chosen, free layer that has grips of its content."""
    if len(session.layers) != 1 or session.layers[0].locked:
        return None
    layer = session.layers[0]
    return layer if layer_kind(layer.kind).grips is not None or layer.blocks else None


def content_grips(session: Session, to_widget: Affine) -> list[Grip]:
    """Return the chosen layer's grips, in widget pixels."""
    layer = grip_layer(session)
    if layer is None:
        return []
    at, grips = session.evaluated(), layer_kind(layer.kind).grips
    matrix = to_widget @ sight(session, layer)
    found = grips.of(at.values(layer), at.scene.width, at.scene.height) if grips is not None else []
    found = [*found, *effect_grips(at, layer)]
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
    #: Where it was dragged to, in the composition's pixels.
    here: Point = (0.0, 0.0)

    @property
    def of_effect(self) -> bool:
        """Whether it drags a place that an effect has."""
        return self.grip is not None and is_effects(self.grip)

    @staticmethod
    def begin(session: Session, start: Point, grip: Grip) -> ContentDrag:
        """Remember the layer and the way into its units."""
        layer = session.layers[0]
        inverse = sight(session, layer).inverse() or Affine()
        return ContentDrag(session, start, layer=layer.id, grip=grip, inverse=inverse, here=start)

    def move(self, point: Point, shift: bool, control: bool, reach: float) -> None:
        """Put the grip to a point."""
        layer = self.session.composition.find(self.layer)
        if layer is None or self.grip is None:
            return
        at, frame, grips = self.session.evaluated(), self.session.frame, layer_kind(layer.kind).grips
        self.here, here = point, self.inverse.apply(*point)
        name = f"{grips.name if grips is not None else ''} of {layer.name}"
        if is_effects(self.grip):
            changes: Mapping[str, Any] = {self.grip.what: percent_in(at.box(layer), here, 2)}
            name = layer.parameter(self.grip.what).full_label
        elif grips is not None:
            changes = grips.moved(at.values(layer), at.scene.width, at.scene.height, self.grip, here, shift)
        else:
            return

        def change(old: Layer) -> Layer:
            for changed, value in changes.items():
                old = set_value(old, changed, value, frame)
            return old

        self.session.edit_layers(name, change, [layer.id], self.merge)
