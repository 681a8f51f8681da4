"""Edges pinned to others: exact, whatever the words; chains, parents, circles, motion, letting go."""

from __future__ import annotations

import unittest

import numpy as np
from attrs import evolve
from hypothesis import given, settings
from hypothesis import strategies as st

from spiralis.core.editing.edge_pinning import let_go_of, pin_as_it_stands, with_edge_pin, without_edge_pin
from spiralis.core.errors import ModelError
from spiralis.core.model import Composition, EdgePin, Key, Layer, Project, Track
from spiralis.core.model.edge_pins import ACROSS, DOWN, edge_place
from spiralis.core.render import render_frame
from spiralis.core.render.layers import Evaluated, matrices_over
from tests.core.samples import piece


def word(text: str, **values: object) -> Layer:
    return Layer("Word", "text", 0, 40, id="word").with_values(text=text, size=20.0, position=(30.0, 20.0), **values)


def bar(name: str = "bar", *holds: EdgePin, **values: object) -> Layer:
    look = {"form": "rectangle", "size": (8.0, 4.0), "fill": (1.0, 0.0, 0.0, 1.0), "position": (10.0, 30.0), **values}
    return Layer(name.capitalize(), "shape", 0, 40, id=name, edge_pins=holds).with_values(**look)


def seen(composition: Composition, frame: float = 0.0) -> Evaluated:
    return Evaluated(Project("Pinned", (composition,)), composition, frame)


def box(composition: Composition, name: str, frame: float = 0.0) -> tuple[float, float, float, float]:
    at, layer = seen(composition, frame), composition.layer(name)
    return at.matrix(layer).box(at.box(layer))


class EdgePinTest(unittest.TestCase):
    @given(st.sampled_from([*((a, b) for a in ACROSS for b in ACROSS), *((a, b) for a in DOWN for b in DOWN)]),
           st.floats(-50, 50), st.text("abkW ", max_size=8), st.floats(-90, 90))  # fmt: skip
    @settings(deadline=None)
    def test_edges_meet_whatever_the_words_and_the_turn(
        self, edges: tuple[str, str], gap: float, text: str, turn: float
    ) -> None:
        made = piece(bar("bar", EdgePin(*edges, "word", gap), rotation=turn), word(text or "k"))
        own, other = box(made, "bar"), box(made, "word")
        self.assertAlmostEqual(edge_place(own, edges[0]), edge_place(other, edges[1]) + gap, places=6)

    def test_the_frame_holds_too_and_the_other_axis_stays_free(self) -> None:
        made = piece(bar("bar", EdgePin("right", "right", gap=-3.0)), width=64, height=48)
        left, top, right, bottom = box(made, "bar")
        np.testing.assert_allclose((left, top, right, bottom), (53, 28, 61, 32))
        picture = render_frame(Project("Pinned", (made,)), made.id, 0)
        self.assertEqual((picture[30, 57, 3], picture[30, 10, 3]), (1, 0))

    def test_chains_and_children_go_along(self) -> None:
        first = bar("first", EdgePin("left", "right", "word"))
        second = bar("second", EdgePin("left", "right", "first", 2.0))
        child = evolve(bar("child", position=(20.0, 4.0)), parent="second")
        for text in ("k", "kite kite"):
            made = piece(child, second, first, word(text))
            self.assertAlmostEqual(box(made, "second")[0], box(made, "word")[2] + 8 + 2, places=6)
            self.assertAlmostEqual(box(made, "child")[0] - box(made, "second")[0], 16, places=6)

    def test_a_moving_edge_is_followed_and_blurs(self) -> None:
        moving = word("kite").with_track("position", Track((30.0, 20.0), (Key(0, (30.0, 20.0)), Key(20, (50.0, 20.0)))))
        made = piece(bar("bar", EdgePin("left", "right", "word")), moving)
        for frame in (0, 7, 20):
            self.assertAlmostEqual(box(made, "bar", frame)[0], box(made, "word", frame)[2], places=6)
        places = [m.e for m in matrices_over(seen(made, 5), made.layer("bar"), np.array([4.0, 5.0, 6.0]))]
        np.testing.assert_allclose(np.diff(places), 1.0, atol=1e-6)

    def test_circles_are_refused_with_the_chain(self) -> None:
        with self.assertRaisesRegex(ModelError, "circle: First → Second → First"):
            piece(bar("first", EdgePin("left", "right", "second")), bar("second", EdgePin("top", "top", "first")))
        with self.assertRaisesRegex(ModelError, "in a circle"):
            piece(bar("first", EdgePin("left", "right", "second")), evolve(bar("second"), parent="first"))

    def test_unlike_edges_and_two_on_an_axis_are_refused(self) -> None:
        with self.assertRaises(ModelError):
            EdgePin("left", "top")
        with self.assertRaises(ModelError):
            bar("bar", EdgePin("left", "left"), EdgePin("right", "right"))

    def test_a_layer_that_is_gone_holds_nothing(self) -> None:
        self.assertEqual(box(piece(bar("bar", EdgePin("left", "right", "gone"))), "bar"), (6, 28, 14, 32))


class EditingTest(unittest.TestCase):
    def test_holding_and_letting_go_move_nothing(self) -> None:
        made = piece(bar(rotation=20.0), word("kite"))
        before = box(made, "bar")
        hold = pin_as_it_stands(seen(made), made.layer("bar"), "right", "left", "word")
        held = made.with_layer(with_edge_pin(made.layer("bar"), hold))
        np.testing.assert_allclose(box(held, "bar"), before, atol=1e-3)
        longer = held.with_layer(word("kites and kites"))
        self.assertNotAlmostEqual(box(longer, "bar")[0], before[0], places=0)
        free = longer.with_layer(without_edge_pin(seen(longer), longer.layer("bar"), hold))
        self.assertEqual(free.layer("bar").edge_pins, ())
        np.testing.assert_allclose(box(free, "bar"), box(longer, "bar"), atol=1e-6)

    def test_what_held_to_a_deleted_layer_stays_where_it_is(self) -> None:
        made = piece(
            bar("second", EdgePin("top", "bottom", "bar", 2.0)), bar("bar", EdgePin("left", "right", "word")), word("k")
        )
        before = box(made, "bar"), box(made, "second")
        loose, names = let_go_of(seen(made), ["word"])
        self.assertEqual(names, ["Bar"])
        rest = evolve(loose, layers=tuple(y for y in loose.layers if y.id != "word"))
        np.testing.assert_allclose((box(rest, "bar"), box(rest, "second")), before, atol=1e-6)
        self.assertEqual(len(rest.layer("second").edge_pins), 1)
        self.assertEqual([], rest.layer("bar").animated(), "what rests needs no keys")

    def test_another_hold_on_the_axis_takes_the_place(self) -> None:
        layer = with_edge_pin(bar("bar", EdgePin("left", "left"), EdgePin("top", "top")), EdgePin("right", "right"))
        self.assertEqual([hold.edge for hold in layer.edge_pins], ["top", "right"])


if __name__ == "__main__":
    unittest.main()
