"""Let layers hold their edges to the frame's or to each other's, as they stand."""

from __future__ import annotations

from collections.abc import Iterable

from attrs import evolve

from spiralis.core.editing.reparenting import baked_place, mapped_place
from spiralis.core.geometry import Affine
from spiralis.core.model import Composition, Hold, Layer, Project
from spiralis.core.model.holds import edge_place
from spiralis.core.render.layers import Evaluated, parents_of, place_moves


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

    What did stays where it is; where it moved with what it held to, it goes on moving by a key a frame.
    """
    gone, piece, names = set(ids), at.composition, []
    project = at.scene.project
    for layer in at.composition.layers:
        lost = [hold for hold in layer.holds if hold.layer in gone] if layer.id not in gone else []
        if not lost:
            continue
        names.append(layer.name)
        bare = evolve(layer, holds=tuple(hold for hold in layer.holds if hold not in lost))
        shifts = {_shift(project, piece, layer, bare, frame) for frame in range(piece.length + 1)}
        inverse = at.parent_matrix(layer).inverse()
        rests = len(shifts) == 1 and not any(place_moves(parent) for parent in parents_of(piece, layer))
        if rests and inverse is not None:
            dx, dy = inverse.apply_direction(*shifts.pop())
            moved = mapped_place(bare, Affine.shift(dx, dy))
            if moved is not None:
                piece = piece.with_layer(moved)
                continue
        piece = piece.with_layer(baked_place(project, piece, layer, layer.parent))
    return piece, names


def _shift(project: Project, piece: Composition, layer: Layer, bare: Layer, frame: int) -> tuple[float, float]:
    """Return how far its holds move a layer at a frame, rounded to a millionth of a pixel."""
    held = Evaluated(project, piece, float(frame)).matrix(layer)
    free = Evaluated(project, piece.with_layer(bare), float(frame)).matrix(bare)
    return round(held.e - free.e, 6), round(held.f - free.f, 6)
