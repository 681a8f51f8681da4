"""Edits of a layer's effects and finishes: add, reorder, duplicate, carry to other layers."""

from __future__ import annotations

from collections.abc import Container, Iterable

from attrs import evolve

from spiralis.core.model import Composition, Layer
from spiralis.core.model.blocks import Block, effect_kind
from spiralis.core.model.references import Repointing, repointed


def with_effect(layer: Layer, kind: str) -> Layer:
    """Return the layer with one more effect or finish, after the others; raises UnknownName."""
    return layer.with_block(Block(kind))


def moved_block(layer: Layer, block_id: str, by: int) -> Layer:
    """Return the layer with a block so many places later among those of its role; at either end it stays."""
    block = next(b for b in layer.blocks if b.id == block_id)
    peers = [b.id for b in layer.blocks_of(effect_kind(block.kind).role)]
    index = peers.index(block_id)
    target = min(max(index + by, 0), len(peers) - 1)
    peers.insert(target, peers.pop(index))
    order = iter(peers)
    return layer.with_blocks_ordered([next(order) if b.id in peers else b.id for b in layer.blocks])


def reset_block(layer: Layer, block_id: str) -> Layer:
    """Return the layer with a block's numbers as they begin, keys and ties gone; its switch stays."""
    block = next(b for b in layer.blocks if b.id == block_id)
    switch = block.named("on")
    kept = {n: t for n, t in layer.properties.items() if n == switch or n.partition(".")[0] != block_id}
    return evolve(layer, properties=kept)


def renamed_block(layer: Layer, block_id: str, name: str) -> Layer:
    """Return the layer with a block called otherwise; an empty name gives it its kind's label again."""
    blocks = tuple(evolve(b, name=name.strip()[:60]) if b.id == block_id else b for b in layer.blocks)
    return evolve(layer, blocks=blocks)


def without_blocks_of(composition: Composition, ids: Iterable[str], role: str) -> Composition:
    """Return the composition where layers have no effects, or no finishes."""
    for layer_id in ids:
        layer = composition.layer(layer_id)
        for block in layer.blocks_of(role):
            layer = layer.without_block(block.id)
        composition = composition.with_layer(layer)
    return composition


def only_blocks(layer: Layer, ids: Iterable[str]) -> Layer:
    """Return a carrier with nothing but some of a layer's blocks and their numbers, as the clipboard holds them."""
    chosen = set(ids)
    blocks = tuple(block for block in layer.blocks if block.id in chosen)
    kept = {name: track for name, track in layer.properties.items() if name.partition(".")[0] in chosen}
    return Layer(layer.name, "carrier", layer.first, layer.last, blocks=blocks, properties=kept)


def with_blocks_of(layer: Layer, source: Layer, known: Container[str]) -> Layer:
    """Return the layer with copies of another one's blocks after its own; ties to layers that are not known are cut."""
    held = repointed(source, Repointing(known=known))
    for old in held.blocks:
        block = Block(old.kind, name=old.name)
        layer = layer.with_block(block)
        for name, track in held.properties.items():
            own, _, part = name.partition(".")
            if part and own == old.id:
                layer = layer.with_track(block.named(part), track)
    return layer


def matching_name(source: Layer, name: str, target: Layer) -> str | None:
    """Return the target's property that stands for the source's: blocks are matched by their kind and order."""
    own, _, part = name.partition(".")
    if not part:
        return name if target.has(name) else None
    block = next((b for b in source.blocks if b.id == own), None)
    if block is None:
        return None
    place = [b.id for b in source.blocks if b.kind == block.kind].index(own)
    alike = [b for b in target.blocks if b.kind == block.kind]
    return alike[place].named(part) if place < len(alike) else None
