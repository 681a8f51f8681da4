"""A label that is let stick to a picture beneath it, by the menu and its window."""

from __future__ import annotations

import unittest

import numpy as np
from attrs import evolve
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QApplication

from spiralis.app.moves.sticking import StickWindow
from spiralis.core.media.pictures import picture_source
from spiralis.core.model import Key, Layer, Project
from tests.app.harness import WindowTest
from tests.core.samples import backdrop, moving, png_bytes, project
from tests.core.test_sticking import texture


def _with_card() -> Project:
    """Return a card that goes to the right and down, a label on it that has keys of its own, a flat ground."""
    pixels = np.dstack([texture(160, 120, seed) for seed in (1, 2, 3)] + [np.full((120, 160), 255, np.uint8)])
    source = picture_source(png_bytes(pixels), "card.png")
    card = Layer("Card", "picture", 0, 20, id="card").with_values(source=source.id, position=(120.0, 120.0))
    label = Layer("Label", "shape", 0, 20, id="label").with_values(form="rectangle", size=(90.0, 60.0))
    layers = (moving(label, (120.0, 120.0), (60.0, 60.0), 18), moving(card, (120.0, 120.0), (240.0, 180.0), 19))
    ground = backdrop(400, 300, (0.1, 0.2, 0.3, 1.0))
    return project(*layers, ground, sources=(source,), width=400, height=300, length=20)


class StickTest(WindowTest):
    sample = staticmethod(_with_card)

    def begin(self, *names: str, frame: int = 0) -> StickWindow:
        self.session.go_to(frame)
        self.session.select(list(names))
        self.act("Stick to what lies beneath…")
        found = QApplication.activeModalWidget()
        assert isinstance(found, StickWindow)
        return found

    def test_it_goes_along_in_one_step_and_says_which_keys_gave_way(self) -> None:
        told: list[str] = []
        self.session.said.connect(told.append)
        window, before = self.begin("label"), self.layer("label")
        self.assertFalse(window.bar.isVisible())
        self.click(window.go)
        self.until(lambda: not window.isVisible())
        self.assertEqual(len(self.layer("label").track("position").keys), 20)
        at = self.session.evaluated(19.0)
        x, y = at.values(self.layer("label"))["position"]
        self.assertLess(abs(x - 240.0) + abs(y - 180.0), 0.3)
        self.assertEqual(told[-1], "“Label” sticks to what lies beneath it from frame 0 to 19; 2 keys gave way.")
        self.session.go_to(19)
        self.until(lambda: self.window.player.picture() is not None)
        self.assertEqual(self.session.history.undo_name, "Stick to what lies beneath")
        self.session.undo()
        self.assertEqual(self.layer("label"), before)

    def test_what_cannot_be_is_said_in_its_window_and_another_way_can_be_tried(self) -> None:
        window = self.begin("card")
        self.click(window.go)
        self.until(lambda: window.go.isEnabled())
        self.assertTrue(window.problem.isVisible())
        self.assertIn("held on to", window.problem.text())
        self.assertTrue(window.isVisible())
        self.assertFalse(self.session.history.unsaved)
        self.press(window, Qt.Key.Key_Escape)
        self.assertFalse(window.isVisible())

    def test_stopping_leaves_everything_as_it_was(self) -> None:
        window = self.begin("label")
        self.click(window.go)
        self.assertTrue(window.bar.isVisible())
        self.assertEqual(window.close_button.text(), "Stop")
        self.click(window.close_button)
        self.assertFalse(window.isVisible())
        self.until(lambda: not window._working._background.busy)
        self.settle()
        self.assertFalse(self.session.history.unsaved)

    def test_pinned_corners_are_what_goes_along_where_there_are_some(self) -> None:
        window = self.begin("label")
        self.assertEqual(window.way.currentData(), "place")
        window.reject()
        self.session.select(["label"])
        self.act("Pin to four corners")
        self.drag(self.editor.canvas, self.on_canvas(80, 90), self.on_canvas(160, 150))
        window = self.begin("label")
        self.assertEqual(window.way.currentData(), "corners")
        self.click(window.go)
        self.until(lambda: not window.isVisible(), 40)
        label = self.layer("label")
        block = label.blocks[-1]
        self.assertEqual(len(label.track(block.named("top_left")).keys), 20)
        self.assertEqual(label.track("position").keys, (Key(0, (120.0, 120.0), label.track("position").keys[0].easing),
                                                        label.track("position").keys[1]))  # fmt: skip

    def test_a_locked_layer_and_one_that_is_lost_say_so(self) -> None:
        self.session.edit_layers("Lock", lambda layer: evolve(layer, locked=True), ["label"])
        window = self.begin("label")
        self.click(window.go)
        self.until(lambda: window.go.isEnabled())
        self.assertEqual(window.problem.text(), "“Label” is locked.")
        window.reject()
        self.session.undo()
        self.session.edit_layers("Trim", lambda layer: evolve(layer, last=12), ["card"])
        told: list[str] = []
        self.session.said.connect(told.append)
        window = self.begin("label", frame=3)
        self.click(window.go)
        self.until(lambda: not window.isVisible())
        self.assertRegex(told[-1], "from frame 0 to 11; beyond, that was not to be seen; a key gave way.$")

    def test_a_layer_must_be_chosen(self) -> None:
        self.session.select([])
        self.act("Stick to what lies beneath…")
        self.assertIsNone(QApplication.activeModalWidget())


if __name__ == "__main__":
    unittest.main()
