"""Pinning a layer to four corners on the canvas, and the loupe beside what is dragged."""

from __future__ import annotations

import unittest

from attrs import evolve
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtTest import QTest

from spiralis.app.canvas.loupe import MAGNIFIED, RADIUS, Loupe
from spiralis.app.canvas.pin_tool import PinTool
from spiralis.core.editing.corner_pinning import in_order, pinned_to
from spiralis.core.editing.effecting import with_effect
from spiralis.core.effects.corner_pin import CORNERS
from spiralis.core.errors import ModelError
from spiralis.core.media.source_kinds.footage import footage_source
from spiralis.core.model import Layer
from tests.app.harness import LEFT, NONE, WindowTest
from tests.core.clips import encode


class PinTest(WindowTest):
    def begin(self, name: str = "square") -> None:
        self.session.go_to(0)
        self.session.select([name])
        self.act("Pin to four corners")
        self.assertIsInstance(self.editor.canvas.toolbox.tool, PinTool)

    def pin_of(self, name: str) -> list[tuple[float, float]]:
        block = self.layer(name).blocks[-1]
        return [self.value(name, block.named(corner)) for corner, _, _ in CORNERS]

    def in_frame(self, name: str) -> list[tuple[float, float]]:
        """Return where the corners of a pinned layer are, in the composition's pixels."""
        layer, at = self.layer(name), self.session.evaluated()
        left, top, right, bottom = at.box(layer)
        spots = [(left + x / 100 * (right - left), top + y / 100 * (bottom - top)) for x, y in self.pin_of(name)]
        return [at.matrix(layer).apply(*spot) for spot in spots]

    def test_a_rectangle_is_a_pin_in_one_step(self) -> None:
        self.begin()
        self.drag(self.editor.canvas, self.on_canvas(300, 100), self.on_canvas(500, 220))
        self.assertIsNone(self.editor.canvas.toolbox.tool)
        self.assertEqual([block.kind for block in self.layer("square").blocks], ["corner-pin"])
        corners = [(300, 100), (500, 100), (500, 220), (300, 220)]
        for found, wanted in zip(self.in_frame("square"), corners, strict=True):
            self.assertLess(max(abs(found[0] - wanted[0]), abs(found[1] - wanted[1])), 2.0)
        picture = self.picture()
        h, w = picture.shape[0] / 480, picture.shape[1] / 640
        self.assertGreater(int(picture[int(160 * h), int(320 * w), 0]), 200)
        self.assertLess(int(picture[int(240 * h), int(160 * w), 0]), 100, "nothing is left where it was")
        self.assertEqual(self.session.history.undo_name, "Pin Square to four corners")
        self.session.undo()
        self.assertEqual(self.layer("square").blocks, ())

    def test_over_footage_it_says_how_the_corners_go_along(self) -> None:
        told: list[str] = []
        self.session.said.connect(told.append)
        clip = footage_source(encode("libx264", "mp4", "yuv420p", 10), "clip.mp4", ".mp4")
        for behind, wanted in ((False, False), (True, True)):
            if behind:
                project, source = self.session.project.with_source(clip)
                self.session.edit_project("Bring a clip in", project)
                layer = Layer("Clip", "footage", 0, 50).with_values(source=source.id, position=(320.0, 240.0))
                layers = self.session.composition.layers
                layers = (*layers[:2], layer, *layers[2:])
                self.session.edit("Add a clip", lambda old, layers=layers: evolve(old, layers=layers))
                self.settle()
            told.clear()
            self.begin()
            self.drag(self.editor.canvas, self.on_canvas(300, 100), self.on_canvas(500, 220))
            self.assertEqual(any("Stick to what lies beneath" in words for words in told), wanted)

    def test_four_clicks_in_any_order_do_it_too(self) -> None:
        self.begin()
        corners = [(500, 260), (300, 100), (280, 300), (520, 90)]
        for x, y in corners[:3]:
            self.click(self.editor.canvas, self.on_canvas(x, y))
        self.assertIsNotNone(self.editor.canvas.toolbox.tool)
        self.assertEqual(self.layer("square").blocks, ())
        self.click(self.editor.canvas, self.on_canvas(*corners[3]))
        for found, wanted in zip(self.in_frame("square"), [(300, 100), (520, 90), (500, 260), (280, 300)], strict=True):
            self.assertLess(max(abs(found[0] - wanted[0]), abs(found[1] - wanted[1])), 2.0)

    def test_escape_leaves_backspace_takes_a_corner_back_and_the_layer_stays(self) -> None:
        self.begin()
        self.click(self.editor.canvas, self.on_canvas(300, 100))
        self.act("Undo")
        self.act("Redo")
        self.press(self.editor.canvas, Qt.Key.Key_Backspace)
        self.act("Undo")
        self.assertEqual(len(self.editor.canvas.toolbox.tool.corners), 1)
        self.act("Redo")
        tool = self.editor.canvas.toolbox.tool
        assert isinstance(tool, PinTool)
        self.assertEqual(tool.corners, [])
        self.assertIsNotNone(self.session.composition.find("square"))
        self.press(self.editor.canvas, Qt.Key.Key_Escape)
        self.assertIsNone(self.editor.canvas.toolbox.tool)
        self.assertFalse(self.session.history.unsaved)

    def test_corners_on_one_line_are_refused_with_a_sentence(self) -> None:
        self.begin()
        for x in (100, 200, 300, 400):
            self.click(self.editor.canvas, self.on_canvas(x, 150))
        self.assertIn("corners of one surface", self.said[-1])
        self.assertEqual(self.layer("square").blocks, ())

    def test_no_layer_two_or_a_locked_one_cannot_be_pinned(self) -> None:
        for ids in ([], ["square", "words"]):
            self.session.select(ids)
            self.act("Pin to four corners")
            self.assertIn("one layer", self.said[-1])
        self.session.edit("Lock", lambda c: c.with_layer(evolve(c.layer("square"), locked=True)), locked_too=True)
        self.session.select(["square"])
        self.act("Pin to four corners")
        self.assertIn("locked", self.said[-1])
        self.assertIsNone(self.editor.canvas.toolbox.tool)

    def test_a_layer_that_goes_meanwhile_takes_the_tool_along(self) -> None:
        self.begin("words")
        self.session.edit("Delete", lambda c: evolve(c, layers=tuple(y for y in c.layers if y.id != "words")))
        self.settle()
        self.assertIsNone(self.editor.canvas.toolbox.tool)

    def test_an_old_pin_takes_the_corners_with_keys_where_it_has_some(self) -> None:
        self.begin()
        self.drag(self.editor.canvas, self.on_canvas(300, 100), self.on_canvas(500, 220))
        block = self.layer("square").blocks[-1]
        self.click(self.editor.details.beads[block.named("top_left")])
        self.session.go_to(20)
        at = self.session.evaluated()
        moved = pinned_to(at, self.layer("square"), [(10, 10), (90, 10), (90, 80), (10, 80)])
        self.assertEqual([b.id for b in moved.blocks], [block.id])
        self.assertEqual([key.frame for key in moved.track(block.named("top_left")).keys], [0, 20])

    def test_the_order_begins_at_the_top_left_and_goes_clockwise(self) -> None:
        square = [(0.0, 0.0), (9.0, 1.0), (10.0, 8.0), (1.0, 9.0)]
        for start in range(4):
            turned = square[start:] + square[:start]
            self.assertEqual(in_order(turned), tuple(square))
            self.assertEqual(in_order(turned[::-1]), tuple(square))
        with self.assertRaises(ModelError):
            pinned_to(self.session.evaluated(), self.layer("square"), [(0, 0), (10, 0), (5, 3), (5, 9)])


