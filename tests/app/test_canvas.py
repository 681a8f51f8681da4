"""The canvas: choosing, handles, snapping, nudging, typing, zooming."""

import numpy as np
from PyQt6.QtCore import QPointF, Qt

from spiralis.app.canvas.handles import KNOB, frame_of
from spiralis.app.canvas.snapping import frame_lines, snap_box, snap_pivot
from spiralis.core.render.frame import render_frame
from tests.app.harness import ALT, CONTROL, SHIFT, WindowTest


class CanvasTest(WindowTest):
    def handle(self, name: str) -> QPointF:
        frame = frame_of(self.session, self.editor.canvas.viewport.to_widget)
        assert frame is not None
        return QPointF(*frame.handles()[name])

    def choose_still(self) -> None:
        """Choose the words, which have no keys."""
        self.click(self.editor.canvas, self.on_canvas(480, 120))
        self.assertEqual(self.session.selected, ("words",))

    def test_a_click_chooses_what_is_seen_there(self) -> None:
        canvas = self.editor.canvas
        self.click(canvas, self.on_canvas(160, 240))
        self.assertEqual(self.session.selected, ("square",))
        self.click(canvas, self.on_canvas(480, 120), SHIFT)
        self.assertEqual(set(self.session.selected), {"square", "words"})
        self.click(canvas, self.on_canvas(50, 450))
        self.assertEqual(self.session.layers[0].name, "Ground")
        self.click(canvas, QPointF(3, 3))
        self.assertEqual(self.session.selected, ())

    def test_locked_layers_are_passed_over(self) -> None:
        self.session.select(["square"])
        self.act("Lock or unlock")
        self.session.select([])
        self.click(self.editor.canvas, self.on_canvas(160, 240))
        self.assertEqual(self.session.layers[0].name, "Ground")

    def test_dragging_moves_and_is_one_step(self) -> None:
        self.choose_still()
        self.drag(self.editor.canvas, self.on_canvas(480, 120), self.on_canvas(430, 310), CONTROL)
        np.testing.assert_allclose(self.value("words", "position"), (430, 310), atol=2)
        self.assertEqual(self.session.history.undo_name, "Move Words")
        self.session.undo()
        self.assertEqual(self.value("words", "position"), (480.0, 120.0))

    def test_shift_keeps_to_one_axis(self) -> None:
        self.choose_still()
        self.drag(self.editor.canvas, self.on_canvas(480, 120), self.on_canvas(400, 140), SHIFT | CONTROL)
        self.assertEqual(self.value("words", "position")[1], 120.0)

    def test_moving_near_the_centre_snaps_to_it(self) -> None:
        self.choose_still()
        box = self.session.evaluated().box(self.layer("words"))
        self.drag(self.editor.canvas, self.on_canvas(480, 120), self.on_canvas(324, 200))
        self.assertAlmostEqual(self.value("words", "position")[0], 320.0, 3)
        self.assertGreater(box[2], 0)

    def test_moving_what_has_keys_sets_a_key(self) -> None:
        self.session.go_to(10)
        self.drag(self.editor.canvas, self.on_canvas(280, 240), self.on_canvas(280, 300), CONTROL)
        keys = self.layer("square").track("position").keys
        self.assertEqual([key.frame for key in keys], [0, 10, 20])
        np.testing.assert_allclose(keys[1].value, (280, 300), atol=2)

    def test_scale_handles(self) -> None:
        self.click(self.editor.canvas, self.on_canvas(160, 240))
        self.drag(self.editor.canvas, self.handle("se"), self.on_canvas(260, 340))
        np.testing.assert_allclose(self.value("square", "scale"), (200, 200), atol=3)
        self.session.undo()
        self.drag(self.editor.canvas, self.handle("e"), self.on_canvas(235, 240))
        np.testing.assert_allclose(self.value("square", "scale"), (150, 100), atol=3)

    def test_turn_handle_and_steps(self) -> None:
        self.click(self.editor.canvas, self.on_canvas(160, 240))
        self.drag(self.editor.canvas, self.handle("turn"), self.on_canvas(300, 240), steps=12)
        self.assertAlmostEqual(self.value("square", "rotation"), 90, delta=1)
        self.drag(self.editor.canvas, self.handle("turn"), self.on_canvas(170, 400), SHIFT, steps=12)
        self.assertEqual(self.value("square", "rotation") % 15, 0)

    def test_moving_the_pivot_never_moves_the_picture(self) -> None:
        self.session.select(["square"])
        self.session.set_property("rotation", 30.0)
        self.settle()
        before = [render_frame(self.session.project, "Piece", frame) for frame in (0, 13)]
        aside = QPointF(*KNOB)
        self.drag(self.editor.canvas, self.handle("pivot"), self.handle("nw") + aside)
        self.assertEqual(self.value("square", "pivot"), (0.0, 0.0))
        for frame, picture in zip((0, 13), before, strict=True):
            np.testing.assert_allclose(render_frame(self.session.project, "Piece", frame), picture, atol=2e-3)

    def test_arrows_nudge(self) -> None:
        self.choose_still()
        self.press(self.editor.canvas, Qt.Key.Key_Right)
        self.press(self.editor.canvas, Qt.Key.Key_Down, SHIFT)
        self.assertEqual(self.value("words", "position"), (481.0, 130.0))

    def test_typing_in_place(self) -> None:
        canvas = self.editor.canvas
        self.double_click(canvas, self.on_canvas(480, 120))
        self.assertIsNotNone(canvas.typing.editing)
        self.type_(canvas, "Salt")
        self.press(canvas, Qt.Key.Key_Left)
        self.press(canvas, Qt.Key.Key_Backspace)
        self.type_(canvas, "n d")
        self.assertEqual(self.value("words", "text"), "San dt")
        self.press(canvas, Qt.Key.Key_Home, SHIFT)
        self.press(canvas, Qt.Key.Key_Delete)
        self.assertEqual(self.value("words", "text"), "t")
        self.press(canvas, Qt.Key.Key_Escape)
        self.assertIsNone(canvas.typing.editing)
        # A step is a word, and what is typed without moving the caret.
        for words in ("San dt", "San t", "Salt", "Hi"):
            self.session.undo()
            self.assertEqual(self.value("words", "text"), words)

    def test_letters_that_no_font_has_are_named_when_typing_ends(self) -> None:
        self.editor.canvas.edit_text("words")
        self.session.set_property("text", "up \u6f22\U0001f600", ["words"])  # As an input method would type it.
        self.assertEqual(self.said, [])
        self.press(self.editor.canvas, Qt.Key.Key_Escape)
        self.assertIn("No font here has \u6f22;", self.said[-1])
        self.editor.canvas.edit_text("words")
        self.type_(self.editor.canvas, "plain")
        self.press(self.editor.canvas, Qt.Key.Key_Escape)
        self.assertEqual(len(self.said), 1)

    def test_words_with_a_coloured_sign_refuse_to_be_outlines(self) -> None:
        self.session.set_property("text", "up \U0001f600", ["words"])
        self.session.select(["words"])
        self.act("Words to outlines")
        self.assertIn("no outlines", self.said[-1])
        self.assertEqual(self.layer("words").kind, "text")

    def test_space_types_a_space_and_does_not_play(self) -> None:
        canvas = self.editor.canvas
        canvas.edit_text("words")
        self.press(canvas, Qt.Key.Key_End)
        self.press(canvas, Qt.Key.Key_Space)
        self.assertEqual(self.value("words", "text"), "Hi ")
        self.assertFalse(self.window.player.playing)

    def test_a_click_puts_the_caret_between_letters(self) -> None:
        canvas = self.editor.canvas
        canvas.edit_text("words")
        at = self.session.evaluated()
        matrix = canvas.viewport.to_widget @ at.matrix(self.layer("words"))
        places = canvas.typing.editing.setting().carets
        self.click(canvas, QPointF(*matrix.apply(places[1][0], places[1][1] - 20)))
        self.assertEqual((canvas.typing.editing.caret, canvas.typing.editing.anchor), (1, 1))

    def test_zoom_keeps_what_is_under_the_pointer(self) -> None:
        canvas = self.editor.canvas
        place = self.on_canvas(480, 120)
        canvas.viewport.zoom_to(3.0, place)
        np.testing.assert_allclose(canvas.viewport.to_composition(place), (480, 120), atol=1e-6)
        canvas.viewport.fit()
        self.assertTrue(canvas.viewport.fits)

    def test_the_picture_on_the_canvas_is_the_frame(self) -> None:
        self.picture()
        image = self.editor.canvas.grab().toImage()
        inside, outside = self.on_canvas(160, 240), QPointF(4, 4)
        self.assertGreater(image.pixelColor(inside.toPoint()).red(), 240)
        self.assertEqual(image.pixelColor(outside.toPoint()).name(), "#2b2b2b")


