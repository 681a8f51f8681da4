"""Edits of layers in time: split at a frame, slip what they show, move a span without its keys."""

from __future__ import annotations

from collections.abc import Sequence

from attrs import evolve

from spiralis.core.editing.edits import unused_name
from spiralis.core.model import Composition, Layer, new_id


def split(composition: Composition, ids: Sequence[str], frame: int) -> tuple[Composition, list[str]]:
    """Return the composition with layers cut in two at a frame, and the ids of the later parts.

    Both parts keep all their keys, so nothing changes in sight. The later part lies in front; layers that do not show
    on both sides of the frame stay whole. What hung on a layer hangs on its first part.
    """
    layers: list[Layer] = []
    later: list[str] = []
    taken = {layer.name for layer in composition.layers}
    for layer in composition.layers:
        if layer.id in set(ids) and not layer.locked and layer.first < frame < layer.last:
            name = unused_name(layer.name, taken)
            taken.add(name)
            second = evolve(layer, id=new_id(), name=name, first=frame)
            layers.append(second)
            later.append(second.id)
            layer = evolve(layer, last=frame)
        layers.append(layer)
    return evolve(composition, layers=tuple(layers)), later


def slips(layer: Layer) -> bool:
    """Whether a layer shows something with a time of its own, which can be moved within its span."""
    return layer.has("start")


def slipped(layer: Layer, by: int) -> Layer:
    """Return the layer with what it shows moved in time; its span and keys stay."""
    start = layer.track("start")
    return layer.with_track("start", evolve(start, value=start.value + by))


def span_moved(layer: Layer, by: int) -> Layer:
    """Return the layer with its span moved; keys and what it shows stay where they are in time."""
    return evolve(layer, first=layer.first + by, last=layer.last + by)
