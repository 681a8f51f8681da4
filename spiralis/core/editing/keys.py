"""Edits of chosen keys over several layers and threads. Pure functions on compositions; locked layers keep theirs."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable

from attrs import evolve, frozen

from spiralis.core.model import Composition


@frozen
class KeyRef:
    """A key by its place: layer, property, frame."""

    layer: str
    name: str
    frame: int


def by_thread(keys: Iterable[KeyRef]) -> dict[tuple[str, str], set[int]]:
    """Return the frames of the keys, by (layer, property)."""
    grouped: dict[tuple[str, str], set[int]] = defaultdict(set)
    for ref in keys:
        grouped[ref.layer, ref.name].add(ref.frame)
    return grouped


def keys_moved(
    composition: Composition, keys: frozenset[KeyRef], by: int, copying: bool
) -> tuple[Composition, set[KeyRef]]:
    """Return the composition with the keys moved (or copied) by frames, and the keys where they are now.

    Keys of locked layers stay.
    """
    chosen: set[KeyRef] = set()
    for (layer_id, name), frames in by_thread(keys).items():
        layer = composition.layer(layer_id)
        if layer.locked:
            chosen |= {KeyRef(layer_id, name, frame) for frame in frames}
            continue
        track = layer.track(name)
        if copying:
            for key in [key for key in track.keys if key.frame in frames and by]:
                track = track.with_key(evolve(key, frame=key.frame + by))
        else:
            track = track.moved(frames, by)
        chosen |= {KeyRef(layer_id, name, frame + by) for frame in frames}
        composition = composition.with_layer(layer.with_track(name, track))
    return composition, chosen


def without_keys(composition: Composition, keys: Iterable[KeyRef]) -> Composition:
    """Return the composition without the keys; locked layers keep theirs."""
    for (layer_id, name), frames in by_thread(keys).items():
        layer = composition.layer(layer_id)
        if not layer.locked:
            composition = composition.with_layer(layer.with_track(name, layer.track(name).without_keys(frames)))
    return composition
