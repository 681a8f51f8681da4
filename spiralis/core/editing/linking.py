"""Edits of what drives properties: follow, dial, wobble, bake to keys, and what becomes of them when a source goes."""

from __future__ import annotations

from collections.abc import Container, Iterable

import numpy as np
from attrs import evolve

from spiralis.core.animation.drivers import values_over
from spiralis.core.animation.easing import LINEAR
from spiralis.core.animation.placing import PARTS, is_separate
from spiralis.core.editing.edits import set_value, unused_name
from spiralis.core.errors import ModelError
from spiralis.core.model import Composition, Key, Layer, Track, Value
from spiralis.core.model.drivers import DialJoin, Driver, Follow, Roll, Wobble, source_of


def with_driver(layer: Layer, name: str, driver: Driver | None) -> Layer:
    """Return the layer with a property driven, or no longer; its keys and value stay beneath."""
    return layer.with_track(name, evolve(layer.track(name), driver=driver))


def with_wobble(layer: Layer, name: str, wobble: Wobble | None) -> Layer:
    """Return the layer with a wobble on a property, or without."""
    return layer.with_track(name, evolve(layer.track(name), wobble=wobble))


def add_dial(piece: Composition, name: str = "Dial") -> tuple[Composition, str]:
    """Return the composition with a dial in front of everything, and its id."""
    dial = Layer(unused_name(name, {layer.name for layer in piece.layers}), "dial", 0, piece.length)
    return evolve(piece, layers=(dial, *piece.layers)), dial.id


def with_stop(layer: Layer, dial: Layer, name: str, place: float, value: Value) -> Layer:
    """Return the layer where a property has ``value`` at a place of a dial, beside the stops that it has there."""
    driver = layer.track(name).driver
    value = layer.parameter(name).check(value)
    if isinstance(driver, DialJoin) and driver.dial == dial.id:
        stops = dict(driver.stops)
    else:
        low, high = float(dial.track("minimum").value), float(dial.track("maximum").value)
        base = layer.track(name).value
        stops = {low: base, high: base}
    stops[place] = value
    ease = driver.ease if isinstance(driver, DialJoin) else LINEAR
    return with_driver(layer, name, DialJoin(dial.id, tuple(sorted(stops.items())), ease))


def joins_of(piece: Composition, dial: str) -> tuple[tuple[str, str, DialJoin], ...]:
    """Return (layer, property, join) of all that has joined a dial, front to back."""
    return tuple(
        (layer.id, name, track.driver)
        for layer in piece.layers
        for name, track in layer.properties.items()
        if isinstance(track.driver, DialJoin) and track.driver.dial == dial
    )


def _join_of(layer: Layer, name: str) -> DialJoin:
    driver = layer.track(name).driver
    if not isinstance(driver, DialJoin):
        raise ModelError(f"{layer.parameter(name).label} of “{layer.name}” has joined no dial.")
    return driver


def with_stop_moved(layer: Layer, name: str, number: int, place: float) -> Layer:
    """Return the layer with a stop of a property at another place of its dial; the stops stay in order of place.

    Raises:
        ModelError: no dial is joined, or there is a stop at that place already.
    """
    join = _join_of(layer, name)
    rest = [stop for other, stop in enumerate(join.stops) if other != number]
    if any(abs(other - place) < 1e-9 for other, _ in rest):
        raise ModelError(f"{layer.parameter(name).label} of “{layer.name}” has a stop at {place:g} already.")
    stops = tuple(sorted([*rest, (float(place), join.stops[number][1])], key=lambda stop: stop[0]))
    return with_driver(layer, name, evolve(join, stops=stops))


def without_stop(layer: Layer, name: str, number: int) -> Layer:
    """Return the layer without a stop of a property; two at least stay.

    Raises:
        ModelError: no dial is joined, or only two stops are there.
    """
    join = _join_of(layer, name)
    if len(join.stops) < 3:
        raise ModelError("A property joins a dial with two stops at least; drive it no more instead.")
    return with_driver(layer, name, evolve(join, stops=(*join.stops[:number], *join.stops[number + 1 :])))


