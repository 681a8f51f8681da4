"""Numbers that count: added, dressed in Details, typed among words, counted by an edit of their keys."""

import unittest

import numpy as np
from PyQt6.QtCore import Qt

from spiralis.core.model import layer_kind
from spiralis.core.raster.counting import COUNTS, MARKS, MINUTES
from spiralis.core.render.frame import render_rgba8
from tests.app.harness import WindowTest


class CountingTest(WindowTest):
    def add(self) -> str:
        """Add a counting number from the menu of shapes, and return its layer."""
        return self.add_shape("Counting number")

    def choose(self, name: str, value: str) -> None:
        box = self.editor.details.editors[name].box
        box.activated.emit(box.findData(value))
        self.settle(0.2)

    def words(self, layer: str, frame: int) -> str:
        """Return the words that a layer shows at a frame, as the checks read them."""
        at = self.session.evaluated(frame)
        reads = layer_kind("text").reads
        assert reads is not None
        return str(reads(at.values(self.layer(layer)), at.scene)[0])

    def frame(self, frame: float) -> np.ndarray:
        return render_rgba8(self.session.project, self.session.composition.id, frame, 1.0, 2).astype(int)

    def test_it_counts_over_the_canvas_from_nought_to_a_hundred(self) -> None:
        layer = self.add()
        self.assertEqual([0, 25], [key.frame for key in self.layer(layer).track("number_counted").keys])
        self.assertEqual("0", self.words(layer, 0))
        self.assertEqual("100", self.words(layer, 30))
        seen = self.seen_at((0, 12, 30))
        for first, second in ((0, 1), (1, 2), (0, 2)):
            self.assertGreater(np.abs(seen[first] - seen[second]).max(), 60, (first, second))

    def test_details_say_how_far_and_how_it_is_written(self) -> None:
        layer = self.add()
        self.enter_number(self.editor.details.editors["number"].field, "12500")
        self.enter_number(self.editor.details.editors["number_decimals"].field, "1")
        self.choose("number_marks", MARKS[2])
        self.session.go_to(30)
        self.assertEqual("12.500,0", self.words(layer, 30))
        self.assertEqual("0,0", self.words(layer, 0))
        self.choose("number_form", MINUTES)
        self.assertEqual("208:20,0", self.words(layer, 30))
        self.act("Undo")
        self.assertEqual(COUNTS, self.value(layer, "number_form"))

    def test_it_is_typed_among_words_and_stays_where_the_sign_is(self) -> None:
        layer = self.add()
        self.session.go_to(30)
        self.settle(0.3)
        canvas = self.editor.canvas
        self.double_click(canvas, self.on_canvas(320, 240))
        self.press(canvas, Qt.Key.Key_Home)
        self.type_(canvas, "To ")
        self.press(canvas, Qt.Key.Key_End)
        self.type_(canvas, " %")
        self.assertEqual("To # %", self.value(layer, "text"))
        self.press(canvas, Qt.Key.Key_Left)
        self.press(canvas, Qt.Key.Key_Left)
        self.press(canvas, Qt.Key.Key_Backspace)
        self.assertEqual("To  %", self.value(layer, "text"))
        self.act("Undo")
        # Not the words before as well: the caret was moved in between.
        self.assertEqual("To # %", self.value(layer, "text"))
        self.press(canvas, Qt.Key.Key_Escape)
        self.session.go_to(30)
        self.assertEqual("To 100 %", self.words(layer, 30))

    def test_words_that_do_not_count_keep_their_sign(self) -> None:
        self.session.edit_layers("Words", lambda y: y.with_values(text="#kites"), ["words"])
        self.session.select(["words"])
        self.settle(0.3)
        self.assertNotIn("number", self.editor.details.editors)
        before = self.frame(0)
        self.choose("number_form", COUNTS)
        self.assertGreater(np.abs(before - self.frame(0)).max(), 60)
        self.act("Undo")
        np.testing.assert_array_equal(before, self.frame(0))


if __name__ == "__main__":
    unittest.main()
