"""Places that effects have are grabbed on the canvas: centres, and the corners a layer is pinned to."""

from __future__ import annotations

import unittest

import numpy as np
from PyQt6.QtCore import QPointF

from spiralis.app.canvas.content_grips import content_grips
from spiralis.core.editing.effecting import with_effect
from tests.app.harness import WindowTest


class EffectGripsTest(WindowTest):
    def add(self, kind: str) -> str:
        self.session.go_to(0)
        self.session.select(["square"])
        self.session.edit_layers("Add", lambda layer: with_effect(layer, kind))
        self.settle()
        return self.layer("square").blocks[-1].id

    def grips(self) -> dict[str, QPointF]:
        found = content_grips(self.session, self.editor.canvas.viewport.to_widget)
        return {grip.what: QPointF(*grip.place) for grip in found}

    def test_a_corner_is_dragged_and_the_picture_follows(self) -> None:
        block = self.add("corner-pin")
        before = self.picture().astype(int)
        corner = self.grips()[f"{block}.top_left"]
        # The square is 100 px wide, its corner at (110, 190).
        self.assertLess((corner - self.on_canvas(110, 190)).manhattanLength(), 1.5)
        self.drag(self.editor.canvas, corner, self.on_canvas(140, 210))
        x, y = self.value("square", f"{block}.top_left")
        self.assertAlmostEqual(x, 30.0, delta=2.0)
        self.assertAlmostEqual(y, 20.0, delta=2.0)
        self.assertEqual(self.session.history.undo_name, "Corner pin: Top left")
        self.assertGreater(int(np.abs(self.picture().astype(int) - before).max()), 60)
        self.session.undo()
        self.assertEqual(self.value("square", f"{block}.top_left"), (0.0, 0.0))

    def test_a_centre_carries_keys_where_it_has_some(self) -> None:
        block = self.add("twirl")
        self.click(self.editor.details.beads[f"{block}.centre"])
        self.session.go_to(20)
        self.settle()
        centre = self.grips()[f"{block}.centre"]
        self.drag(self.editor.canvas, centre, centre + QPointF(10, 0))
        keys = self.layer("square").track(f"{block}.centre").keys
        self.assertEqual([key.frame for key in keys], [0, 20])
        self.assertGreater(keys[1].value[0], 55.0)

    def test_what_is_off_or_locked_has_none(self) -> None:
        block = self.add("twirl")
        self.assertIn(f"{block}.centre", self.grips())
        self.session.set_property(f"{block}.on", False, ["square"])
        self.assertEqual(self.grips(), {})
        self.session.set_property(f"{block}.on", True, ["square"])
        self.act("Lock or unlock")
        self.assertEqual(self.grips(), {})


if __name__ == "__main__":
    unittest.main()
