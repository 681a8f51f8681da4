"""Pure edits of a layer or a composition that more than one panel asks for."""

from __future__ import annotations

from collections.abc import Iterable

from attrs import evolve

from spiralis.core.animation.easing import LINEAR, Easing
from spiralis.core.animation.placing import is_separate
from spiralis.core.animation.tracks import value_at
from spiralis.core.editing.cutting import with_key_beyond, with_key_kept, without_key_kept
from spiralis.core.editing.placed_by import with_place
from spiralis.core.editing.rounds import with_rounds_written
from spiralis.core.errors import ModelError
from spiralis.core.model.layer import Layer
from spiralis.core.model.parameter import Value
from spiralis.core.model.project import Composition
from spiralis.core.model.track import Key, Track


def set_value(layer: Layer, name: str, value: Value, frame: int) -> Layer:
    """Set a property: a key at the frame where it has keys, else its resting value."""
    parameter = layer.parameter(name)
    track = layer.track(name)
    value = parameter.check(value)
    if name == "position" and is_separate(layer):
        for part, number in zip(("position_x", "position_y"), value, strict=True):
            layer = set_value(layer, part, number, frame)
        return layer
    if not track.keys:
        return layer.with_track(name, evolve(track, value=value))
    return layer.with_track(name, put_key(track, layer, name, frame, value))


def put_key(
    track: Track, layer: Layer, name: str, frame: int, value: Value, pace: Easing = LINEAR
) -> Track:
    """Return the track with this value on this frame; a key that is there keeps its ease and handles.

    A new key between two others takes over the ease of the segment it splits, one before all others that of the
    first; the very first key of a thread gets ``pace``. Where the thread repeats, the rounds as far as the frame
    become keys.
    """
    track = with_rounds_written(track, layer.parameter(name), frame)
    index = track.index_at(frame)
    if index is not None:
        return track.with_key(evolve(track.keys[index], value=value))
    before = [key for key in track.keys if key.frame < frame]
    easing = (before[-1] if before else track.keys[0]).easing if track.keys else pace
    easing = easing if layer.parameter(name).numeric else LINEAR
    return track.with_key(Key(frame, value, easing))


def toggle_key(layer: Layer, name: str, frame: int, pace: Easing = LINEAR) -> Layer:
    """Add a key with the value of the moment, which changes nothing in sight, or remove the key that is on the frame.

    The first key of a thread gets ``pace`` for the way to the next one.
    """
    track, parameter = layer.track(name), layer.parameter(name)
    if track.index_at(frame) is not None:
        return layer.with_track(name, without_key_kept(track, parameter, frame))
    if not track.keys:
        return layer.with_track(name, put_key(track, layer, name, frame, value_at(track, parameter, frame), pace))
    track = with_rounds_written(track, parameter, frame)
    if track.keys[0].frame < frame < track.keys[-1].frame:
        return layer.with_track(name, with_key_kept(track, parameter, frame))
    return layer.with_track(name, with_key_beyond(track, parameter, frame))


def shifted(layer: Layer, dx: float, dy: float) -> Layer:
    """Return the layer with its whole way, resting place, all keys and stops of a dial, moved in its parent's space.

    A place that follows something else stays where that puts it.
    """
    return with_place(layer, (1.0, 1.0), (dx, dy))


def moved_in_time(layer: Layer, by: int) -> Layer:
    """Return the layer with its span and all its keys moved by frames."""
    properties = {
        name: evolve(track, keys=tuple(evolve(key, frame=key.frame + by) for key in track.keys))
        for name, track in layer.properties.items()
    }
    if layer.has("start"):
        # What a layer shows goes along with it.
        start = layer.track("start")
        properties["start"] = evolve(start, value=start.value + by)
    moves = tuple(evolve(use, first=use.first + by) for use in layer.moves)
    return evolve(layer, first=layer.first + by, last=layer.last + by, properties=properties, moves=moves)


def reordered(composition: Composition, ids: Iterable[str], index: int) -> Composition:
    """Return the composition with these layers, in their order, put before the layer now at ``index``."""
    chosen = set(ids)
    moving = [layer for layer in composition.layers if layer.id in chosen]
    before = [layer for layer in composition.layers[:index] if layer.id not in chosen]
    after = [layer for layer in composition.layers[index:] if layer.id not in chosen]
    return evolve(composition, layers=(*before, *moving, *after))


def unused_name(name: str, taken: set[str]) -> str:
    """Return the name, numbered where it is taken."""
    if name not in taken:
        return name
    stem = name.rsplit(" ", 1)[0] if name.rsplit(" ", 1)[-1].isdigit() else name
    number = 2
    while f"{stem} {number}" in taken:
        number += 1
    return f"{stem} {number}"


def with_length(composition: Composition, length: int) -> Composition:
    """Return the composition with another length; layers that ran to its end still do."""
    layers = []
    for layer in composition.layers:
        if layer.last == composition.length and layer.first < length:
            layers.append(evolve(layer, last=length))
        else:
            layers.append(layer)
    span = composition.play_span
    if span is not None:
        span = (span[0], min(span[1], length)) if span[0] < min(span[1], length) else None
    if length < 1:
        raise ModelError("A composition is at least one frame long.")
    return evolve(composition, length=length, play_span=span, layers=tuple(layers))
