"""Words on plates and words that are typed: added from the menu, changed in Details, seen in the frame."""

import unittest

import numpy as np
from attrs import evolve

from spiralis.core.render.frame import render_rgba8
from tests.app.harness import WindowTest


class WordsDressedTest(WindowTest):
    def choose(self, name: str, value: str) -> None:
        box = self.editor.details.editors[name].box
        box.activated.emit(box.findData(value))
        self.settle(0.3)

    def frame(self, frame: int) -> np.ndarray:
        return render_rgba8(self.session.project, self.session.composition.id, float(frame), 1.0, 2).astype(int)

    def covered(self, layer: str, frame: int) -> int:
        """Return how many pixels a layer covers by itself."""
        session = self.session
        alone = session.project.with_composition(evolve(session.composition, layers=(self.layer(layer),)))
        return int((render_rgba8(alone, session.composition.id, float(frame), 1.0, 2)[..., 3] > 127).sum())

    def test_a_plate_runs_along_the_words_by_keys(self) -> None:
        layer = self.add_shape("Words on a plate")
        whole = self.covered(layer, 0)
        details = self.editor.details
        self.enter_number(details.editors["plate_drawn"].field, "0")
        letters = self.covered(layer, 0)
        self.assertGreater(whole, 2 * letters)
        self.click(details.beads["plate_drawn"])
        self.session.go_to(20)
        self.enter_number(details.editors["plate_drawn"].field, "100")
        self.assertEqual([key.frame for key in self.layer(layer).track("plate_drawn").keys], [0, 20])
        shown = [(self.covered(layer, frame) - letters) / (whole - letters) for frame in (0, 10, 20)]
        self.assertEqual((shown[0], shown[2]), (0.0, 1.0))
        self.assertAlmostEqual(shown[1], 0.5, delta=0.15)
        self.choose("plate", "none")
        self.assertNotIn("plate_drawn", [name for name, each in details.editors.items() if each.isVisible()])

    def test_typed_words_have_a_caret_that_can_be_a_block(self) -> None:
        empty = self.frame(0)
        layer = self.add_shape("Typed words")
        self.assertEqual([key.value for key in self.layer(layer).track("spread").keys], [0.0, 100.0])
        last = self.layer(layer).track("spread").keys[1].frame
        shown = [int((self.frame(frame) != empty).any(axis=-1).sum()) for frame in (0, last // 2, last)]
        self.assertGreater(shown[0], 10, "the caret alone")
        self.assertLess(shown[0], shown[1])
        self.assertLess(shown[1], shown[2])
        self.choose("caret", "block")
        self.assertGreater(int((self.frame(0) != empty).any(axis=-1).sum()), 3 * shown[0])
        box = self.editor.details.editors["caret_shown"].box
        self.click(box)
        self.assertEqual(int((self.frame(0) != empty).any(axis=-1).sum()), 0)


if __name__ == "__main__":
    unittest.main()