def is_led(piece: Composition, layer: Layer, name: str) -> bool:
    """Whether a property follows something else, so that there is nothing to set."""
    names = PARTS if name == "position" and is_separate(layer) else (name,)
    drivers = [layer.track(part).driver for part in names]
    followed = [piece.find(driver.layer) for driver in drivers if isinstance(driver, Follow)]
    return any(isinstance(driver, Roll) for driver in drivers) or any(source is not None for source in followed)


def check_own(piece: Composition, layer: Layer, name: str) -> None:
    """Raise ModelError where a property follows something else."""
    if is_led(piece, layer, name):
        label = layer.parameter(name).label
        raise ModelError(f"{label} of “{layer.name}” follows something else; bake it to keys, or drive it no more.")


def settable(piece: Composition, layers: Iterable[Layer], name: str) -> list[Layer]:
    """Return the layers whose property is their own; all of them where each follows something else, so that whoever
    sets it hears why."""
    asked = list(layers)
    return [layer for layer in asked if not is_led(piece, layer, name)] or asked


def set_seen_value(piece: Composition, layer: Layer, name: str, value: Value, frame: int) -> Layer:
    """Set a property as it is to be seen at a frame: the stop where its dial stands if it has joined one, else as
    ``set_value`` does. What its wobble adds there is taken off.

    Raises:
        ModelError: it follows something else.
    """
    if name == "position" and is_separate(layer):
        for part, number in zip(PARTS, value, strict=True):
            layer = set_seen_value(piece, layer, part, number, frame)
        return layer
    check_own(piece, layer, name)
    if layer.track(name).wobble is not None:
        value = _without_wobble(piece, layer, name, value, frame)
    driver = layer.track(name).driver
    dial = piece.find(driver.dial) if isinstance(driver, DialJoin) else None
    if dial is None:
        return set_value(layer, name, value, frame)
    place = float(values_over(piece, dial, "value", np.array([float(frame)]))[0, 0])
    return with_stop(layer, dial, name, place, value)


def set_where_own(piece: Composition, layer: Layer, name: str, value: Value, frame: int) -> Layer:
    """Set a property as ``set_seen_value`` does; where it follows something else it stays as it is."""
    return layer if is_led(piece, layer, name) else set_seen_value(piece, layer, name, value, frame)


def _without_wobble(piece: Composition, layer: Layer, name: str, value: Value, frame: int) -> Value:
    parameter, at = layer.parameter(name), np.array([float(frame)])
    seen, still = (values_over(piece, each, name, at)[0] for each in (layer, with_wobble(layer, name, None)))
    own = np.clip(parameter.to_array(value) - (seen - still), parameter.minimum, parameter.maximum)
    return parameter.from_array(np.round(own, 6))


def baked_track(piece: Composition, layer: Layer, name: str) -> Track:
    """Return a property's track as plain keys, one a frame over the composition, that look as it does now."""
    frames = np.arange(piece.length + 1, dtype=np.float64)
    rows = values_over(piece, layer, name, frames)
    parameter = layer.parameter(name)
    keys, before = [], None
    for index, row in enumerate(rows):
        same = before is not None and np.array_equal(row, before)
        following = index + 1 < len(rows) and np.array_equal(row, rows[index + 1])
        if not (same and following):
            keys.append(Key(int(frames[index]), parameter.from_array(row), LINEAR))
        before = row
    return Track(parameter.from_array(rows[0]), tuple(keys) if len(keys) > 2 or len(rows) < 3 else tuple(keys[:1]))


def baked(piece: Composition, layer_id: str, name: str) -> Composition:
    """Return the composition where a property has ordinary keys instead of what drives it."""
    layer = piece.layer(layer_id)
    return piece.with_layer(layer.with_track(name, baked_track(piece, layer, name)))


def followers_of(piece: Composition, layer_id: str, names: Container[str]) -> list[tuple[Layer, str]]:
    """Return what follows these properties of a layer: each layer with the name of its own."""
    return [
        (layer, name) for layer in piece.layers for name, track in layer.properties.items()
        if track.driver is not None and (ends := source_of(layer.id, track.driver))[0] == layer_id and ends[1] in names
    ]  # fmt: skip


def baked_dependents(piece: Composition, layer_id: str, names: Container[str]) -> Composition:
    """Return the composition where what follows these properties of a layer has ordinary keys instead."""
    for layer, name in followers_of(piece, layer_id, names):
        piece = baked(piece, layer.id, name)
    return piece
