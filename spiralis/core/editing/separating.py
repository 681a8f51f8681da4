"""Switch a layer's position between one path and separate x and y."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
from attrs import evolve

from spiralis.core.animation.easing import LINEAR
from spiralis.core.animation.placing import PARTS, is_separate, position_frames, positions
from spiralis.core.editing.linking import baked_dependents, followers_of
from spiralis.core.editing.posing import poses_mapped
from spiralis.core.errors import ModelError
from spiralis.core.model import Composition, Key, Layer, Track


def separated(layer: Layer) -> Layer:
    """Return the layer with x and y as threads of their own: keys on the same frames, with the same eases."""
    if is_separate(layer):
        return layer
    way = layer.track("position")
    for index, name in enumerate(PARTS):
        keys = tuple(Key(key.frame, key.value[index], key.easing) for key in way.keys)
        layer = layer.with_track(name, Track(way.value[index], keys, way.before, way.after))
    return _without(layer.with_values(separate=True), "position")


def joined(layer: Layer) -> Layer:
    """Return the layer with its position as one path: a key wherever x or y has one; eases are those of x, or of y
    where x has no key there."""
    if not is_separate(layer):
        return layer
    x, y = (layer.track(name) for name in PARTS)
    frames = position_frames(layer)
    places = positions(layer, np.array(frames, dtype=np.float64)) if frames else np.empty((0, 2))
    keys = []
    for frame, (px, py) in zip(frames, places.tolist(), strict=True):
        index = x.index_at(frame)
        other = y.index_at(frame)
        easing = x.keys[index].easing if index is not None else y.keys[other].easing if other is not None else LINEAR
        keys.append(Key(frame, (px, py), easing))
    track = Track((x.value, y.value), tuple(keys), x.before, x.after)
    return _without(layer.with_track("position", track).with_values(separate=False), *PARTS)


def position_switched(piece: Composition, ids: Iterable[str], apart: bool) -> tuple[Composition, str]:
    """Return the piece where the layers' x and y are apart, or one path, and what that changes, in words.

    Raises:
        ModelError: something drives a position, which the other way could not keep.
    """
    keyed: list[str] = []
    gaps, switch = [0.0], separated if apart else joined
    for layer in [piece.layer(each) for each in ids]:
        if is_separate(layer) == apart:
            continue
        if not apart:
            followers = followers_of(piece, layer.id, PARTS)
            keyed += [f"{owner.name}: {owner.parameter(name).label}" for owner, name in followers]
            piece = baked_dependents(piece, layer.id, PARTS)
        own = _undriven(piece.layer(layer.id))
        poses, changed = poses_mapped(piece, switch, {layer.id}), switch(own)
        piece = evolve(piece.with_layer(changed), poses=poses)
        gaps.append(largest_difference(layer, changed, piece.length))
    said = []
    if max(gaps) > 0.01:
        said.append(f"At the keys nothing moved; between them the way differs by up to {max(gaps):.1f} px.")
    if keyed:
        said.append(f"What followed x or y has keys now: {', '.join(keyed)}.")
    return piece, " ".join(said)


def _undriven(layer: Layer) -> Layer:
    for name in PARTS if is_separate(layer) else ("position",):
        if layer.track(name).driver is not None or layer.track(name).wobble is not None:
            raise ModelError(f"{layer.parameter(name).label} of “{layer.name}” is driven; bake it to keys first.")
    return layer


def _without(layer: Layer, *names: str) -> Layer:
    return evolve(layer, properties={name: track for name, track in layer.properties.items() if name not in names})


def largest_difference(before: Layer, after: Layer, length: int) -> float:
    """Return how far apart two layers' ways are at most, in px, looked at four times a frame."""
    frames = np.arange(0, length * 4 + 1, dtype=np.float64) / 4
    return float(np.hypot(*(positions(before, frames) - positions(after, frames)).T).max())
