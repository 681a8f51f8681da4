"""Words along another layer's outline: they follow it as it moves, changes, is copied and goes."""

from __future__ import annotations

import unittest

import numpy as np
from attrs import evolve

from spiralis.core.cache import BUDGET
from spiralis.core.editing.nesting import nest
from spiralis.core.editing.removing import removed
from spiralis.core.editing.wording import along_layer, along_path, off_path
from spiralis.core.errors import ModelError
from spiralis.core.model import Key, Layer, Project, Track
from spiralis.core.render import render_frame
from spiralis.core.render.layers import Evaluated
from tests.core.samples import backdrop, project


def ring(**values: object) -> Layer:
    return Layer("Ring", "shape", 0, 20, id="ring").with_values(
        **{"form": "ellipse", "size": (160.0, 120.0), "position": (120.0, 90.0), "fill": (0.0, 0.0, 0.0, 0.0), **values}
    )


def moving(**values: object) -> Layer:
    way = Track((100.0, 90.0), (Key(0, (100.0, 90.0)), Key(10, (150.0, 100.0))))
    return ring(**values).with_track("position", way).with_track("rotation", Track(0.0, (Key(0, 0.0), Key(10, 40.0))))


def words(**values: object) -> Layer:
    return Layer("Words", "text", 0, 20, id="words").with_values(
        **{"text": "round and round it goes", "size": 22.0, "fill": (1.0, 1.0, 1.0, 1.0), **values}
    )


def piece(*layers: Layer) -> Project:
    return project(*layers, width=240, height=200, length=20)


def at(start: Project, frame: int) -> Evaluated:
    return Evaluated(start, start.compositions[0], float(frame))


def picture(start: Project, frame: int) -> np.ndarray:
    return render_frame(start, "Piece", frame)


class LivePathTest(unittest.TestCase):
    def live(self, shape: Layer, text: Layer, *others: Layer) -> Project:
        start = piece(text, shape, *others)
        return piece(along_layer(at(start, 0), text, shape), shape, *others)

    def test_at_each_frame_it_is_what_was_set_along_the_outline_as_it_is_then(self) -> None:
        start = piece(words(), moving())
        live = self.live(moving(), words())
        for frame in (0, 4, 10):
            fixed = along_path(at(start, frame), words(), moving())
            # Letters of a fixed path are rounded to hundredths of a px.
            difference = np.abs(picture(live, frame) - picture(piece(fixed, moving()), frame))
            self.assertLess(float(difference.mean()), 2e-3, frame)
            self.assertLess(float(difference.max()), 0.15, frame)
        self.assertGreater(float(np.abs(picture(live, 0) - picture(live, 10)).max()), 0.5)

    def test_it_holds_where_either_hangs_on_a_carrier(self) -> None:
        carrier = Layer("Carrier", "carrier", 0, 20, id="carrier").with_values(
            position=(130.0, 80.0), rotation=20.0, scale=(80.0, 80.0)
        )
        hung = evolve(ring(position=(50.0, 50.0)), parent="carrier")
        free = self.live(hung, words(), carrier)
        alike = self.live(hung, evolve(words(size=22.0 / 0.8), parent="carrier"), carrier)
        self.assertGreater(float(picture(free, 0)[..., 3].max()), 0.9)
        difference = np.abs(picture(free, 0) - picture(alike, 0))
        self.assertLess(float(difference.mean()), 4e-3)

    def test_they_lie_on_it_wherever_they_are_themselves_and_grow_by_their_scale(self) -> None:
        start = self.live(ring(), words())
        text = start.compositions[0].layer("words")
        moved = text.with_values(position=(17.0, 180.0), rotation=33.0)
        again = piece(moved, ring())
        self.assertLess(float(np.abs(picture(again, 0) - picture(start, 0)).mean()), 4e-3)
        large = piece(text.with_values(scale=(150.0, 150.0), size=22.0 / 1.5), ring())
        self.assertLess(float(np.abs(picture(large, 0) - picture(start, 0)).mean()), 4e-3)

    def test_nesting_keeps_what_is_seen(self) -> None:
        start = self.live(ring(), words())
        nested = nest(start, start.compositions[0].id, ["words", "ring"], "Inner", cropped=True)[0]
        difference = np.abs(render_frame(nested, "Piece", 0) - picture(start, 0))
        self.assertLess(float(difference.mean()), 4e-3)

    def test_a_change_of_the_shape_alone_changes_the_words_and_what_is_kept_is_fresh(self) -> None:
        start = self.live(ring(), words(), backdrop(240, 200, (0.1, 0.1, 0.2, 1.0)))
        before = picture(start, 3)
        np.testing.assert_array_equal(picture(start, 4), before)
        wider = start.compositions[0].layer("ring").with_values(size=(200.0, 60.0))
        changed = start.with_composition(start.compositions[0].with_layer(wider))
        after = picture(changed, 3)
        self.assertGreater(float(np.abs(after - before).max()), 0.5)
        BUDGET.clear()
        np.testing.assert_array_equal(picture(changed, 3), after)

    def test_a_shape_that_goes_leaves_the_words_where_they_are_and_says_so(self) -> None:
        start = self.live(ring(), words())
        removal = removed(start, start.compositions[0], ["ring"], 0)
        after = start.with_composition(removal.piece)
        self.assertLess(float(np.abs(picture(after, 0) - picture(start, 0)).mean()), 2e-3)
        self.assertIn("keeps its path", " ".join(removal.notes))
        self.assertEqual(after.compositions[0].layer("words").track("path_layer").value, "")

    def test_a_layer_without_an_outline_that_goes_leaves_the_words_straight_and_says_so(self) -> None:
        others = (Layer("Carrier", "carrier", 0, 20, id="other"), Layer("Empty", "shape", 0, 20, id="other"))
        for other in others:
            start = piece(words(path_layer="other"), other)
            removal = removed(start, start.compositions[0], ["other"], 0)
            self.assertIn("Runs along of “Words” is empty now.", removal.notes)
            self.assertEqual(removal.piece.layer("words").track("path_layer").value, "")

    def test_words_keep_the_outline_of_other_words_that_go(self) -> None:
        start = piece(words(path_layer="other"), Layer("Other", "text", 0, 20, id="other").with_values(text="O"))
        removal = removed(start, start.compositions[0], ["other"], 0)
        after = start.with_composition(removal.piece)
        ahead = picture(piece(start.compositions[0].layer("words"), start.compositions[0].layer("other").with_values(
            visible=False)), 0)  # fmt: skip
        self.assertLess(float(np.abs(picture(after, 0) - ahead).mean()), 2e-3)

    def test_off_the_path_they_are_straight(self) -> None:
        start = self.live(ring(), words())
        straight = off_path(start.compositions[0].layer("words"))
        left, top, right, bottom = at(piece(straight), 0).box(straight)
        self.assertLess(bottom - top, 40.0)
        self.assertGreater(right - left, 150.0)

    def test_what_has_no_outline_is_refused(self) -> None:
        carrier = Layer("Carrier", "carrier", 0, 20, id="carrier")
        start = piece(words(), carrier)
        with self.assertRaises(ModelError):
            along_layer(at(start, 0), words(), carrier)


if __name__ == "__main__":
    unittest.main()
