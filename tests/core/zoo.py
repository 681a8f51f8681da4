"""Pieces with layers of all kinds, with effects, keys and ties, for whoever tries what the sample does not have."""

from __future__ import annotations

import random

from attrs import evolve

from spiralis.core.editing.effecting import with_effect
from spiralis.core.model import (
    Composition,
    Key,
    Kind,
    Layer,
    Matte,
    Parameter,
    Project,
    Track,
    Value,
    layer_kind,
    layer_kinds,
)
from spiralis.core.model.art import Bundle, Contour, Figure
from spiralis.core.model.blocks import EFFECT, effect_kinds
from tests.core.test_every_value import OWN, SOUND, SOURCE

LENGTH = 50


def _drawing(rng: random.Random) -> Bundle:
    def square(x: float, side: float) -> Contour:
        corners = ((x, 0.0), (x + side, 0.0), (x + side, side), (x, side))
        return Contour(tuple(corner * 3 for corner in corners), True)  # type: ignore[misc]

    fills = [(rng.random(), rng.random(), rng.random(), 1.0) for _ in range(rng.randint(1, 3))]
    return Bundle(tuple(Figure((square(60.0 * i, rng.choice((20.0, 50.0))),), fill) for i, fill in enumerate(fills)))


def _keyed(layer: Layer, rng: random.Random) -> Layer:
    """Return the layer with keys on a few of the properties that may have some."""
    may = [p for p in layer.parameters if p.numeric and not p.steady and p.name not in ("position_x", "position_y")]
    for parameter in rng.sample(may, min(len(may), rng.randint(0, 3))):
        value = layer.track(parameter.name).value
        frames = sorted(rng.sample(range(LENGTH), 3))
        keys = tuple(Key(frame, _near(parameter, value, rng)) for frame in frames)
        layer = layer.with_track(parameter.name, Track(value, keys))
    return layer


def _near(parameter: Parameter, value: Value, rng: random.Random) -> Value:
    """Return a value that is not far from another one."""

    def number(part: float) -> float:
        return min(max(part + rng.uniform(-9, 9), parameter.minimum), parameter.maximum)

    if parameter.kind is Kind.NUMBER:
        return number(value)
    if parameter.kind is Kind.PAIR:
        return (number(value[0]), number(value[1]))
    return tuple(rng.random() for _ in range(4)) if parameter.kind is Kind.COLOUR else value


def zoo(seed: int) -> Project:
    """Return a piece of six layers of kinds that the seed draws, over a ground, with another piece nested in it."""
    rng = random.Random(seed)
    dot = Layer("Dot", "shape", 0, LENGTH, id="dot").with_values(
        form="ellipse", size=(60.0, 40.0), position=(320.0, 240.0), fill=(1.0, 0.6, 0.1, 1.0))  # fmt: skip
    words = Layer("Words", "text", 0, LENGTH, id="inner words")
    words = words.with_values(text="In", size=60.0, position=(300.0, 200.0))
    inner = Composition("Inner", 600, 400, 25, LENGTH, id="inner", layers=(words, evolve(dot, id="inner dot")))
    effects = [kind.name for kind in effect_kinds() if kind.role == EFFECT]
    layers: list[Layer] = []
    names = [kind.name for kind in layer_kinds() if kind.name != "backdrop"]
    for number, name in enumerate(rng.sample(names, 6)):
        own = {**OWN.get(name, {})}
        layer = Layer(f"{layer_kind(name).label} {number}", name, rng.choice((0, 0, 5)), LENGTH, id=f"{name}-{number}")
        layer = layer.with_values(**own)
        if not layer_kind(name).unseen:
            layer = layer.with_values(position=(rng.uniform(100, 540), rng.uniform(80, 400)))
            for effect in rng.sample(effects, rng.randint(0, 2)):
                layer = with_effect(layer, effect)
        if name == "shape" and rng.random() < 0.6:
            layer = layer.with_values(form="drawing", art=_drawing(rng))
        layers.append(_keyed(layer, rng))
    shown = [index for index, layer in enumerate(layers) if not layer_kind(layer.kind).unseen]
    if len(shown) > 2:
        first, second, third = shown[:3]
        layers[second] = evolve(layers[second], parent=layers[first].id)
        layers[third] = evolve(layers[third], mattes=(Matte(layers[second].id),))
    ground = Layer("Ground", "backdrop", 0, LENGTH, id="ground")
    piece = Composition("Zoo", 640, 480, 25, LENGTH, id="zoo", layers=(*layers, dot, ground))
    return Project("Zoo", (piece, inner), (SOURCE, SOUND))
