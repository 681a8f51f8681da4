"""Every property of every kind of layer at the ends of its range, and every choice: there is a picture, of numbers."""

from __future__ import annotations

import unittest
from collections.abc import Iterator

import numpy as np
from attrs import evolve

from spiralis.core.media.source_kinds.sound import sound_source
from spiralis.core.model import Composition, Kind, Layer, Parameter, Project, Value, layer_kind, layer_kinds
from spiralis.core.render import render_frame
from tests.core.samples import square_source
from tests.core.sounds import tone, wav

SOURCE, SOUND = square_source(24), sound_source(wav(tone(0.5)), "Tune.wav", ".wav")
WIDTH, HEIGHT, LENGTH = 64, 48, 12
#: What layers of a kind need to show something; their other values are the usual ones.
OWN: dict[str, dict[str, Value]] = {
    "shape": {"form": "star", "size": (30.0, 24.0), "stroke": 3.0},
    "text": {"text": "Kite\nday", "size": 14.0},
    "sound": {"source": SOUND.id}, "picture": {"source": SOURCE.id},
    "flipbook": {"drawings": ((SOURCE.id, 2), (SOURCE.id, 1))},
    "nested": {"composition": "inner"}, "copies": {"of": "dot", "spacing": (9.0, 7.0), "count": 4.0},
    "particles": {"region": (40.0, 30.0), "count": 30.0, "size": 4.0},
    "box": {"depth": True, "size": (20.0, 16.0), "deep": 12.0, "turn_y": 30.0},
    "group": {"corner": (10.0, 10.0), "size": (30.0, 20.0)},
}  # fmt: skip
#: Properties that say how much work there is; their largest values are for other tests.
COUNTS = ("count", "columns", "bursts", "detail")


def values_of(parameter: Parameter) -> Iterator[Value]:
    """Yield the ends of a property's range, or all that can be chosen."""
    if parameter.kind in (Kind.NUMBER, Kind.PAIR):
        for end in (parameter.minimum, parameter.maximum, 0.0, 1.0, -0.3, 37.7):
            number, other = (
                min(max(part, parameter.minimum, -2000.0), parameter.maximum, 2000.0) for part in (end, 0.4 * end + 1)
            )
            yield number if parameter.kind is Kind.NUMBER else (number, other)
    elif parameter.kind is Kind.CHOICE:
        yield from parameter.choices
    elif parameter.kind is Kind.SWITCH:
        yield from (True, False)
    elif parameter.kind is Kind.COLOUR:
        yield from ((0.0, 0.0, 0.0, 0.0), (1.0, 1.0, 1.0, 1.0))


def project(layer: Layer) -> Project:
    dot = Layer("Dot", "shape", 0, LENGTH, id="dot").with_values(
        form="ellipse", size=(6.0, 6.0), position=(20.0, 20.0), fill=(1.0, 0.6, 0.1, 1.0))  # fmt: skip
    child = evolve(dot, id="child", parent=layer.id)
    ground = Layer("Ground", "backdrop", 0, LENGTH, id="ground")
    inner = Composition("Inner", 20, 16, 25, LENGTH, id="inner", layers=(dot,))
    layers = (layer, *((child,) if layer_kind(layer.kind).gathers else ()), dot, ground)
    piece = Composition("Piece", WIDTH, HEIGHT, 25, LENGTH, id="piece", layers=layers)
    return Project("P", (piece, inner), (SOURCE, SOUND))


class EveryValueTest(unittest.TestCase):
    def assert_drawn(self, layer: Layer, *what: object) -> None:
        with self.subTest(layer.kind, what=what):
            seen = render_frame(project(layer), "piece", 5)
            self.assertEqual((HEIGHT, WIDTH, 4), seen.shape)
            self.assertTrue(np.isfinite(seen).all())

    def samples(self) -> Iterator[Layer]:
        for kind in layer_kinds():
            layer = Layer("It", kind.name, 0, LENGTH, id="it").with_values(position=(32.0, 24.0))
            yield layer.with_values(**OWN.get(kind.name, {}))

    def test_each_by_itself(self) -> None:
        for layer in self.samples():
            for parameter in layer.parameters:
                for value in values_of(parameter):
                    if parameter.name not in COUNTS or abs(value) < 100:
                        self.assert_drawn(layer.with_values(**{parameter.name: value}), parameter.name, value)

    def test_choices_with_each_number(self) -> None:
        """A form, a layout, a style: whatever is chosen, all numbers beside it may be anything."""
        for layer in self.samples():
            own = layer_kind(layer.kind).own_parameters
            numbers = [p for p in own if p.kind in (Kind.NUMBER, Kind.PAIR) and p.name not in COUNTS]
            choices = [(p.name, chosen) for p in own if p.kind is Kind.CHOICE for chosen in p.choices]
            for name, chosen in choices:
                so_set = layer.with_values(**{name: chosen})
                for parameter in numbers:
                    value = list(values_of(parameter))[-1]
                    self.assert_drawn(so_set.with_values(**{parameter.name: value}), chosen, parameter.name, value)


if __name__ == "__main__":
    unittest.main()
