"""Rows that are kept: whatever is edited, a frame is the same as one of layers that nobody has drawn before."""

from __future__ import annotations

import unittest
from fractions import Fraction

import numpy as np
from attrs import evolve

from spiralis.core.model import Composition, Key, Layer, Project, Track
from spiralis.core.model.drivers import Wobble
from spiralis.core.render.frame import render_frame
from spiralis.core.render.layers import Evaluated
from spiralis.core.render.row_cache import stands_alone, stands_still
from spiralis.demo.stored import stored_demo


def fresh(project: Project, piece_id: str) -> Project:
    """Return the project with the piece's layers as equal values that nothing is kept beside."""
    piece = project.composition(piece_id)
    return project.with_composition(evolve(piece, layers=tuple(evolve(layer) for layer in piece.layers)))


class AnotherKindTest(unittest.TestCase):
    def test_who_holds_a_layer_that_became_of_another_kind_takes_nothing_from_what_it_is_now(self) -> None:
        words = Layer("Sign", "text", 0, 10, id="sign").with_values(text="Kite", position=(9.0, 8.0))
        outlines = Layer("Sign", "shape", 0, 10, id="sign").with_values(form="star", position=(30.0, 20.0))
        piece = Composition("piece", 64, 48, Fraction(25), 10, layers=(outlines,), id="piece")
        at = Evaluated(Project(compositions=(piece,)), piece, 0.0)
        self.assertEqual("Kite", at.values(words)["text"])
        self.assertEqual("star", at.values(outlines)["form"])
        self.assertEqual((0.0, 0.0, 300.0, 300.0), at.box(outlines))


class RowCacheTest(unittest.TestCase):
    def same(self, project: Project, piece_id: str, frame: float) -> None:
        made = render_frame(project, piece_id, frame, 0.25)
        wanted = render_frame(fresh(project, piece_id), piece_id, frame, 0.25)
        np.testing.assert_array_equal(made, wanted, f"{piece_id} {frame}")

    def test_after_an_edit_of_any_layer_a_frame_is_as_if_drawn_for_the_first_time(self) -> None:
        demo = stored_demo()
        for piece in demo.compositions:
            frame = piece.length // 3
            render_frame(demo, piece.id, frame, 0.25)
            for layer in piece.layers[:: max(len(piece.layers) // 3, 1)]:
                changed = layer.with_values(opacity=40.0) if layer.has("opacity") else evolve(layer, first=1)
                edited = demo.with_composition(piece.with_layer(changed))
                self.same(edited, piece.id, frame)
                self.same(edited, piece.id, frame + 1)
                self.same(edited, piece.id, frame)

    def test_what_a_piece_says_about_all_layers_counts(self) -> None:
        moving = Track((10.0, 40.0), (Key(0, (10.0, 40.0)), Key(10, (150.0, 60.0))))
        dot = Layer("Dot", "shape", 0, 20, id="dot").with_values(form="ellipse", size=(40.0, 40.0), motion_blur=True)
        soft = Layer("Soft", "shape", 0, 20, id="soft").with_values(form="ellipse", size=(90.0, 60.0), opacity=50.0,
                                                                   position=(90.0, 50.0))  # fmt: skip
        piece = Composition("P", 200, 100, Fraction(25), 20, id="p",
                            layers=(dot.with_track("position", moving), soft))  # fmt: skip
        project = Project("P", (piece,))
        for change in (
            {"shutter_angle": 360.0}, {"shutter_phase": 0.0}, {"light": "linear"}, {"width": 160}, {"loop": False},
            {"blur_of": "everything"}, {"rate": Fraction(50)}, {"length": 15}, {"background": (1.0, 0.0, 0.0, 1.0)},
        ):  # fmt: skip
            render_frame(project, "p", 5, 0.25)
            self.same(project.with_composition(evolve(piece, **change)), "p", 5)

    def test_a_source_that_was_replaced_shows(self) -> None:
        demo = stored_demo()
        kites = [source for source in demo.sources if source.name.startswith("kite")]
        piece = demo.composition("kite-day")
        render_frame(demo, piece.id, 60, 0.25)
        swapped = {kites[0].id: evolve(kites[1], id=kites[0].id), kites[1].id: evolve(kites[0], id=kites[1].id)}
        changed = evolve(demo, sources=tuple(swapped.get(source.id, source) for source in demo.sources))
        self.same(changed, piece.id, 60)

    def test_a_wobble_follows_the_rate_and_the_span_over_which_it_loops(self) -> None:
        wobbling = Track((50.0, 50.0), wobble=Wobble(30.0, 2.0, seed=3))
        dot = Layer("Dot", "shape", 0, 20, id="dot").with_values(form="ellipse", size=(40.0, 40.0))
        piece = Composition("P", 100, 100, Fraction(25), 20, id="p", layers=(dot.with_track("position", wobbling),))
        project = Project("P", (piece,))
        for change in ({"rate": Fraction(12)}, {"play_span": (0, 9)}, {"length": 31}):
            render_frame(project, "p", 5, 0.25)
            self.same(project.with_composition(evolve(piece, **change)), "p", 5)

    def test_what_hangs_on_others_is_not_kept(self) -> None:
        plain = Layer("Plain", "shape", 0, 20)
        self.assertTrue(stands_alone(plain) and stands_still(plain))
        keyed = plain.with_track("rotation", Track(0.0, (Key(0, 0.0), Key(5, 9.0))))
        self.assertTrue(stands_alone(keyed) and not stands_still(keyed))
        self.assertFalse(stands_alone(evolve(plain, parent="other")))
        self.assertFalse(stands_alone(Layer("Nest", "nested", 0, 20)))
        self.assertFalse(stands_alone(Layer("Copies", "copies", 0, 20)))


if __name__ == "__main__":
    unittest.main()