class MotionPathTest(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        self.session.select(["square"])
        self.settle()

    def keys(self):  # type: ignore[no-untyped-def]
        return self.layer("square").track("position").keys

    def test_a_key_of_the_path_is_dragged(self) -> None:
        self.drag(self.editor.canvas, self.on_canvas(400, 240), self.on_canvas(300, 100))
        np.testing.assert_allclose(self.keys()[1].value, (300, 100), atol=2)
        self.assertEqual(self.keys()[0].value, (160.0, 240.0))
        self.assertEqual(self.session.history.undo_name, "Path of Square")

    def test_alt_pulls_handles_out_and_the_way_bends(self) -> None:
        self.drag(self.editor.canvas, self.on_canvas(160, 240), self.on_canvas(160, 60), ALT)
        np.testing.assert_allclose(self.keys()[0].handle_out, (0, -180), atol=3)
        np.testing.assert_allclose(self.keys()[0].handle_in, (0, 180), atol=3)
        self.session.go_to(10)
        self.assertLess(self.value("square", "position")[1], 200)

    def test_a_handle_takes_the_other_along_and_alt_moves_it_alone(self) -> None:
        self.drag(self.editor.canvas, self.on_canvas(160, 240), self.on_canvas(160, 100), ALT)
        self.drag(self.editor.canvas, self.on_canvas(160, 100), self.on_canvas(220, 100))
        np.testing.assert_allclose(self.keys()[0].handle_in, (-60, 140), atol=4)
        self.drag(self.editor.canvas, self.on_canvas(220, 100), self.on_canvas(100, 100), ALT)
        np.testing.assert_allclose(self.keys()[0].handle_out, (-60, -140), atol=4)
        np.testing.assert_allclose(self.keys()[0].handle_in, (-60, 140), atol=4)


class SnappingTest(WindowTest):
    def test_edges_meet_edges_and_middles_the_centre(self) -> None:
        shift, guides = snap_box((3, 100, 103, 200), frame_lines((640, 480)), 6)
        self.assertEqual((shift, guides[0].label), ((-3, 0), "edge"))
        shift, guides = snap_box((268, 190, 368, 290), frame_lines((640, 480)), 6)
        self.assertEqual((shift[0], guides[0].label), (2, "centre"))
        self.assertEqual(snap_box((50, 50, 60, 60), frame_lines((640, 480)), 2)[1], [])

    def test_a_pivot_snaps_to_nine_points(self) -> None:
        self.assertEqual(snap_pivot((48, 97), (5, 5)), (50, 100))
        self.assertEqual(snap_pivot((40, 20), (5, 5)), (40, 20))
