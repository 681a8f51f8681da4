"""Composing in the real window: shapes, masks, nests, arranging."""

from __future__ import annotations

import numpy as np
from attrs import evolve
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtWidgets import QToolButton

from spiralis.app.canvas.pen import PenTool
from spiralis.app.details.page import size_text
from spiralis.core.editing.linking import with_driver
from spiralis.core.geometry import box_around
from spiralis.core.model import Layer
from spiralis.core.model.art import Contour
from spiralis.core.model.blocks import Block
from spiralis.core.model.drivers import Follow
from tests.app.harness import SHIFT, WindowTest


class ComposeTest(WindowTest):
    def menu(self, label: str) -> None:
        """Choose an entry of the Shape button's menu."""
        entries = {action.text(): action for action in self.editor.add_strip.shape.menu().actions()}
        entries[label].trigger()
        self.settle()

    def test_a_star_is_added_shaped_in_details_and_drawn(self) -> None:
        self.menu("Star")
        layer = self.session.layers[0]
        self.assertEqual((layer.kind, layer.name), ("shape", "Star"))
        details = self.editor.details
        self.assertNotIn("corners", details.editors)
        self.enter_number(details.editors["sides"].field, "8")
        self.enter_number(details.editors["drawn_to"].field, "50")
        self.assertEqual(self.session.layers[0].track("sides").value, 8.0)
        pixels = self.picture()
        middle = pixels[pixels.shape[0] // 2, pixels.shape[1] // 2]
        self.assertGreater(int(middle[0]), 200)
        details.editors["form"].box.setCurrentIndex(1)
        details.editors["form"].box.activated.emit(1)
        self.settle()
        self.assertIn("corners", details.editors)

    def test_a_new_ground_is_seen_over_the_one_there_and_stays_behind_the_rest(self) -> None:
        *shown, ground = [layer.id for layer in self.session.composition.layers]
        self.click(self.editor.add_strip.backdrop)
        first = self.session.layers[0].id
        self.menu("Effect layer")
        effect = self.session.layers[0].id
        before = self.picture().copy()
        self.menu("Colour field")
        field = self.session.layers[0].id
        self.click(self.editor.add_strip.text)
        words = self.session.layers[0].id
        self.type_(self.editor.canvas, "Up")
        self.press(self.editor.canvas, Qt.Key.Key_Escape)
        # The effect layer goes on changing what is beneath it, and words come on top of what is chosen.
        ids = [layer.id for layer in self.session.composition.layers]
        self.assertEqual(ids, [*shown, effect, words, field, first, ground])
        self.assertGreater(float(np.mean(np.any(before != self.picture(), -1))), 0.5)

    def test_a_mask_cuts_moves_along_and_is_taken_off_in_details(self) -> None:
        before = self.picture().copy()
        self.session.select(["square"])
        self.act("Mask with an ellipse")
        mask = self.session.layers[0]
        self.assertEqual((mask.kind, mask.parent), ("shape", "square"))
        corner = self._at(before, 114, 194)
        self.assertGreater(int(before[corner][0]), 150)
        self.assertLess(int(self.picture()[corner][0]), 80)
        self.session.select([])
        self.click(self.editor.canvas, self.on_canvas(160, 240))
        self.assertEqual(self.session.selected, ("square",))
        self.settle(0.2)
        buttons = self.editor.details.findChildren(QToolButton)
        close = [button for button in buttons if button.accessibleName().startswith("Remove the matte")]
        self.click(close[0])
        self.assertEqual(self.layer("square").mattes, ())

    def _at(self, pixels: np.ndarray, x: float, y: float) -> tuple[int, int]:
        piece = self.session.composition
        return int(y * pixels.shape[0] / piece.height), int(x * pixels.shape[1] / piece.width)

    def told(self) -> str:
        """Wait until the pictures before and after are compared; return what is said then."""
        context = self.window.context
        asked = [commands.sameness.background for commands in (context.arranging, context.layers)]
        self.until(lambda: not any(background.busy for background in asked))
        self.settle(0.1)
        return self.window.notice.label.text() if self.window.notice.isVisible() else ""

    def test_it_is_said_where_outlines_are_not_as_the_words_were(self) -> None:
        words = Layer("Words", "text", 0, 50, id="words").with_values(text="Kite", size=60.0, position=(160.0, 120.0))
        self.session.edit("Words", lambda old: evolve(old, layers=(words, *old.layers)))
        self.session.select(["words"])
        self.act("Words to outlines")
        self.assertNotIn("not quite as it was", self.told())
        self.act("Undo")
        self.session.edit_layers("Bent", lambda y: y.with_block(Block("round")), ["words"])
        self.act("Words to outlines")
        self.until(lambda: "outlines lie closer" in self.told())

    def test_it_is_said_where_a_nest_or_a_group_changes_the_picture(self) -> None:
        self.session.select(["square"])
        self.act("Nest at full size")
        self.assertNotIn("not quite as it was", self.told())
        self.act("Undo")
        self.session.edit_layers("Glow", lambda y: y.with_block(Block("halo")).with_block(Block("halo")), ["square"])
        self.session.select(["square"])
        self.act("Nest at full size")
        self.assertIn("not quite as it was", self.told())
        self.act("Undo")
        self.window.notice.hide()
        # The words between two squares come to lie behind both.
        self.session.select(["square"])
        self.act("Duplicate")
        copy = self.session.selected[0]
        self.session.edit_layers("Over", lambda y: y.with_values(position=(160.0, 240.0), fill=(0, 0, 1, 1)), ["words"])
        self.session.select([copy])
        self.act("Bring to front")
        self.session.select([copy, "square"])
        self.act("Group")
        self.told()
        order = [layer.id for layer in self.session.composition.layers]
        self.assertGreater(order.index("words"), order.index("square"))

    def test_nest_share_make_own_copy_and_open_up(self) -> None:
        before = self.picture().astype(int)
        self.session.select(["square", "words"])
        self.act("Nest cropped to its content")
        nest = self.session.layers[0]
        self.assertEqual(nest.kind, "nested")
        self.assertLessEqual(np.abs(self.picture().astype(int) - before).max(), 2)
        self.act("Duplicate")
        twin = self.session.layers[0]
        self.assertEqual(twin.track("composition").value, nest.track("composition").value)
        self.settle(0.2)
        self.assertIn("shared ×2", size_text(self.session, [twin]))
        self.act("Make own copy")
        self.assertNotEqual(self.session.layers[0].track("composition").value, nest.track("composition").value)
        self.act("Open up the nest")
        self.assertEqual(len(self.session.layers), 2)
        self.session.select([nest.id])
        self.double_click(self.editor.timeline.rows, self.row_place(nest.id))
        self.assertEqual(self.session.composition.name, "Nest")
        self.act("Go back up")
        for _ in range(4):
            self.act("Undo")
        self.assertLessEqual(np.abs(self.picture().astype(int) - before).max(), 2)

    def row_place(self, layer_id: str) -> QPointF:
        rows = self.editor.timeline.rows
        row = next(r for r in rows.rows() if r.layer.id == layer_id and r.name is None)
        return QPointF(rows.axis().x(20), row.middle)

    def test_a_tie_that_would_break_is_said(self) -> None:
        self.session.select(["square"])
        self.session.edit("Follow", lambda p: p.with_layer(
            with_driver(p.layer("words"), "opacity", Follow("square", "opacity"))))  # fmt: skip
        self.session.select(["square"])
        self.act("Nest at full size")
        self.assertTrue(any("tied to" in sentence for sentence in self.said))
        self.assertEqual(len(self.session.project.compositions), 1)

    def test_align_distribute_and_group(self) -> None:
        self.session.select(["words"])
        self.act("Align left edges")
        at = self.session.evaluated()
        box = at.matrix(self.layer("words")).box(at.box(self.layer("words")))
        self.assertAlmostEqual(box[0], 0.0, places=4)
        self.session.select(["square", "words"])
        self.act("Hang on a carrier")
        carrier = self.session.layers[0]
        self.assertEqual({self.layer(name).parent for name in ("square", "words")}, {carrier.id})
        at = self.session.evaluated()
        held = box_around([at.matrix(self.layer(name)).box(at.box(self.layer(name))) for name in ("square", "words")])
        np.testing.assert_allclose(held, at.matrix(carrier).box(at.box(carrier)), atol=1e-6)
        before = self.session.evaluated().matrix(self.layer("words")).apply(0, 0)
        self.drag(self.editor.canvas, self.on_canvas(320, 240), self.on_canvas(350, 240), SHIFT)
        after = self.session.evaluated().matrix(self.layer("words")).apply(0, 0)
        self.assertGreaterEqual(after[0], before[0] - 1e-6)
        self.act("Fit into the frame")
        self.act("Flip across")
        self.assertLess(self.session.layers[0].track("scale").value[0], 0)

    def test_grounds_from_the_menu_cover_the_frame(self) -> None:
        self.menu("Colour field")
        self.assertEqual([layer.kind for layer in self.session.composition.layers[-2:]], ["field", "backdrop"])
        self.menu("Pattern")
        self.assertEqual(self.session.layers[0].kind, "pattern")
        self.picture()


class PenTest(WindowTest):
    def test_a_closed_outline_is_drawn_edited_and_undone(self) -> None:
        canvas = self.editor.canvas
        self.act("Draw with the pen")
        for x, y in ((100, 100), (220, 90)):
            self.click(canvas, self.on_canvas(x, y))
        self.drag(canvas, self.on_canvas(240, 200), self.on_canvas(200, 240))
        self.click(canvas, self.on_canvas(100, 200))
        self.press(canvas, Qt.Key.Key_Backspace)
        self.click(canvas, self.on_canvas(110, 220))
        self.click(canvas, self.on_canvas(100, 100))
        self.assertIsNone(canvas.toolbox.tool)
        layer = self.session.layers[0]
        contour = layer.track("art").value.items[0].contours[0]
        self.assertEqual((layer.name, len(contour.vertices), contour.closed), ("Path", 4, True))
        np.testing.assert_allclose(contour.vertices[3][:2], (110, 220), atol=1.5)
        self.assertNotEqual(contour.vertices[2][2:4], contour.vertices[2][4:])
        self.act("Edit points")
        self.drag(canvas, self.on_canvas(220, 90), self.on_canvas(260, 60))
        moved = self.session.layers[0].track("art").value.items[0].contours[0]
        at = self.session.evaluated()
        corner = at.matrix(self.session.layers[0]).apply(*moved.vertices[1][:2])
        np.testing.assert_allclose(corner, (260, 60), atol=2)
        np.testing.assert_allclose(at.matrix(self.session.layers[0]).apply(*moved.vertices[0][:2]), (100, 100), atol=2)
        self.double_click(canvas, self.on_canvas(105, 160))
        self.assertEqual(len(self._contour().vertices), 5)
        self.double_click(canvas, self.on_canvas(260, 60))
        self.assertNotEqual(self._contour().vertices[1][2:4], self._contour().vertices[1][:2])
        self.press(canvas, Qt.Key.Key_Delete)
        self.assertEqual(len(self._contour().vertices), 4)
        self.press(canvas, Qt.Key.Key_Escape)
        self.assertIsNone(canvas.toolbox.tool)
        while self.session.history.undo_name:
            self.act("Undo")
        self.assertEqual(len(self.session.composition.layers), 3)

    def test_undo_takes_back_points_that_are_no_layer_yet(self) -> None:
        canvas, before = self.editor.canvas, self.session.project
        self.session.edit_layers("Turn", lambda layer: layer.with_values(rotation=30.0), ["words"])
        turned = self.session.project
        self.act("Draw with the pen")
        for x, y in ((50, 400), (200, 430), (300, 380)):
            self.click(canvas, self.on_canvas(x, y))
        tool = canvas.toolbox.tool
        assert isinstance(tool, PenTool)
        drawn = list(tool.vertices)
        self.act("Undo")
        self.act("Undo")
        self.assertEqual(drawn[:1], tool.vertices)
        self.act("Redo")
        self.press(canvas, Qt.Key.Key_Backspace)
        self.act("Undo")
        self.assertEqual(drawn[:2], tool.vertices)
        self.assertIs(self.session.project, turned)
        for _ in range(3):
            self.act("Undo")
        self.assertEqual([], tool.vertices)
        self.assertIs(self.session.project, before, "only then the project's last step goes")
        self.act("Redo")
        self.assertEqual(drawn[:1], tool.vertices)
        self.press(canvas, Qt.Key.Key_Return)
        self.assertEqual(3, len(self.session.composition.layers), "one point is no outline")

    def test_points_are_put_away_where_another_layer_is_chosen(self) -> None:
        self.act("Draw with the pen")
        for x, y in ((50, 400), (200, 430), (300, 380)):
            self.click(self.editor.canvas, self.on_canvas(x, y))
        self.press(self.editor.canvas, Qt.Key.Key_Return)
        drawn, art = self.session.layers[0].id, self.session.layers[0].track("art").value
        self.act("Edit points")
        self.drag(self.editor.canvas, self.on_canvas(200, 430), self.on_canvas(210, 450))
        self.act("Undo")
        self.assertIsNotNone(self.editor.canvas.toolbox.tool, "the layer is still chosen")
        row = next(row for row in self.editor.timeline.rows.rows() if row.layer.id == "words")
        self.click(self.editor.timeline.rows, QPointF(60, row.middle))
        self.assertEqual(("words",), self.session.selected)
        self.assertIsNone(self.editor.canvas.toolbox.tool)
        self.drag(self.editor.canvas, self.on_canvas(200, 430), self.on_canvas(240, 460))
        self.assertEqual(art, self.layer(drawn).track("art").value)

    def _contour(self) -> Contour:
        return self.session.layers[0].track("art").value.items[0].contours[0]

    def test_enter_ends_an_open_line_and_a_double_click_opens_a_form(self) -> None:
        canvas = self.editor.canvas
        self.act("Draw with the pen")
        for x, y in ((50, 400), (200, 430), (300, 380)):
            self.click(canvas, self.on_canvas(x, y))
        self.press(canvas, Qt.Key.Key_Return)
        self.assertFalse(self._contour().closed)
        self.editor.add_strip.shape.menu().actions()[2].trigger()
        self.settle()
        self.double_click(canvas, self.on_canvas(320, 240))
        self.assertIsNotNone(canvas.toolbox.tool)
        self.assertEqual(self.session.layers[0].track("form").value, "drawing")
        self.drag(canvas, self.on_canvas(320, 160), self.on_canvas(320, 110))
        self.assertNotEqual(self._contour().vertices[0][4:], self._contour().vertices[0][:2])
        self.press(canvas, Qt.Key.Key_Escape)
