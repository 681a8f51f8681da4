"""Hang a layer on a carrier of its own, so that it can move in one more way without its keys being touched."""

from __future__ import annotations

from attrs import evolve

from spiralis.core.editing.edits import unused_name
from spiralis.core.editing.reparenting import with_parent
from spiralis.core.model import Composition, Layer, Project
from spiralis.core.render.layers import Evaluated


def on_carrier(project: Project, piece: Composition, layer_id: str, frame: int) -> tuple[Composition, str]:
    """Return the composition where a layer hangs on a new carrier, nothing having moved in sight, and the carrier's id.

    The carrier stands where the layer is at a frame, is as large as it is, and hangs on what the layer hung on.

    Raises:
        ModelError: the layer cannot hang on another without moving.
    """
    layer = piece.layer(layer_id)
    at = Evaluated(project, piece, frame)
    left, top, right, bottom = at.matrix(layer).box(at.box(layer))
    name = unused_name(f"Carrier of {layer.name}", {y.name for y in piece.layers})
    carrier = Layer(name, "carrier", layer.first, layer.last).with_values(
        position=((left + right) / 2, (top + bottom) / 2), size=(max(right - left, 1.0), max(bottom - top, 1.0))
    )
    place = piece.layers.index(layer)
    grown = evolve(piece, layers=(*piece.layers[:place], carrier, *piece.layers[place:]))
    if layer.parent is not None:
        carrier = with_parent(Evaluated(project, grown, frame), carrier, layer.parent)
        grown = grown.with_layer(carrier)
    at = Evaluated(project, grown, frame)
    return grown.with_layer(with_parent(at, grown.layer(layer_id), carrier.id)), carrier.id
