"""The colour panel: by numbers, planes, swatches and the dropper."""

from __future__ import annotations

import numpy as np
from attrs import evolve
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtWidgets import QPushButton

from spiralis.app.colours import ColourPanel
from spiralis.app.colours.planes import reach
from spiralis.core.colour import to_oklch
from tests.app.harness import WindowTest


class ColourPanelTest(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        self.moved: list[tuple[float, ...]] = []
        self.panel = ColourPanel(self.window, "Fill", (1.0, 0.0, 0.0, 1.0), self.session)
        self.panel.moved.connect(self.moved.append)
        self.panel.show()
        self.settle()
        self.addCleanup(self.panel.close)

    def test_numbers_in_each_notation_agree(self) -> None:
        self.enter_number(self.panel.fields["HSL"][0], "120")
        self.assertEqual(self.panel.hex.text(), "#00ff00")
        self.assertEqual([f.value for f in self.panel.fields["RGB"]], [0, 255, 0])
        self.assertAlmostEqual(self.panel.fields["OKLCH"][0].value or 0, 86.6, 1)
        self.enter_number(self.panel.fields["RGB"][2], "255")
        self.assertEqual(self.panel.hex.text(), "#00ffff")
        self.panel.hex.setText("no colour")
        self.panel.hex.editingFinished.emit()
        self.assertEqual(self.panel.hex.text(), "#00ffff")
        self.assertEqual(len(self.moved), 2)

    def test_dragging_in_the_plane_keeps_the_hue_and_the_strip_turns_it(self) -> None:
        hue = to_oklch(self.panel.value)[2]
        plane = self.panel.plane
        self.drag(plane, QPointF(100, 60), QPointF(60, 90))
        lightness, chroma, after = to_oklch(self.panel.value)
        self.assertAlmostEqual(lightness, 1 - 90 / plane.height(), delta=0.02)
        self.assertAlmostEqual(chroma, reach(hue, lightness) * 60 / plane.width(), delta=0.01)
        self.assertAlmostEqual(after, hue, delta=1.0)
        self.click(self.panel.hues, QPointF(self.panel.hues.width() / 2, 8))
        self.assertAlmostEqual(to_oklch(self.panel.value)[2], 180.0, delta=2.0)
        self.click(self.panel.alphas, QPointF(self.panel.alphas.width() * 0.25, 8))
        self.assertAlmostEqual(self.panel.value[3], 0.25, delta=0.01)

    def test_a_hex_text_that_is_only_left_changes_nothing(self) -> None:
        self.panel._set((0.1234, 0.5678, 0.9012, 1.0))
        self.moved.clear()
        self.click(self.panel.hex)
        self.panel.hues.setFocus(Qt.FocusReason.MouseFocusReason)
        self.settle()
        self.assertEqual(((0.1234, 0.5678, 0.9012, 1.0), []), (self.panel.value, self.moved))

    def test_many_swatches_are_scrolled_and_too_many_are_a_sentence(self) -> None:
        grid = self.panel.grid
        assert grid is not None
        many = tuple((n / 255, 0.0, 0.0, 1.0) for n in range(60))
        grid.add(*many)
        self.settle()
        plus = grid.cell(60)
        self.assertTrue(grid.rect().toRectF().contains(plus))
        self.assertTrue(grid.visibleRegion().contains(plus.center().toPoint()), "the plus is in sight")
        self.click(grid, plus.center())
        self.assertEqual(61, len(self.session.project.swatches))
        grid.add(*((0.0, n / 255, 1.0, 1.0) for n in range(256)))
        self.assertEqual(61, len(self.session.project.swatches))
        self.assertIn("up to 256 swatches", self.said[-1])

    def test_a_picture_that_is_gone_meanwhile_is_a_sentence(self) -> None:
        source = self.session.project.sources[0]
        gone = evolve(source, data=None, place=self.folder / "gone.png", linked=True)
        self.session.edit_project("Gone", evolve(self.session.project, sources=(gone,)))
        self.session.select(["square"])
        self.click(next(b for b in self.panel.findChildren(QPushButton) if b.text() == "From the chosen picture"))
        self.assertIn("gone.png", self.said[-1])

    def test_swatches_are_kept_taken_dropped_and_undone(self) -> None:
        grid = self.panel.grid
        assert grid is not None
        self.click(grid, grid.cell(0).center())
        self.assertEqual(self.session.project.swatches, ((1.0, 0.0, 0.0, 1.0),))
        self.enter_number(self.panel.fields["RGB"][0], "10")
        self.click(grid, grid.cell(0).center())
        self.assertEqual(self.panel.value, (1.0, 0.0, 0.0, 1.0))
        self.press(grid, Qt.Key.Key_Delete)
        self.assertEqual(self.session.project.swatches, ())
        self.session.undo()
        self.assertEqual(len(self.session.project.swatches), 1)
        self.session.select(["square"])
        self.panel._draw_out()
        self.assertEqual(self.session.project.swatches, ((1.0, 0.0, 0.0, 1.0),))

    def test_the_dropper_takes_a_colour_off_the_canvas(self) -> None:
        self.picture()
        self.settle(0.2)
        self.panel.take_from_window()
        dropper = self.panel.dropper
        assert dropper is not None
        place = self.editor.canvas.mapTo(self.window, self.on_canvas(600, 400).toPoint()).toPointF()
        self.click(dropper, place)
        np.testing.assert_allclose(self.panel.value[:3], (0.1, 0.2, 0.3), atol=0.01)
