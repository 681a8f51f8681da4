"""Which layers of a composition are seen at a moment: what is there, not kept from sight, and in a group or in none."""

from __future__ import annotations

from collections.abc import Sequence

from spiralis.core.model import Composition, Layer


def all_seen(piece: Composition, frame: float, heeds_solo: bool = True) -> list[Layer]:
    """Return the layers that are seen at a frame, those in groups too, back to front."""
    alone, hidden = _alone(piece) if heeds_solo else None, piece.kept_from_sight
    return [layer for layer in _there(piece.layers, frame, alone) if layer.id not in hidden]


def seen_in(piece: Composition, frame: float, group: str | None) -> list[Layer]:
    """Return the layers that are seen at a frame in a group, or in none, back to front.

    A group that somebody shows has its layers, also where all of it is kept from sight otherwise.
    """
    if group is None:
        return [layer for layer in all_seen(piece, frame) if layer.id not in piece.group_of]
    there = _there(piece.members(group), frame, _alone(piece))
    return [layer for layer in there if not piece.is_kept_within(layer.id, group)]


def _there(layers: Sequence[Layer], frame: float, alone: frozenset[str] | None) -> list[Layer]:
    """Return those of some layers that are there at a frame, back to front."""
    there = (layer for layer in reversed(layers) if layer.shown_at(frame))
    return [layer for layer in there if alone is None or layer.id in alone]


def _alone(piece: Composition) -> frozenset[str] | None:
    """Return the ids of what is shown alone, with the groups it is in and all in it; None where nothing is."""
    solo = [layer for layer in piece.layers if layer.solo]
    if not solo:
        return None
    found = {layer.id for layer in solo}
    for layer in solo:
        if layer.gathers:
            found.update(below.id for below in piece.descendants(layer.id))
        found.update(piece.groups_around(layer.id))
        # What is only shown as copies is there for them.
        lent = [tie.target for tie in layer.ties if tie.whole and tie.target in piece.kept_from_sight]
        found.update(each for root in lent for each in (root, *(y.id for y in piece.descendants(root))))
    return frozenset(found)
