"""Copies of layers within their composition, of compositions, and fresh ids for both."""

from __future__ import annotations

from collections.abc import Iterable

from attrs import evolve

from spiralis.core.editing.edits import unused_name
from spiralis.core.editing.removing import with_all_in
from spiralis.core.model import Composition, Layer, new_id
from spiralis.core.model.references import Repointing, dependents, repointed, repointed_poses


def with_their_own(piece: Composition, ids: Iterable[str]) -> set[str]:
    """Return the ids with all in the groups among them, and with masks that hang on them and cut nothing else."""
    found = with_all_in(piece, ids)
    for layer_id in tuple(found):
        for matte in piece.layer(layer_id).mattes:
            mask = piece.find(matte.layer)
            own = mask is not None and not matte.shown and mask.parent in found
            if mask is not None and own and all(tie.owner in found for tie in dependents(piece, [mask.id])):
                found.add(mask.id)
    return found


def duplicated(piece: Composition, ids: Iterable[str]) -> tuple[Composition, list[str]]:
    """Return the composition with a copy above each of these layers, and the copies' ids.

    Ties among the layers lead to the copies, ties to others stay. A group is copied with all in it, above itself.
    """
    asked = list(ids)
    chosen = with_their_own(piece, asked)
    fresh = {layer_id: new_id() for layer_id in chosen}
    to = Repointing(layers=fresh)
    taken = {layer.name for layer in piece.layers}
    copies: dict[str, list[Layer]] = {}
    heads: dict[str, str] = {}
    for layer in piece.layers:
        if layer.id not in chosen:
            continue
        head = heads.setdefault(_unit(piece, layer.id, chosen), layer.id)
        name = unused_name(layer.name, taken)
        taken.add(name)
        copies.setdefault(head, []).append(evolve(repointed(layer, to), name=name))
    layers = [y for layer in piece.layers for y in (*copies.get(layer.id, ()), layer)]
    return evolve(piece, layers=tuple(layers)), [fresh[layer_id] for layer_id in asked]


def _unit(piece: Composition, layer_id: str, chosen: set[str]) -> str:
    """Return the outermost chosen group that a layer is in, or the layer itself."""
    return next((group for group in reversed(piece.groups_around(layer_id)) if group in chosen), layer_id)


def with_fresh_ids(piece: Composition) -> tuple[Composition, dict[str, str]]:
    """Return the composition with new ids for its layers, everything tied to them followed, and the ids by the old."""
    ids = {layer.id: new_id() for layer in piece.layers}
    to = Repointing(layers=ids)
    layers = tuple(repointed(layer, to) for layer in piece.layers)
    # A copy with layers of its own follows no other piece.
    return evolve(piece, layers=layers, poses=repointed_poses(piece.poses, to), follows=None), ids
