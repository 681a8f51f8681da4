"""A layer's effects and finishes as steps: with their numbers at a moment, and the layers and files that they read."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from spiralis.core.geometry import Affine, Box
from spiralis.core.model import Layer, layer_kind
from spiralis.core.render.effecting import Acting, Step, own_angle
from spiralis.core.render.nodes import Item, Node

if TYPE_CHECKING:
    from spiralis.core.render.building import Builder


def steps_of(
    builder: Builder, acting: Sequence[Acting], role: str, matrix: Affine, box: Box, layer: Layer | None = None
) -> list[Step]:
    """Return the effects or the finishes among those that act, for a grid to which ``matrix`` maps the layer's units
    and its content box; it is upright."""
    made, at = [], builder.at
    for kind, values in acting:
        if kind.role == role:
            if layer is not None and not values.get("turns", True):
                values = {**values, "angle": own_angle(at, layer, values["angle"])}
            inputs = {name: node for name in kind.inputs if (node := _read(builder, values[name])) is not None}
            if kind.moments is not None and layer is not None:
                inputs |= builder.earlier(layer, kind.moments(values))
            origin = (round(matrix.e, 6), round(matrix.f, 6))
            found = {name: at.scene.project.source(values[name]) for name in kind.files}
            files = {name: source for name, source in found.items() if source is not None}
            made.append(Step(kind, values, matrix.stretch(), inputs, at.frame, origin, box, files))
    return made


def _read(builder: Builder, layer_id: str) -> Node | None:
    """Return another layer as an effect reads it: as it would be seen, also where it is hidden."""
    layer = builder.piece.find(layer_id)
    if layer is None or not layer.shown_at(builder.at.frame) or layer_kind(layer.kind).beneath is not None:
        return None
    item = Item(builder.whole(layer), 0, builder.at.values(layer)["opacity"] / 100)
    return builder.layered((item,), Affine())
