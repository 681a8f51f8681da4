"""Short ways to write layers and keys down in code."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from spiralis.core.animation.ease_tiles import EASE_TILES
from spiralis.core.animation.easing import Easing
from spiralis.core.colour import parse_hex
from spiralis.core.model import Composition, Extend, Key, Layer, Rule, Track
from spiralis.core.model.blocks import Block

_TILES = {tile.name: tile.easing for tile in EASE_TILES}


def ease(text: str) -> Easing:
    """Return the easing of a tile's name or of CSS text."""
    return _TILES[text] if text in _TILES else Easing.from_css(text)


def keys(*marks: Sequence[Any], after: Rule = Rule.ONCE) -> Track:
    """Return a track from (frame, value[, ease to the next[, handle in, handle out]]) marks."""
    made = []
    for mark in marks:
        easing = ease(mark[2]) if len(mark) > 2 else ease("soft-both")
        handles = mark[3:5] if len(mark) > 3 else (None, None)
        made.append(Key(mark[0], mark[1], easing, *handles))
    return Track(made[0].value, tuple(made), after=Extend(after))


def layer(kind: str, name: str, last: int, **properties: Any) -> Layer:
    """Return a layer over frames 0..last; properties are values or tracks. Its id comes from its name."""
    made = Layer(name, kind, 0, last, id=name.lower().replace(" ", "-"))
    for key, value in properties.items():
        made = made.with_track(key, value) if isinstance(value, Track) else made.with_values(**{key: value})
    return made


def effect(to: Layer, kind: str, **properties: Any) -> Layer:
    """Return a layer with one more effect or finish; properties are values or tracks of its numbers."""
    block = Block(kind, kind)
    made = to.with_block(block)
    for key, value in properties.items():
        name = block.named(key)
        made = made.with_track(name, value) if isinstance(value, Track) else made.with_values(**{name: value})
    return made


def backdrop(composition: Composition, name: str, **properties: Any) -> Layer:
    """Return a backdrop that covers the composition."""
    centre = (composition.width / 2, composition.height / 2)
    return layer("backdrop", name, composition.length, position=centre, **properties)


def rounded(name: str, last: int, size: tuple[float, float], corners: float, fill: str, **properties: Any) -> Layer:
    """Return a rectangle with round corners in a colour given as hex."""
    return layer("shape", name, last, form="rectangle", size=size, corners=corners, fill=parse_hex(fill), **properties)


def stops(*marks: tuple[float, str]) -> tuple[tuple[float, ...], ...]:
    """Return gradient stops from (offset, hex) marks."""
    return tuple((place, *parse_hex(colour)) for place, colour in marks)
