"""Let layers pin their edges to the frame's or to each other's, as they stand."""

from __future__ import annotations

from collections.abc import Container, Iterable, Sequence

from attrs import evolve

from spiralis.core.editing.reparenting import baked_place, mapped_place
from spiralis.core.errors import ModelError
from spiralis.core.geometry import Affine
from spiralis.core.model import Composition, EdgePin, Layer, Project
from spiralis.core.render.layers import Evaluated, parents_of, place_moves


def pin_as_it_stands(at: Evaluated, layer: Layer, edge: str, to: str, other: str = "") -> EdgePin:
    """Return the pin that leaves the layer where it is, and on a line puts it there; ``other`` is a layer's id, or
    empty for the frame.

    Raises:
        UnknownName: no such layer.
        ModelError: the two edges are not both across or both down, or there is no outline to go along.
    """
    pin = EdgePin(edge, to, other)
    there = at.pinned_to(pin)
    if there is None:
        raise ModelError(f"“{at.composition.layer(other).name}” has no outline that something could go along.")
    return pin if pin.on_line else evolve(pin, gap=round(at.own_place(layer, at.matrix(layer), pin) - there, 3))


def with_edge_pin(layer: Layer, pin: EdgePin) -> Layer:
    """Return the layer with a pin, in place of the one it had on that axis."""
    return evolve(layer, edge_pins=(*(h for h in layer.edge_pins if h.axis != pin.axis), pin))


def held_ways(at: Evaluated, layer: Layer) -> frozenset[int]:
    """Return which ways a layer is pinned, 0 across and 1 down; what is gone pins nothing."""
    return frozenset(pin.axis for pin in layer.edge_pins if at.pinned_to(pin) is not None)


def moved_off(layer: Layer, pins: Sequence[EdgePin], ways: Container[int], by: tuple[float, float]) -> Layer:
    """Return the layer so far, in px of the composition, from where its ``pins`` hold it some ``ways``: their gaps are
    as much larger."""
    moved = (evolve(p, gap=round(p.gap + by[p.axis], 3)) if p.axis in ways else p for p in pins)
    return evolve(layer, edge_pins=tuple(moved))


def with_pins_along(layer: Layer, along: float) -> Layer:
    """Return the layer with all that pins it to lines so many % of their length further on."""
    return evolve(layer, edge_pins=tuple(evolve(h, along=along) if h.on_line else h for h in layer.edge_pins))


def without_edge_pin(at: Evaluated, layer: Layer, pin: EdgePin) -> Layer:
    """Return the layer without a pin, left where it stands where its position has no keys."""
    freed = evolve(layer, edge_pins=tuple(h for h in layer.edge_pins if h != pin))
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
        lost = [pin for pin in layer.edge_pins if pin.layer in gone] if layer.id not in gone else []
        if not lost:
            continue
        names.append(layer.name)
        bare = evolve(layer, edge_pins=tuple(pin for pin in layer.edge_pins if pin not in lost))
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
