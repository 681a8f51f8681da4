"""Let layers hold their edges to the frame's or to each other's, as they stand."""

from __future__ import annotations

from collections.abc import Iterable

from attrs import evolve

from spiralis.core.model import Composition, Hold, Layer
from spiralis.core.model.holds import edge_place
from spiralis.core.render.layers import Evaluated


def hold_as_it_stands(at: Evaluated, layer: Layer, edge: str, to: str, other: str = "") -> Hold:
    """Return the hold that leaves the layer where it is; ``other`` is a layer's id, or empty for the frame.

    Raises:
        UnknownName: no such layer.
        ModelError: the two edges are not both across or both down.
    """
    hold = Hold(edge, to, other)
    own = at.matrix(layer).box(at.box(layer))
    return evolve(hold, gap=round(edge_place(own, edge) - at.held_to(hold), 3))


def with_hold(layer: Layer, hold: Hold) -> Layer:
    """Return the layer with a hold, in place of the one it had on that axis."""
    return evolve(layer, holds=(*(h for h in layer.holds if h.axis != hold.axis), hold))


def without_hold(at: Evaluated, layer: Layer, hold: Hold) -> Layer:
    """Return the layer without a hold, left where it stands where its position has no keys."""
    freed = evolve(layer, holds=tuple(h for h in layer.holds if h != hold))
    track = layer.track("position")
    if track.animated or layer.parent:
        return freed
    held, free = at.matrix(layer), Evaluated(at.scene.project, at.composition.with_layer(freed), at.frame).matrix(freed)
    x, y = track.value
    return freed.with_values(position=(x + held.e - free.e, y + held.f - free.f))


def let_go_of(at: Evaluated, ids: Iterable[str]) -> tuple[Composition, list[str]]:
    """Return the composition where nothing holds to these layers any more, and the names of what did.

    What did stays where it stands at this frame.
    """
    gone, piece, names = set(ids), at.composition, []
    for layer in at.composition.layers:
        for hold in layer.holds if layer.id not in gone else ():
            if hold.layer in gone:
                now = Evaluated(at.scene.project, piece, at.frame)
                piece = piece.with_layer(without_hold(now, piece.layer(layer.id), hold))
                names.append(layer.name)
    return piece, names
