"""What a lock holds: no edit changes a locked layer, nor one in a locked group."""

from __future__ import annotations

from attrs import evolve

from spiralis.core.errors import ModelError
from spiralis.core.model import Composition, Layer, Project


def locked_in(piece: Composition) -> frozenset[str]:
    """Return the ids of the layers that are locked, by themselves or with a group that they are in."""
    locked = {layer.id for layer in piece.layers if layer.locked}
    if not locked:
        return frozenset()
    inside = {i for i in piece.group_of if any(group in locked for group in piece.groups_around(i))}
    return frozenset(locked | inside)


def _bare(layer: Layer) -> Layer:
    """Return the layer without the marks that say how it is worked with, which a lock leaves free."""
    return evolve(layer, locked=False, solo=False, folded=False, tint="", reference=False)


def with_locked_kept(old: Project, new: Project) -> Project:
    """Return the new project with every layer that is locked in the old one as it was, but for its marks.

    Raises:
        ModelError: a locked layer, or one that it is tied to, is gone, naming it.
    """
    for before in old.compositions:
        after = new.find(before.id)
        if after is None or after is before:
            continue
        locked = locked_in(before)
        kept = after
        for layer_id in locked:
            was, now = before.layer(layer_id), after.find(layer_id)
            if now is None:
                raise ModelError(f"“{was.name}” is locked; unlock it first.")
            if now is was or _bare(now) == _bare(was):
                continue
            lost = next((t.target for t in was.ties if t.target in before.by_id and t.target not in after.by_id), None)
            if lost is not None:
                raise ModelError(f"“{was.name}” is locked and tied to “{before.layer(lost).name}”; unlock it first.")
            marks = {name: getattr(now, name) for name in ("locked", "solo", "folded", "tint", "reference")}
            kept = kept.with_layer(evolve(was, **marks))
        if kept is not after:
            new = new.with_composition(before if kept == before else kept)
    return old if new == old else new
