"""Another picture in a layer's place: as large as the one before, and what hangs on it where it was."""

from __future__ import annotations

from attrs import evolve

from spiralis.core.editing.placed_by import Pair, with_lengths, with_place, with_size
from spiralis.core.editing.posing import poses_mapped
from spiralis.core.model import Composition, Layer, Source, layer_kind

Size = tuple[float, float]


def size_of(source: Source | None) -> Size:
    """Return the width and height of a source in px, 0 where there is none."""
    return (float(source.width), float(source.height)) if source is not None else (0.0, 0.0)


def fitting(old: Size, new: Size, how: str) -> float:
    """Return by how much to scale content of another size so that it fits into (``fit``) or fills (``fill``) the old
    one; 1 where it is to keep its own (``keep``) or one of them has none. What is the same picture ``anew`` fits if it
    has the same proportions; else more or less of it is on it.
    """
    if how == "keep" or min(*old, *new) <= 0:
        return 1.0
    shares = (old[0] / new[0], old[1] / new[1])
    if how == "anew" and abs(shares[0] / shares[1] - 1) > 2 / min(*old, *new):
        return 1.0
    return max(shares) if how == "fill" else min(shares)


def with_content_sized(
    piece: Composition, layer: Layer, old: Size, new: Size, by: Pair, corner: Size = (0.0, 0.0)
) -> Composition:
    """Return the piece with a layer whose content was of one size, in px of its own, and is of another, its scale times
    ``by``: lengths of its effects and what hangs on it are seen as large, and about its pivot where they were. The old
    content began at a ``corner``, the new one begins at zero."""
    back = (1 / by[0], 1 / by[1])
    piece = piece.with_layer(layer)
    if min(*old, *new) <= 0 or (old == new and by == (1.0, 1.0) and corner == (0.0, 0.0)):
        return piece
    pivot = [share / 100 for share in layer.track("pivot").value]
    shift = tuple(
        at * (after - before * part) - first * part
        for at, before, after, part, first in zip(pivot, old, new, back, corner, strict=True)
    )

    def placed(other: Layer) -> Layer:
        if other.id == layer.id:
            sized = _scaled(with_lengths(other, back) if by != (1.0, 1.0) else other, by)
            # It is no larger than it was, so its slots have the room that they had.
            slots = (evolve(s, scale=(s.scale[0] * by[0], s.scale[1] * by[1])) for s in other.slots)
            return evolve(sized, slots=tuple(slots))
        return _scaled(with_place(other, back, (shift[0], shift[1])), back) if other.parent == layer.id else other

    return evolve(piece, layers=tuple(map(placed, piece.layers)), poses=poses_mapped(piece, placed))


def _scaled(layer: Layer, by: Pair) -> Layer:
    # How far it stays from the frame's edges is no length of its own.
    return evolve(with_size(layer, "scale", by), edge_pins=layer.edge_pins) if by != (1.0, 1.0) else layer


def of_kind(layer: Layer, kind: str) -> Layer:
    """Return the layer as one of another kind ("": as it is); what that does not know goes."""
    if layer.kind == kind or not kind:
        return layer
    known = {parameter.name for parameter in layer_kind(kind).parameters}
    blocks = tuple(f"{block.id}." for block in layer.blocks)
    kept = {n: t for n, t in layer.properties.items() if n in known or n.startswith(blocks)}
    return evolve(layer, kind=kind, properties=kept)
