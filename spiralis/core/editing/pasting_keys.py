"""Put copied keys onto other layers: by property, at the playhead or at their own frames, as values, as differences, or
only their pace; over different frame rates."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction

from attrs import evolve, frozen

from spiralis.core.animation.tracks import value_at
from spiralis.core.editing.effecting import matching_name
from spiralis.core.editing.keys import KeyRef
from spiralis.core.model import Composition, Key, Layer, Parameter, Track, Value

WAYS = ("values", "differences", "pace")


@frozen
class Paste:
    """How keys are put in: ``way`` is one of WAYS; ``at`` is the frame for the first one, None for their own frames."""

    way: str = "values"
    at: int | None = None


def pasted(
    piece: Composition, held: Composition, targets: Sequence[str], how: Paste
) -> tuple[Composition, set[KeyRef]]:
    """Return the composition with the keys of ``held``'s layers on the target layers, and the keys that were set.

    The first held layer goes to the first target, and so on, beginning again where there are more targets. Keys go to
    the property of their name; targets without it are passed over. Seconds are kept where the rates differ.
    """
    frames = [key.frame for layer in held.layers for track in layer.properties.values() for key in track.keys]
    if not frames:
        return piece, set()
    factor, first = piece.rate / held.rate, min(frames)
    base = how.at if how.at is not None else round(first * factor)

    def to(frame: int) -> int:
        return base + round((frame - first) * factor)

    chosen: set[KeyRef] = set()
    for index, target in enumerate(targets):
        source = held.layers[index % len(held.layers)]
        layer = piece.layer(target)
        if layer.locked:
            continue
        for held_name, track in source.properties.items():
            name = matching_name(source, held_name, layer)
            parameter = _shared(layer, name, source.parameter(held_name)) if name is not None else None
            if name is None or parameter is None or not track.keys:
                continue
            changed, landed = _put(layer.track(name), track, parameter, to, how.way)
            layer = layer.with_track(name, changed)
            chosen |= {KeyRef(target, name, frame) for frame in landed}
        piece = piece.with_layer(layer)
    return piece, chosen


def _shared(layer: Layer, name: str, held: Parameter) -> Parameter | None:
    parameter = layer.parameter(name)
    return parameter if parameter.kind is held.kind else None


def _put(own: Track, held: Track, parameter: Parameter, to, way: str) -> tuple[Track, set[int]]:  # type: ignore[no-untyped-def]
    if way == "pace":
        return _paced(own, held, to)
    start = value_at(own, parameter, float(to(held.keys[0].frame)))
    landed = set()
    for key in held.keys:
        value = key.value
        if way == "differences" and parameter.numeric:
            value = _offset(parameter, start, held.keys[0].value, key.value)
        own = own.with_key(evolve(key, frame=to(key.frame), value=value))
        landed.add(to(key.frame))
    return own, landed


def _offset(parameter: Parameter, start: Value, first: Value, value: Value) -> Value:
    base, origin, here = (parameter.to_array(v) for v in (start, first, value))
    if len(base) != len(here) or len(origin) != len(here):
        return value
    return parameter.from_array(base + here - origin)


def _paced(own: Track, held: Track, to) -> tuple[Track, set[int]]:  # type: ignore[no-untyped-def]
    """Give the target's keys the eases of the held ones, one after another, from the first at or after the place on."""
    first = to(held.keys[0].frame)
    keys = list(own.keys)
    starts = [index for index, key in enumerate(keys) if key.frame >= first] or list(range(len(keys)))
    landed = set()
    for index, key in zip(starts, held.keys, strict=False):
        keys[index] = evolve(keys[index], easing=key.easing)
        landed.add(keys[index].frame)
    made: tuple[Key, ...] = tuple(keys)
    return evolve(own, keys=made), landed


def as_held(rate: Fraction, layers: Sequence[Layer]) -> Composition:
    """Return a composition that carries layers' keys at a rate, for tests and the clipboard."""
    last = max((layer.last for layer in layers), default=1)
    return Composition("Keys", 16, 16, rate, max(last, 1), layers=tuple(layers))
