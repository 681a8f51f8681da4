"""Look sets: effects and finishes with their numbers under one name, for use on any layer."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from attrs import frozen

from spiralis.core.editing.effecting import only_blocks, with_blocks_of
from spiralis.core.errors import ModelError
from spiralis.core.model import Layer
from spiralis.core.model.blocks import EFFECT, Block, effect_kind

LONGEST_NAME = 40


@frozen
class LookSet:
    """Effects and finishes in order; ``carrier`` is a layer that shows nothing and holds them with their numbers."""

    name: str
    carrier: Layer
    help: str = ""

    @property
    def only_effects(self) -> bool:
        """Whether it holds no finish, so that an effect layer can have it."""
        return all(effect_kind(block.kind).role == EFFECT for block in self.carrier.blocks)


def look_of(layer: Layer, name: str) -> LookSet:
    """Return all effects and finishes of a layer as a set; raises ModelError where there are none."""
    name = name.strip()[:LONGEST_NAME]
    if not layer.blocks or not name:
        raise ModelError(f"“{layer.name}” has no effects that could be kept; add some first.")
    held = only_blocks(layer, [block.id for block in layer.blocks])
    # Ties to other layers mean nothing elsewhere.
    return LookSet(name, with_blocks_of(Layer(name, "carrier", 0, 1), held, ()))


def with_look(layer: Layer, look: LookSet) -> Layer:
    """Return the layer with a set's effects and finishes after its own."""
    return with_blocks_of(layer, look.carrier, ())


def look_set(name: str, help: str, *parts: tuple[str, Mapping[str, Any]]) -> LookSet:
    """Return a set made of kinds and numbers, which are checked."""
    made = [(Block(kind), values) for kind, values in parts]
    carrier = Layer(name, "carrier", 0, 1, blocks=tuple(block for block, _ in made))
    values = {block.named(key): value for block, own in made for key, value in own.items()}
    return LookSet(name, carrier.with_values(**values), help)
