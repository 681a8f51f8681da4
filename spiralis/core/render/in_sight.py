"""Which layers of a composition are seen at a moment: what is there, not kept from sight, and in a group or in none."""

from __future__ import annotations

from collections.abc import Sequence

from spiralis.core.model import Composition, Layer
from spiralis.core.model.alone import shown_alone


def all_seen(piece: Composition, frame: float, heeds_solo: bool = True) -> list[Layer]:
    """Return the layers that are seen at a frame, those in groups too, back to front."""
    alone, hidden = shown_alone(piece) if heeds_solo else None, piece.kept_from_sight
    return [layer for layer in _there(piece.layers, frame, alone) if layer.id not in hidden]


def seen_in(piece: Composition, frame: float, group: str | None) -> list[Layer]:
    """Return the layers that are seen at a frame in a group, or in none, back to front.

    A group that somebody shows has its layers, also where all of it is kept from sight otherwise.
    """
    if group is None:
        return [layer for layer in all_seen(piece, frame) if layer.id not in piece.group_of]
    there = _there(piece.members(group), frame, shown_alone(piece))
    return [layer for layer in there if not piece.is_kept_within(layer.id, group)]


def _there(layers: Sequence[Layer], frame: float, alone: frozenset[str] | None) -> list[Layer]:
    """Return those of some layers that are there at a frame, back to front."""
    there = (layer for layer in reversed(layers) if layer.shown_at(frame))
    return [layer for layer in there if alone is None or layer.id in alone]
