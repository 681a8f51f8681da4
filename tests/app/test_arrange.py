"""Arranging on the canvas by mouse: groups, skew, guides, snapping, the frame, gradient grips; marks and filters."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, Qt

from spiralis.app.canvas.aids import GuideDrag
from spiralis.app.canvas.content_grips import content_grips
from spiralis.app.canvas.group_handles import group_frame
from spiralis.app.canvas.handles import frame_of
from spiralis.app.canvas.snapping import Gap, Guide, box_lines, frame_lines, snap_box
from spiralis.app.canvas.text_bar import TextBar
from spiralis.core.editing.arranging import seen_box
from tests.app.harness import CONTROL, NONE, SHIFT, WindowTest


class CopiesTest(WindowTest):
    """Copies are seen, chosen and scaled by a frame around all of them."""

    def test_copies_are_taken_by_the_frame_around_them(self) -> None:
        self.session.select(["square"])
        self.session.edit_layers("Wide", lambda y: y.with_values(scale=(250.0, 30.0), position=(160.0, 120.0)))
        self.act("Copies of the chosen layer")
        copies = self.session.layers[0]
        left, top, right, bottom = seen_box(self.session.evaluated(), copies)
        self.session.select([])
        canvas = self.editor.canvas
        self.click(canvas, self.on_canvas(left + 3, (top + bottom) / 2))
        self.assertEqual((copies.id,), self.session.selected)
        frame = frame_of(self.session, canvas.viewport.to_widget)
        assert frame is not None
        corner = QPointF(*frame.handles()["se"])
        expected = self.on_canvas(right, bottom)
        np.testing.assert_allclose((corner.x(), corner.y()), (expected.x(), expected.y()), atol=1.0)
        pivot = QPointF(*frame.pivot_place)
        self.drag(canvas, corner, pivot + (corner - pivot) * 0.5)
        self.assertAlmostEqual(float(self.value(copies.id, "scale")[0]), 50.0, delta=2.0)
        # Its pivot is a part of the box that does not change with what is copied.
        knob = QPointF(*frame_of(self.session, canvas.viewport.to_widget).handles()["pivot"])
        before = seen_box(self.session.evaluated(), copies)
        self.drag(canvas, knob, knob + QPointF(10, 6))
        self.assertNotEqual((50.0, 50.0), self.value(copies.id, "pivot"))
        np.testing.assert_allclose(seen_box(self.session.evaluated(), self.layer(copies.id)), before, atol=0.1)


class GroupTest(WindowTest):
    def corner(self, name: str) -> QPointF:
        frame = group_frame(self.session, self.editor.canvas.viewport.to_widget)
        assert frame is not None
        return QPointF(*frame.handles()[name])

    def around(self) -> tuple[float, float, float, float]:
        frame = group_frame(self.session, self.editor.canvas.viewport.to_widget)
        assert frame is not None
        return frame.box

    def test_several_layers_scale_from_the_opposite_corner_and_turn(self) -> None:
        self.session.select(["square", "words"])
        before = self.around()
        corner = self.corner("se")
        opposite = self.corner("nw")
        self.drag(self.editor.canvas, corner, corner + (corner - opposite) * 0.5)
        after = self.around()
        np.testing.assert_allclose(after[:2], before[:2], atol=1.5)
        self.assertAlmostEqual((after[2] - after[0]) / (before[2] - before[0]), 1.5, delta=0.02)
        middle = ((after[0] + after[2]) / 2, (after[1] + after[3]) / 2)
        self.drag(self.editor.canvas, self.corner("turn"), self.on_canvas(after[2] + 60, middle[1]), steps=12)
        self.assertAlmostEqual(float(self.value("words", "rotation")), 90.0, delta=2.0)
        self.assertEqual(self.session.history.undo_name, "Turn 2 layers")
        self.session.undo()
        self.session.undo()
        np.testing.assert_allclose(self.around(), before, atol=1e-6)

    def test_several_layers_share_a_pivot_stretch_and_slant(self) -> None:
        self.session.go_to(0)
        self.session.select(["square", "words"])
        canvas, before = self.editor.canvas, self.around()
        knob, pivot = self.corner("pivot"), self.on_canvas(*before[:2])
        middle = self.on_canvas((before[0] + before[2]) / 2, (before[1] + before[3]) / 2)
        self.drag(canvas, knob, knob + pivot - middle)
        frame = group_frame(self.session, canvas.viewport.to_widget)
        assert frame is not None
        np.testing.assert_allclose(frame.pivot, before[:2], atol=1.0)
        turned = self.value("square", "position")
        self.drag(canvas, self.corner("turn"), self.on_canvas(before[0] + 300, before[1] - 20), steps=10)
        angle = np.radians(self.value("words", "rotation"))
        away = np.array(turned) - before[:2]
        wanted = [away[0] * np.cos(angle) - away[1] * np.sin(angle), away[0] * np.sin(angle) + away[1] * np.cos(angle)]
        np.testing.assert_allclose(np.array(self.value("square", "position")) - before[:2], wanted, atol=1.5)
        self.session.undo()
        side = self.corner("e")
        self.drag(canvas, side, side + QPointF(side.x() - self.corner("w").x(), 0))
        after = self.around()
        np.testing.assert_allclose((after[0], after[1], after[3]), (before[0], before[1], before[3]), atol=1.5)
        self.assertAlmostEqual((after[2] - after[0]) / (before[2] - before[0]), 2.0, delta=0.03)
        np.testing.assert_allclose(self.value("words", "scale"), (200.0, 100.0), atol=2.0)
        self.session.undo()
        bottom, height = self.corner("s"), self.corner("s").y() - self.corner("n").y()
        self.drag(canvas, bottom, bottom + QPointF(height / 2, 0), CONTROL)
        self.assertEqual(self.session.history.undo_name, "Slant 2 layers")
        # What lies on the pivot's level stays, what lies beneath goes along by half as much.
        moved = np.array(self.value("square", "position")) - turned
        np.testing.assert_allclose(moved, [(turned[1] - before[1]) / 2, 0.0], atol=2.0)
        np.testing.assert_allclose(self.session.evaluated().matrix(self.layer("square")).c, 0.5, atol=0.02)
        self.session.undo()
        np.testing.assert_allclose(self.around(), before, atol=1e-6)
        self.session.select(["words", "square"])
        self.session.select(["square"])
        self.session.select(["square", "words", self.session.composition.layers[2].id])
        frame = group_frame(self.session, canvas.viewport.to_widget)
        assert frame is not None  # Others share another one.
        np.testing.assert_allclose(frame.pivot, ((frame.box[0] + frame.box[2]) / 2, (frame.box[1] + frame.box[3]) / 2))

    def test_control_on_a_side_slants(self) -> None:
        self.session.go_to(0)
        self.session.select(["square"])
        frame = frame_of(self.session, self.editor.canvas.viewport.to_widget)
        assert frame is not None
        top = QPointF(*frame.handles()["n"])
        half = abs(frame.handles()["s"][1] - frame.handles()["n"][1]) / 2
        self.drag(self.editor.canvas, top, top + QPointF(half, 0), CONTROL)
        self.assertAlmostEqual(self.value("square", "skew")[0], -45.0, delta=1.5)


class SnapTest(WindowTest):
    def test_boxes_meet_other_layers_and_equal_gaps(self) -> None:
        others = [(0.0, 0.0, 40.0, 40.0), (60.0, 0.0, 100.0, 40.0)]
        shift, marks = snap_box((123.0, 2.0, 163.0, 42.0), box_lines(others), 4, 0.0, others)
        self.assertEqual(shift, (-3.0, -2.0))
        self.assertIsInstance(marks[0], Gap)
        self.assertEqual(marks[0].size, 20.0)
        between, marks = snap_box((141.0, 0.0, 161.0, 40.0), [], 4, 0.0, [others[1], (200.0, 0.0, 240.0, 40.0)])
        self.assertEqual(between[0], -1.0)
        lines = frame_lines((640, 480))
        shift, found = snap_box((103.0, 51.0, 147.0, 77.0), lines, 4, 10.0)
        self.assertEqual((shift, [g.label for g in found if isinstance(g, Guide)]), ((-3.0, -1.0), ["grid", "grid"]))

    def test_a_guide_that_is_taken_back_in_the_midst_of_its_drag_comes_anew(self) -> None:
        guide = GuideDrag(self.session, 0, None)
        guide.move(40.0, False)
        guide.move(50.0, False)
        self.act("Undo")
        self.assertEqual((), self.session.composition.guides)
        guide.move(60.0, False)
        self.assertEqual(((0, 60.0),), self.session.composition.guides)
        guide.move(0.0, True)
        self.assertEqual((), self.session.composition.guides)

    def test_a_layer_snaps_to_a_guide_pulled_from_the_ruler(self) -> None:
        canvas = self.editor.canvas
        self.act("Rulers")
        self.drag(canvas, QPointF(8, 200), self.on_canvas(300, 200))
        (guide,) = self.session.composition.guides
        self.assertEqual(guide[0], 0)
        self.assertAlmostEqual(guide[1], 300, delta=2)
        self.session.go_to(0)
        self.drag(canvas, self.on_canvas(160, 250), self.on_canvas(160 + (guide[1] - 210) - 4, 280))
        box = seen_box(self.session.evaluated(), self.layer("square"))
        self.assertAlmostEqual(box[2], guide[1], places=3)
        self.session.select([])
        self.drag(canvas, self.on_canvas(guide[1], 460), QPointF(4, 300))
        self.assertEqual(self.session.composition.guides, ())

    def test_the_frame_is_cropped_by_hand_and_nothing_else_moves(self) -> None:
        canvas = self.editor.canvas
        before = self.picture().copy()
        self.act("Crop or enlarge the frame")
        self.drag(canvas, self.on_canvas(0, 200), self.on_canvas(100, 200))
        self.click(canvas, self.on_canvas(100, 300))
        box = canvas.toolbox.tool.box
        self.act("Undo")
        self.assertEqual((0.0, 0.0, 640.0, 480.0), canvas.toolbox.tool.box)
        self.act("Redo")
        self.assertEqual(box, canvas.toolbox.tool.box)
        self.press(canvas, Qt.Key.Key_Return)
        piece = self.session.composition
        self.assertEqual((piece.width, piece.height), (540, 480))
        after = self.picture()
        x = round(60 * after.shape[1] / 540)
        y = after.shape[0] // 2
        old = before[before.shape[0] // 2, round(160 * before.shape[1] / 640)]
        np.testing.assert_allclose(after[y, x].astype(int), old.astype(int), atol=3)


class GripTest(WindowTest):
    def test_a_gradient_is_turned_and_its_stop_moved_on_the_canvas(self) -> None:
        ground = self.session.composition.layers[-1].id
        self.session.set_property("style", "linear", [ground])
        self.session.select([ground])
        canvas = self.editor.canvas
        grips = {(g.what, g.index): QPointF(*g.place) for g in content_grips(self.session, canvas.viewport.to_widget)}
        start, end = grips["start", 0], grips["end", 0]
        self.drag(canvas, end, start + QPointF((end - start).y(), 0))
        self.assertAlmostEqual(self.value(ground, "angle"), 0.0, delta=1.0)
        grips = {(g.what, g.index): QPointF(*g.place) for g in content_grips(self.session, canvas.viewport.to_widget)}
        first, last = grips["stop", 0], grips["stop", 1]
        self.session.set_property("stops", ((0.3, 1.0, 0.0, 0.0, 1.0), (1.0, 0.0, 0.0, 1.0, 1.0)), [ground])
        self.drag(canvas, first + (last - first) * 0.3, first + (last - first) * 0.6)
        self.assertAlmostEqual(self.value(ground, "stops")[0][0], 0.6, delta=0.03)

    def test_a_colour_of_a_field_is_dragged(self) -> None:
        entries = {action.text(): action for action in self.editor.add_strip.shape.menu().actions()}
        entries["Colour field"].trigger()
        self.settle()
        canvas = self.editor.canvas
        grip = next(g for g in content_grips(self.session, canvas.viewport.to_widget) if g.index == 2)
        self.drag(canvas, QPointF(*grip.place), self.on_canvas(320, 240))
        np.testing.assert_allclose(self.session.layers[0].track("place_2").value, (50, 50), atol=0.5)


class LayerMarkTest(WindowTest):
    def test_filter_fold_and_show_alone(self) -> None:
        timeline = self.editor.timeline
        self.type_(timeline.search, "text")
        self.assertEqual([row.layer.id for row in timeline.rows.rows()], ["words"])
        timeline.search.clear()
        self.click(timeline.animated)
        self.assertEqual({row.layer.id for row in timeline.rows.rows()}, {"square"})
        self.click(timeline.animated)
        self.session.select(["square"])
        self.act("Fold in the timeline")
        self.assertEqual(len(timeline.rows.rows()), 3)
        self.act("Show alone")
        pixels = self.picture()
        self.assertEqual(int(pixels[5, 5, 3]), 0)
        self.assertGreater(int(pixels[pixels.shape[0] // 2, round(pixels.shape[1] * 0.25), 0]), 200)
        written = self.session.project.without_references().compositions[0]
        self.assertFalse(any(layer.solo for layer in written.layers))


class LettersTest(WindowTest):
    def test_chosen_letters_take_a_colour_and_size_of_their_own(self) -> None:
        canvas = self.editor.canvas
        canvas.edit_text("words")
        editing = canvas.typing.editing
        assert editing is not None
        editing.place_caret(0, False)
        editing.place_caret(1, True)
        canvas.typing.moved.emit()
        bar = self.window.findChild(TextBar)
        assert bar is not None
        self.assertTrue(bar.isVisible())
        self.enter_number(bar.share, "150")
        self.assertIsNotNone(canvas.typing.editing)
        self.assertEqual([tuple(run[:6]) for run in self.value("words", "runs")], [(0, 1, "", 0.0, 150.0, None)])
        for red in (0.2, 0.6, 1.0):
            bar.colour.changed.emit((red, 0.0, 0.0, 1.0))
        bar.colour.finished.emit()
        self.assertEqual(self.value("words", "runs")[0][5], (1.0, 0.0, 0.0, 1.0))
        # A way through the colours is one step, and so is another one after it.
        bar.colour.changed.emit((0.0, 1.0, 0.0, 1.0))
        bar.colour.finished.emit()
        self.session.undo()
        self.assertEqual(self.value("words", "runs")[0][5], (1.0, 0.0, 0.0, 1.0))
        self.session.undo()
        self.assertIsNone(self.value("words", "runs")[0][5])
        self.session.redo()
        self.press(canvas, Qt.Key.Key_Home)
        self.type_(canvas, "x")
        self.assertEqual(self.value("words", "runs")[0][:2], (0, 2))
        self.click(bar.plain)
        self.assertEqual(self.value("words", "runs"), ())
        self.press(canvas, Qt.Key.Key_Escape)
        self.assertFalse(bar.isVisible())

    def test_chosen_letters_are_raised_spaced_and_marked(self) -> None:
        canvas, bar = self.editor.canvas, self.editor.text_bar
        self.session.edit_layers("Words", lambda layer: layer.with_values(text="19.99", size=60.0), ["words"])
        self.session.select(["words"])
        canvas.edit_text("words")
        self.settle(0.2)
        for key, times, held in ((Qt.Key.Key_End, 1, NONE), (Qt.Key.Key_Left, 2, SHIFT)):
            for _ in range(times):
                self.press(canvas, key, held)
        self.enter_number(bar.rise, "40")
        self.enter_number(bar.tracking, "100")
        self.assertEqual([tuple(run) for run in self.value("words", "runs")],
                         [(3, 5, "", 0.0, 100.0, None, 100.0, 40.0, False)])  # fmt: skip
        self.assertFalse(bar.mark.isChecked())
        before = self.picture()
        self.click(bar.mark)
        self.assertTrue(bar.mark.isChecked())
        self.assertTrue(self.value("words", "runs")[0][8])
        # What is marked is seen: a plate lies behind it.
        self.assertEqual(self.value("words", "plate"), "marked words")
        self.assertGreater(int((before != self.picture()).any(axis=-1).sum()), 300)
        self.act("Undo")
        self.assertEqual(self.value("words", "plate"), "none")
        self.assertFalse(self.value("words", "runs")[0][8])
        self.assertFalse(bar.mark.isChecked())
        self.act("Redo")
        self.click(bar.mark)
        self.assertFalse(self.value("words", "runs")[0][8])
        self.assertEqual(self.value("words", "plate"), "marked words")
        self.click(bar.plain)
        self.assertEqual(self.value("words", "runs"), ())

    def test_words_run_along_a_shape(self) -> None:
        entries = {action.text(): action for action in self.editor.add_strip.shape.menu().actions()}
        entries["Ellipse"].trigger()
        self.settle()
        shape = self.session.layers[0].id
        self.session.set_property("fill", (0.0, 0.0, 0.0, 0.0), [shape])
        self.session.select([shape, "words"])
        self.act("Words along the chosen path")
        self.assertEqual(self.value("words", "path_layer"), shape)

        def inked() -> tuple[float, float]:
            """Return where the middle of what is white is, in the composition's pixels."""
            picture = self.picture()
            y, x = np.nonzero(picture[..., :3].min(axis=2) > 200)
            return float(x.mean()) * 640 / picture.shape[1], float(y.mean()) * 480 / picture.shape[0]

        before = inked()
        self.session.set_property("position", (420.0, 300.0), [shape])
        after = inked()
        self.assertAlmostEqual(after[0] - before[0], 420 - 320, delta=6)
        self.assertAlmostEqual(after[1] - before[1], 300 - 240, delta=6)
        # A click where no letter is means what lies beneath, although the words' box is the whole frame.
        self.session.select([])
        self.click(self.editor.canvas, self.on_canvas(160, 240))
        self.assertEqual(self.session.selected, ("square",))
        self.session.select(["words"])
        self.act("Words off their path")
        self.assertEqual(self.value("words", "path_layer"), "")
        self.assertEqual(self.layer("words").track("path").value.items, ())
