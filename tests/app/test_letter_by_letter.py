"""Letters that arrive part by part, set up in Details alone."""

import unittest

import numpy as np

from spiralis.core.render.frame import render_rgba8
from tests.app.harness import WindowTest


class LetterByLetterTest(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        self.session.edit_layers("Words", lambda y: y.with_values(text="RIBBON", size=70.0), ["words"])
        self.own = self.frame(0)
        self.session.select(["words"])
        self.settle(0.3)
        box = self.editor.details.editors["spread_by"].box
        box.activated.emit(box.findData("letters"))
        self.settle(0.3)

    def enter(self, name: str, text: str) -> None:
        self.settle(0.2)
        self.enter_number(self.editor.details.editors[name].field, text)

    def frame(self, frame: int) -> np.ndarray:
        return render_rgba8(self.session.project, self.session.composition.id, frame, 1.0, 2).astype(int)

    def test_each_shows_others_on_its_way_and_its_own_in_the_end(self) -> None:
        self.enter("spread_opacity", "100")
        self.enter("spread_others", "6")
        self.click(self.editor.details.beads["spread"])
        self.session.go_to(30)
        self.enter("spread", "100")
        self.session.go_to(0)
        self.enter("spread", "0")
        self.assertEqual([0, 30], [key.frame for key in self.layer("words").track("spread").keys])
        seen = [self.frame(frame) for frame in (0, 8, 16, 30, 40)]
        for first, second in ((0, 1), (1, 2), (2, 3)):
            self.assertGreater(np.abs(seen[first] - seen[second]).max(), 100, (first, second))
        for late in seen[3:]:
            np.testing.assert_array_equal(late, seen[3])
        # Where it arrives, it is what was typed.
        x, y = (int(part) for part in self.value("words", "position"))
        there = slice(y - 40, y + 40), slice(x - 140, x + 140)
        np.testing.assert_array_equal(self.own[there], seen[3][there])
        pictures = self.seen_at((8, 16, 40))
        self.assertGreater(np.abs(pictures[0] - pictures[1]).max(), 60)
        self.assertGreater(np.abs(pictures[1] - pictures[2]).max(), 60)


if __name__ == "__main__":
    unittest.main()
