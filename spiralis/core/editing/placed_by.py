"""Map a layer's whole way, resting place and all keys, from one frame to another."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from attrs import evolve

from spiralis.core.animation.placing import is_separate
from spiralis.core.model import Layer, Track, Value

Pair = tuple[float, float]


def _mapped(track: Track, change: Callable[[Value], Value]) -> Track:
    return evolve(
        track, value=change(track.value), keys=tuple(evolve(key, value=change(key.value)) for key in track.keys)
    )


def with_place(layer: Layer, by: Pair, shift: Pair) -> Layer:
    """Return the layer with each place (x, y) at (by x + shift), the handles of its path along with it."""
    if is_separate(layer):
        for name, factor, more in zip(("position_x", "position_y"), by, shift, strict=True):
            layer = layer.with_track(name, _mapped(layer.track(name), partial(_along, factor, more)))
        return layer
    track = _mapped(layer.track("position"), lambda p: (by[0] * p[0] + shift[0], by[1] * p[1] + shift[1]))
    keys = tuple(
        evolve(key, handle_in=times(key.handle_in, by), handle_out=times(key.handle_out, by)) for key in track.keys
    )
    return layer.with_track("position", evolve(track, keys=keys))


def _along(factor: float, more: float, value: float) -> float:
    return factor * value + more


def with_size(layer: Layer, name: str, by: Pair) -> Layer:
    """Return the layer with a pair, its scale or its own size, times ``by``, at rest and at every key."""
    return layer.with_track(name, _mapped(layer.track(name), lambda pair: times(pair, by)))


def times(pair: Pair | None, by: Pair) -> Pair | None:
    """Return a pair multiplied, or None as it is."""
    return None if pair is None else (pair[0] * by[0], pair[1] * by[1])
