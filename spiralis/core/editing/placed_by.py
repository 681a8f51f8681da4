"""Map a layer's whole way and size, resting place and all keys, from one frame to another, with what drives them."""

from __future__ import annotations

import math
from collections.abc import Callable
from functools import partial

from attrs import evolve

from spiralis.core.animation.placing import PARTS, is_separate
from spiralis.core.geometry import Affine
from spiralis.core.model import Kind, Layer, Track, Value, layer_kind
from spiralis.core.model.art import Bundle, Item
from spiralis.core.model.drivers import DialJoin, Follow, Roll

Pair = tuple[float, float]

#: Units of what grows with the frame.
_PIXELS = ("px", "px/s", "px/s²")
#: What of a layer that is followed is mapped itself.
_MAPPED = ("position", *PARTS, "scale", "size", "frame")


def track_mapped(track: Track, change: Callable[[Value], Value], factor: float) -> Track:
    """Return a track with all its values changed, a dial's stops among them, and what is added to them multiplied."""
    driver, wobble = track.driver, track.wobble
    if isinstance(driver, DialJoin):
        driver = evolve(driver, stops=tuple((place, change(value)) for place, value in driver.stops))
    elif isinstance(driver, Follow):
        gain = driver.gain if driver.name in _MAPPED else driver.gain * factor
        low, high = (limit if limit is None else limit * factor for limit in (driver.low, driver.high))
        driver = evolve(driver, gain=gain, offset=driver.offset * factor, low=low, high=high)
    if wobble is not None:
        wobble = evolve(wobble, amount=wobble.amount * factor)
    return evolve(track.mapped(change), driver=driver, wobble=wobble)


def even(by: Pair) -> float:
    """Return by how much lengths grow that have no direction."""
    return math.sqrt(abs(by[0] * by[1]))


def with_place(layer: Layer, by: Pair, shift: Pair) -> Layer:
    """Return the layer with each place (x, y) at (by x + shift), the handles of its path along with it."""
    if is_separate(layer):
        for name, factor, more in zip(PARTS, by, shift, strict=True):
            layer = layer.with_track(name, track_mapped(layer.track(name), partial(_along, factor, more), factor))
        return layer
    track = track_mapped(
        layer.track("position"), lambda p: (by[0] * p[0] + shift[0], by[1] * p[1] + shift[1]), even(by)
    )
    keys = tuple(
        evolve(key, handle_in=times(key.handle_in, by), handle_out=times(key.handle_out, by)) for key in track.keys
    )
    return layer.with_track("position", evolve(track, keys=keys))


def _along(factor: float, more: float, value: float) -> float:
    return factor * value + more


def with_size(layer: Layer, name: str, by: Pair) -> Layer:
    """Return the layer with a pair, its scale or its own size, times ``by``; so is what else is as long as the frame
    is: gaps to edges that it holds to.

    Copies, and particles of a layer, are as large as that is: how far they stand apart is multiplied in place of their
    scale.
    """
    pins = tuple(evolve(pin, gap=pin.gap * by[pin.axis]) for pin in layer.edge_pins)
    layer = evolve(layer, edge_pins=pins)
    kind = layer_kind(layer.kind)
    if kind.placements is not None or kind.swarm:
        return with_lengths(layer, by)
    return _changed(layer, name, lambda pair: times(pair, by), by)


def with_lengths(layer: Layer, by: Pair) -> Layer:
    """Return a layer whose scale stays with all that it and its effects count in its own pixels times ``by``."""
    for parameter in layer.parameters:
        own = parameter.group != "Place" and not parameter.measures
        if own and (parameter.unit in _PIXELS or parameter.kind is Kind.ART):
            layer = _changed(layer, parameter.name, partial(_LENGTHS[parameter.kind], by), by)
    return layer


def _changed(layer: Layer, name: str, change: Callable[[Value], Value], by: Pair) -> Layer:
    """Return a layer with a property mapped, as far as its range goes; itself where that changes nothing."""
    parameter, track = layer.parameter(name), layer.track(name)

    def within(value: Value) -> Value:
        if parameter.kind is Kind.NUMBER:
            return min(max(change(value), parameter.minimum), parameter.maximum)
        if parameter.kind is Kind.PAIR:
            return tuple(min(max(part, parameter.minimum), parameter.maximum) for part in change(value))
        return change(value)

    mapped = track_mapped(track, within, even(by))
    return layer if mapped == track else layer.with_track(name, mapped)


def with_measures(layer: Layer, by: Pair, shift: Pair) -> Layer:
    """Return a layer with what neither its place nor its scale changes: depths times ``by``, and what it names of
    places in the frame at (by x + shift)."""
    changes: dict[str, Callable[[Value], Value]] = {
        "depth": lambda value: value * even(by),
        "place": lambda value: (by[0] * value[0] + shift[0], by[1] * value[1] + shift[1]),
        "level": lambda value: by[1] * value + shift[1],
    }
    for parameter in layer.parameters:
        if parameter.measures:
            layer = _changed(layer, parameter.name, changes[parameter.measures], by)
    kind = layer_kind(layer.kind)
    return with_lengths(layer, by) if kind.sees or kind.lights else layer


def with_rolls(layer: Layer, factor: Callable[[str], float]) -> Layer:
    """Return a layer that turns as before, where the ways of others (by their ids), or its own, are ``factor`` as long:
    the radius that it rolls on grows with the way."""
    for name, track in layer.properties.items():
        if isinstance(track.driver, Roll):
            radius = track.driver.radius * factor(track.driver.layer or layer.id)
            layer = layer.with_track(name, evolve(track, driver=evolve(track.driver, radius=radius)))
    return layer


def times(pair: Pair | None, by: Pair) -> Pair | None:
    """Return a pair multiplied, or None as it is."""
    return None if pair is None else (pair[0] * by[0], pair[1] * by[1])


def _larger(item: Item, scaling: Affine) -> Item:
    """Return art with larger outlines, which have to lie in its own units, as ways along which things stand do."""
    if isinstance(item, Bundle):
        return evolve(item, items=tuple(_larger(inner, scaling) for inner in item.items))
    return evolve(item, contours=tuple(contour.mapped(scaling) for contour in item.contours))


#: How values that are lengths are multiplied.
_LENGTHS: dict[Kind, Callable[[Pair, Value], Value]] = {
    Kind.NUMBER: lambda by, value: value * even(by),
    Kind.PAIR: lambda by, value: times(value, by),
    Kind.ART: lambda by, value: _larger(value, Affine.scaling(*by)),
}
