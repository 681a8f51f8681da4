"""Put what one property of a layer holds, its pace alone, or a whole look onto other layers and other properties."""

from __future__ import annotations

from collections.abc import Container

from attrs import evolve

from spiralis.core.editing.edits import set_value
from spiralis.core.editing.effecting import with_blocks_of
from spiralis.core.errors import ModelError
from spiralis.core.model import Key, Kind, Layer, Parameter, Track
from spiralis.core.model.blocks import Block

#: Properties of these kinds belong to a look wherever they are.
_PAINTS = frozenset({Kind.COLOUR, Kind.STOPS, Kind.FONT})


def only_value(layer: Layer, name: str) -> Layer:
    """Return the layer with nothing but one property, without what ties it to other layers."""
    blocks = tuple(block for block in layer.blocks if name.startswith(f"{block.id}."))
    return _alone(layer, blocks, {name: evolve(layer.track(name), driver=None)})


def held_name(held: Layer) -> str:
    """Return the property that a layer made by ``only_value`` holds; raises ModelError where there is none."""
    if not held.properties:
        raise ModelError("What was copied holds no value; copy one from the ⋮ of a row in Details.")
    return next(iter(held.properties))


def with_value_of(layer: Layer, name: str, held: Layer, frame: int) -> Layer:
    """Return the layer with a property that holds what another one holds: all its keys, or its value (here).

    Raises:
        ModelError: the two are not of one kind, or a value is outside the range.
    """
    source = held_name(held)
    parameter, track = layer.parameter(name), held.track(source)
    if parameter.kind is not held.parameter(source).kind:
        raise ModelError(f"{parameter.full_label} cannot hold what {held.parameter(source).full_label} holds.")
    if not track.keys:
        return set_value(layer, name, parameter.check(track.value), frame)
    keys = tuple(_fitting_key(parameter, key) for key in track.keys)
    own = layer.track(name)
    return layer.with_track(name, evolve(own, keys=keys, before=track.before, after=track.after, wobble=track.wobble))


def with_pace_of(layer: Layer, name: str, held: Layer) -> Layer:
    """Return the layer where the segments of a property are eased like those of another one, in turn.

    Where it has more segments than the other one, the other's come again from the first.
    """
    eases = [key.easing for key in held.track(held_name(held)).keys[:-1]]
    own = layer.track(name)
    if not eases or len(own.keys) < 2:
        raise ModelError("A pace goes from a thread with two keys or more to another such thread.")
    keys = tuple(evolve(key, easing=eases[i % len(eases)]) for i, key in enumerate(own.keys[:-1]))
    return layer.with_track(name, evolve(own, keys=(*keys, own.keys[-1])))


def only_look(layer: Layer) -> Layer:
    """Return the layer with nothing but how it looks: paints, strokes, font, opacity and blend, effects, finishes."""
    names = [p.name for p in layer.parameters if _is_worn(p)]
    worn = {name: evolve(layer.track(name), driver=None) for name in names}
    kept = {name: track for name, track in layer.properties.items() if "." in name}
    return _alone(layer, layer.blocks, {**worn, **kept})


def _alone(layer: Layer, blocks: tuple[Block, ...], properties: dict[str, Track]) -> Layer:
    """Return a layer of the same kind that holds only these, as the clipboard does."""
    return Layer(layer.name, layer.kind, layer.first, layer.last, blocks=blocks, properties=properties)


def with_look_of(layer: Layer, held: Layer, known: Container[str]) -> Layer:
    """Return the layer looking like another one: its paints as far as both have them, its effects after its own.

    ``known`` are the layers that effects may take their input from.
    """
    names = {p.name: p for p in layer.parameters}
    for name, track in held.properties.items():
        parameter = names.get(name)
        if parameter is None or not _is_worn(parameter) or parameter.kind is not held.parameter(name).kind:
            continue
        layer = layer.with_track(name, track)
    return with_blocks_of(layer, held, known)


def _is_worn(parameter: Parameter) -> bool:
    return parameter.worn or (parameter.kind in _PAINTS and not parameter.block)


def _fitting_key(parameter: Parameter, key: Key) -> Key:
    made = evolve(key, value=parameter.check(key.value))
    return made if parameter.is_path else evolve(made, handle_in=None, handle_out=None)
