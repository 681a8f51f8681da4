"""What is set is what is seen: with a wobble, on a dial, where x and y are apart; what follows others says so."""

from __future__ import annotations

import unittest

import numpy as np
from attrs import evolve
from hypothesis import given
from hypothesis import strategies as st

from spiralis.core.animation.placing import PARTS, is_separate
from spiralis.core.editing.arranging import aligned, distributed, fitted, seen_box
from spiralis.core.editing.linking import is_led, set_seen_value
from spiralis.core.editing.separating import separated
from spiralis.core.errors import ModelError
from spiralis.core.model import Composition, Key, Layer, Project, Track, Value
from spiralis.core.model.drivers import DialJoin, Follow, Roll, Wobble
from spiralis.core.render.layers import Evaluated

LENGTH = 20
WANTED = {"position": (41.0, 17.5), "scale": (70.0, 130.0), "rotation": 33.0, "opacity": 55.0, "skew": (5.0, 0.0)}
KEYS = {"position": ((0.0, 0.0), (50.0, 30.0)), "scale": ((50.0, 50.0), (90.0, 80.0)), "rotation": (0.0, 200.0),
        "opacity": (30.0, 60.0), "skew": ((0.0, 0.0), (10.0, 0.0))}  # fmt: skip


def box(layer_id: str = "box", **values: object) -> Layer:
    layer = Layer(layer_id.capitalize(), "shape", 0, LENGTH, id=layer_id)
    return layer.with_values(size=(12.0, 8.0), position=(30.0, 20.0), **values)


def holding(*layers: Layer) -> tuple[Project, Composition]:
    dial = Layer("Dial", "dial", 0, LENGTH, id="dial").with_track(
        "value", Track(0.0, (Key(0, 0.0), Key(10, 100.0))))  # fmt: skip
    piece = Composition("Piece", 96, 64, 25, LENGTH, id="piece", layers=(*layers, dial))
    return Project("P", (piece,)), piece


def driven(layer: Layer, name: str, **parts: object) -> Layer:
    return layer.with_track(name, evolve(layer.track(name), **parts))


def seen(piece: Composition, layer_id: str, name: str, frame: int) -> np.ndarray:
    value = Evaluated(Project("P", (piece,)), piece, float(frame)).values(piece.layer(layer_id))[name]
    return np.asarray(value, dtype=np.float64)


class SettingAsSeenTest(unittest.TestCase):
    @given(st.sampled_from(sorted(WANTED)), st.booleans(), st.booleans(), st.booleans(), st.integers(0, LENGTH - 1))
    def test_it_is_seen_as_it_was_set(self, name: str, keyed: bool, wobbles: bool, apart: bool, frame: int) -> None:
        layer = box()
        if keyed:
            first, last = KEYS[name]
            layer = layer.with_track(name, Track(first, (Key(2, first), Key(15, last))))
        if apart and name == "position":
            layer = separated(layer)
        if wobbles:
            for part in PARTS if is_separate(layer) and name == "position" else (name,):
                layer = driven(layer, part, wobble=Wobble(9.0, 2.0))
        _, piece = holding(layer)
        changed = piece.with_layer(set_seen_value(piece, layer, name, WANTED[name], frame))
        np.testing.assert_allclose(seen(changed, "box", name, frame), WANTED[name], atol=1e-5)
        wobble = [track.wobble for track in changed.layer("box").properties.values() if track.wobble is not None]
        self.assertEqual(wobbles, bool(wobble))
        again = changed.with_layer(set_seen_value(changed, changed.layer("box"), name, WANTED[name], frame))
        np.testing.assert_allclose(seen(again, "box", name, frame), WANTED[name], atol=1e-5)

    def test_on_a_dial_the_stop_where_it_stands_is_set(self) -> None:
        for wobble in (None, Wobble(9.0, 2.0)):
            layer = driven(box(), "rotation", driver=DialJoin("dial", ((0.0, 0.0), (100.0, 90.0))), wobble=wobble)
            _, piece = holding(layer)
            changed = piece.with_layer(set_seen_value(piece, layer, "rotation", 20.0, 10))
            self.assertAlmostEqual(20.0, float(seen(changed, "box", "rotation", 10)), places=5)
            self.assertFalse(changed.layer("box").track("rotation").keys)

    def test_what_follows_something_else_says_so(self) -> None:
        lead = box("lead")
        for name, driver in (("position", Follow("lead", "position")), ("rotation", Roll(5.0, "lead")),
                             ("rotation", Roll(5.0)), ("opacity", Follow("lead", "rotation"))):  # fmt: skip
            layer = driven(box(), name, driver=driver)
            _, piece = holding(layer, lead)
            self.assertTrue(is_led(piece, layer, name))
            with self.assertRaisesRegex(ModelError, "of “Box” follows something else"):
                set_seen_value(piece, layer, name, WANTED[name], 3)
        gone = driven(box(), "position", driver=Follow("nobody", "position"))
        _, piece = holding(gone)
        self.assertEqual((1.0, 2.0), set_seen_value(piece, gone, "position", (1.0, 2.0), 3).track("position").value)
        half = driven(separated(box()), "position_y", driver=Follow("lead", "rotation"))
        self.assertTrue(is_led(holding(half, lead)[1], half, "position"))


class ArrangingAsSeenTest(unittest.TestCase):
    """Of three boxes the first wobbles, the second follows the third."""

    def setUp(self) -> None:
        layers = (driven(box("shaky"), "position", wobble=Wobble(12.0, 3.0)),
                  driven(box("led"), "position", driver=Follow("lead", "position", 1.0, 15.0)),
                  box("lead").with_values(position=(70.0, 40.0)))  # fmt: skip
        self.project, self.piece = holding(*layers)

    def box(self, piece: Composition, layer_id: str) -> Value:
        return seen_box(Evaluated(self.project.with_composition(piece), piece, 7.0), piece.layer(layer_id))

    def test_aligned_fitted_and_with_equal_gaps(self) -> None:
        made = aligned(self.project, self.piece, ["shaky", "led"], "left", 7)
        self.assertAlmostEqual(0.0, self.box(made, "shaky")[0], places=4)
        self.assertEqual(self.piece.layer("led"), made.layer("led"))
        made = fitted(self.project, self.piece, ["shaky"], "width", 7)
        np.testing.assert_allclose(self.box(made, "shaky")[::2], (0.0, 96.0), atol=1e-3)
        extra = self.piece.with_layer(self.piece.layer("led").with_track("position", Track((12.0, 9.0))))
        made = distributed(self.project, extra, ["shaky", "led", "lead"], 0, 7)
        boxes = sorted(self.box(made, name) for name in ("shaky", "led", "lead"))
        self.assertAlmostEqual(boxes[1][0] - boxes[0][2], boxes[2][0] - boxes[1][2], places=4)

    def test_where_all_follow_something_else_that_is_said(self) -> None:
        for edit in (lambda: aligned(self.project, self.piece, ["led"], "left", 7),
                     lambda: fitted(self.project, self.piece, ["led"], "width", 7)):  # fmt: skip
            with self.assertRaisesRegex(ModelError, "The place of “Led” follows something else"):
                edit()