class LoupeTest(WindowTest):
    def loupe(self) -> Loupe:
        return self.editor.canvas.loupe

    def test_a_dragged_corner_is_seen_larger_and_exactly(self) -> None:
        self.session.go_to(0)
        self.session.select(["square"])
        self.session.edit_layers("Add", lambda layer: with_effect(layer, "corner-pin"), ["square"])
        self.settle()
        canvas, corner = self.editor.canvas, self.on_canvas(110, 190)
        QTest.mousePress(canvas, LEFT, NONE, corner.toPoint())
        self._move(canvas, corner + QPointF(3, 3), NONE)
        self.settle()
        loupe = self.loupe()
        self.until(lambda: loupe._shown is not None)
        assert loupe._shown is not None
        _, _, pixels = loupe._shown
        # The corner of the red square lies in the middle of what is seen: red below and to the right of it alone.
        half = pixels.shape[0] // 2
        self.assertGreater(int(pixels[half + 4, half + 4, 0]), 200)
        for dy, dx in ((-4, -4), (-4, 4), (4, -4)):
            self.assertLess(int(pixels[half + dy, half + dx, 0]), 100, (dx, dy))
        shot = canvas.grab().toImage()
        place = QPointF(*canvas.viewport.to_widget.apply(*canvas.hand.drag.here))
        middle = loupe.middle(place, QRectF(canvas.rect()))
        seen = shot.pixelColor((middle + QPointF(5, 5) * MAGNIFIED).toPoint())
        self.assertGreater(seen.red(), 200)
        QTest.mouseRelease(canvas, LEFT, NONE, corner.toPoint())
        self.settle()
        canvas.grab()
        self.assertIsNone(loupe._shown)

    def test_it_stays_within_the_canvas(self) -> None:
        room = QRectF(0, 0, 400, 300)
        disc = QRectF(0, 0, 2 * RADIUS, 2 * RADIUS)
        for x in (1, 200, 399):
            for y in (1, 150, 299):
                disc.moveCenter(Loupe.middle(QPointF(x, y), room))
                self.assertTrue(room.contains(disc) and not disc.contains(QPointF(x, y)), (x, y, disc))

    def test_it_comes_with_the_pin_tool(self) -> None:
        self.session.select(["square"])
        self.act("Pin to four corners")
        self._move(self.editor.canvas, self.on_canvas(200, 200), NONE)
        self.settle()
        self.until(lambda: self.loupe()._shown is not None)
        self.press(self.editor.canvas, Qt.Key.Key_Escape)
        self.editor.canvas.grab()
        self.assertIsNone(self.loupe()._shown)


if __name__ == "__main__":
    unittest.main()
