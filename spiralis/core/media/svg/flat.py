"""A layered file as one piece of art, where everything in it is vectors."""

from __future__ import annotations

from attrs import evolve

from spiralis.core.media.layered import LayeredFile, LayeredPart
from spiralis.core.model.art import Bundle


def flat_art(layered: LayeredFile) -> Bundle | None:
    """Return all parts as one bundle in document units; None where one of them is a picture."""
    if any(part.kind == "picture" for part in layered.all_parts()) or not layered.parts:
        return None
    return Bundle(_items(layered.parts))


def _items(parts: tuple[LayeredPart, ...]) -> tuple[Bundle, ...]:
    items = []
    for part in reversed(parts):
        if not part.visible:
            continue
        if part.kind == "group":
            items.append(Bundle(_items(part.parts), part.opacity, part.blend))
        elif part.art is not None:
            items.append(Bundle((evolve(part.art, matrix=part.matrix @ part.art.matrix),), part.opacity, part.blend))
    return tuple(items)
