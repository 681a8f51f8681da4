"""Menu commands, shortcuts, the clipboard between windows, fields by keyboard, messages."""

import numpy as np
from attrs import evolve
from PyQt6.QtCore import QPoint, QRect, Qt
from PyQt6.QtTest import QTest

from spiralis.app.project.recent import recent_projects, remember
from spiralis.app.session import Session
from spiralis.app.window import Window
from spiralis.app.work.cached import Cached
from spiralis.core.editing.keys import KeyRef
from spiralis.core.media.exporters import exporter
from spiralis.core.model import Track
from tests.app.harness import SHIFT, WindowTest, sample_project


class CommandsTest(WindowTest):
    def choose(self, *ids: str) -> None:
        self.session.select(ids)
        self.settle()

    def names(self) -> list[str]:
        return [layer.name for layer in self.session.composition.layers]

    def test_order(self) -> None:
        self.choose("square")
        self.act("Send backward")
        self.assertEqual(self.names(), ["Words", "Square", "Ground"])
        self.act("Send backward")
        self.act("Send backward")
        self.assertEqual(self.names(), ["Words", "Ground", "Square"])
        self.act("Bring forward")
        self.assertEqual(self.names(), ["Words", "Square", "Ground"])

    def test_centre_puts_the_box_in_the_middle(self) -> None:
        self.choose("words")
        self.session.set_property("rotation", 30.0)
        self.act("Centre in the frame")
        at = self.session.evaluated()
        left, top, right, bottom = at.matrix(self.layer("words")).box(at.box(self.layer("words")))
        np.testing.assert_allclose(((left + right) / 2, (top + bottom) / 2), (320, 240), atol=1e-6)

    def test_trim_to_the_playhead(self) -> None:
        self.choose("words")
        self.session.go_to(12)
        self.act("Trim the beginning to the playhead")
        self.session.go_to(30)
        self.act("Trim the end to the playhead")
        self.assertEqual((self.layer("words").first, self.layer("words").last), (12, 31))

    def test_play_span_at_the_playhead(self) -> None:
        self.session.go_to(10)
        self.act("Begin the play span here")
        self.session.go_to(30)
        self.act("End the play span here")
        self.assertEqual(self.session.composition.span, (10, 31))
        self.act("First frame")
        self.assertEqual(self.session.frame, 10)

    def test_switches_and_keys_by_command(self) -> None:
        self.choose("words")
        self.act("Show or hide")
        self.act("Motion blur on or off")
        self.act("Key for opacity")
        self.assertEqual((self.value("words", "visible"), self.value("words", "motion_blur")), (False, True))
        self.assertEqual(self.layer("words").animated(), ["opacity"])

    def test_delete_takes_layers_and_frees_their_children(self) -> None:
        self.choose("words")
        self.choose_parent("Square")
        self.choose("square")
        self.act("Delete")
        self.assertEqual(self.names(), ["Words", "Ground"])
        self.assertIsNone(self.layer("words").parent)
        self.session.undo()
        self.assertEqual(self.layer("words").parent, "square")

    def test_flatten_and_smooth(self) -> None:
        track = self.layer("square").track("position")
        three = Track(track.value, (*track.keys, track.keys[0].__class__(40, (500.0, 300.0))))
        self.session.edit_layers("key", lambda y: y.with_track("position", three), ["square"])
        self.session.select(["square"], {KeyRef("square", "position", 20)})
        self.act("Flatten keys")
        flat = self.layer("square").track("position").keys
        self.assertEqual((flat[0].easing.y2, flat[1].easing.y1), (1.0, 0.0))
        self.act("Smooth through keys")
        smooth = self.layer("square").track("position").keys
        self.assertNotEqual(smooth[1].easing.y1, 0.0)

    def test_a_new_composition_is_shown_and_can_be_left(self) -> None:
        self.act("New composition…")
        self.assertEqual(self.session.composition.layers, ())
        box = self.editor.piece_bar.pieces
        self.assertEqual(box.count(), 2)
        box.setCurrentIndex(0)
        box.activated.emit(0)
        self.assertEqual(self.names(), ["Square", "Words", "Ground"])
        self.session.undo()
        self.assertEqual(len(self.session.project.compositions), 1)

    def test_shortcuts_reach_the_window(self) -> None:
        self.window.activateWindow()
        self.editor.canvas.setFocus()
        self.settle()
        QTest.keyClick(self.editor.canvas, Qt.Key.Key_End)
        self.settle()
        self.assertEqual(self.session.frame, 49)
        QTest.keyClick(self.editor.canvas, Qt.Key.Key_Space)
        self.settle()
        self.assertTrue(self.window.player.playing)
        QTest.keyClick(self.editor.canvas, Qt.Key.Key_Space)
        self.assertFalse(self.window.player.playing)

    def test_what_is_undone_in_another_piece_is_said(self) -> None:
        notes: list[str] = []
        self.session.said.connect(notes.append)
        here = self.session.composition_id
        other = evolve(self.session.composition, id="other", name="Other")
        self.session.edit_project("Another piece", self.session.project.with_composition(other))
        self.session.set_property("opacity", 40.0, ["words"])
        self.act("Undo")
        self.act("Redo")
        self.assertEqual([], notes)
        self.session.show_composition("other")
        self.act("Undo")
        self.act("Redo")
        name = self.session.project.composition(here).name
        step = self.session.history.undo_name
        self.assertEqual([f"“{step}” was undone in “{name}”.", f"“{step}” was done again in “{name}”."], notes)
        self.act("Undo")
        self.act("Undo")
        self.assertEqual(3, len(notes), "the piece itself went: that is seen")

    def test_undo_and_redo_name_their_steps(self) -> None:
        self.session.set_property("opacity", 40.0, ["words"])
        self.assertEqual(self.window.actions_["Undo"].text(), "&Undo: Opacity of Words")
        self.act("Undo")
        self.assertEqual(self.window.actions_["Redo"].text(), "&Redo: Opacity of Words")
        self.assertFalse(self.window.actions_["Undo"].isEnabled())

    def test_commands_rest_on_the_start_page(self) -> None:
        self.act("New…")
        self.assertTrue(self.window.actions_["Save"].isEnabled(), "the open piece is a click away")
        for label in ("Nest at full size", "Delete", "Export…", "Play or stop"):
            self.assertFalse(self.window.actions_[label].isEnabled(), label)
        self.assertTrue(self.window.actions_["Open…"].isEnabled())


class TwoWindowsTest(WindowTest):
    def test_layers_and_keys_go_from_one_window_to_another(self) -> None:
        other = Window(Session(sample_project()))
        other.show()
        other.show_editor()
        try:
            self.session.select(["words"])
            self.act("Copy")
            other.clipboard.paste()
            names = [layer.name for layer in other.session.composition.layers]
            self.assertEqual(len(names), 4)
            self.assertIn("Words 2", names)
            self.session.select(["square"])
            self.act("Nest at full size")
            self.act("Copy")
            other.session.edit("Empty", lambda piece: evolve(piece, layers=()))
            other.session.edit_project("No files", evolve(other.session.project, sources=()))
            other.clipboard.paste()
            shown = other.session.composition.layers[0]
            inner = other.session.project.find(shown.track("composition").value)
            self.assertEqual([layer.name for layer in inner.layers], ["Square"])
            source = other.session.project.source(inner.layers[0].track("source").value)
            self.assertIsNotNone(source.data)
            other.clipboard.paste()
            self.assertEqual(len(other.session.project.compositions), 2)
        finally:
            other.session.history.mark_saved()
            other.close()

    def test_foreign_clipboards_are_left_alone(self) -> None:
        from PyQt6.QtCore import QMimeData
        from PyQt6.QtGui import QGuiApplication

        mime = QMimeData()
        mime.setData("application/x-spiralis-layers", b"{broken")
        QGuiApplication.clipboard().setMimeData(mime)
        before = self.session.project
        self.window.clipboard.paste()
        self.assertIs(self.session.project, before)
        self.assertIn("cannot be pasted", self.said[0])


class FieldsTest(WindowTest):
    def test_numbers_by_keyboard_alone(self) -> None:
        self.session.select(["words"])
        self.settle()
        field = self.editor.details.editors["rotation"].field
        field.setFocus()
        self.press(field, Qt.Key.Key_Up)
        self.assertEqual(self.value("words", "rotation"), 1.0)
        self.press(field, Qt.Key.Key_Return)
        self.type_(field, "45")
        self.press(field, Qt.Key.Key_Escape)
        self.assertEqual(self.value("words", "rotation"), 1.0)
        self.type_(field, "7.5")
        self.press(field, Qt.Key.Key_Return)
        self.assertEqual(self.value("words", "rotation"), 7.5)

    def test_stops_by_keyboard(self) -> None:
        ground = self.session.composition.layers[-1].id
        self.session.set_property("style", "linear", [ground])
        self.session.select([ground])
        self.settle()
        field = self.editor.details.editors["stops"].field
        field.setFocus()
        self.press(field, Qt.Key.Key_Right)
        self.assertAlmostEqual(self.value(ground, "stops")[0][0], 0.01)

    def test_every_control_has_a_name_for_those_who_cannot_see_it(self) -> None:
        from PyQt6.QtWidgets import QAbstractButton, QComboBox, QLineEdit

        for page in (self.editor.transport, self.editor.pace, self.editor.details, self.editor.piece_bar):
            for widget in page.findChildren((QAbstractButton, QComboBox, QLineEdit)):
                named = widget.accessibleName() or getattr(widget, "text", lambda: "")()
                self.assertTrue(named or widget.parent().__class__ is QComboBox, f"{page} {widget}")


class MessagesTest(WindowTest):
    def test_problems_stay_until_they_are_closed(self) -> None:
        self.session.failed.emit("The kite is in a tree; climb it.")
        self.settle()
        notice = self.window.notice
        self.assertTrue(notice.isVisible())
        self.click(notice.close_button)
        self.assertFalse(notice.isVisible())

    def test_a_message_floats_over_the_picture_and_moves_nothing(self) -> None:
        notice, canvas = self.window.notice, self.editor.canvas
        parts = (self.editor, canvas, self.editor.timeline)
        before = [part.geometry() for part in parts], canvas.viewport.zoom
        for sentence in ("Short.", "A sentence of many words that one line cannot hold. " * 4):
            self.session.failed.emit(sentence)
            self.settle()
            self.assertEqual(before, ([part.geometry() for part in parts], canvas.viewport.zoom))
            below = QRect(canvas.mapTo(self.window, QPoint(0, 0)), canvas.size())
            strip = QRect(notice.mapTo(self.window, QPoint(0, 0)), notice.size())
            self.assertTrue(below.contains(strip))
            self.assertGreater(strip.top(), below.center().y())
            self.assertGreaterEqual(notice.label.height(), notice.label.heightForWidth(notice.label.width()))
        self.window.resize(self.window.width(), self.window.height() + 60)
        self.settle()
        moved = QRect(notice.mapTo(self.window, QPoint(0, 0)), notice.size())
        self.assertEqual(strip.bottom() + 60, moved.bottom())
        self.window.show_start()
        self.settle()
        self.assertTrue(self.window.rect().contains(QRect(notice.mapTo(self.window, QPoint(0, 0)), notice.size())))

    def test_recent_projects_are_in_the_menu(self) -> None:
        path = self.saved(sample_project(), "seaside.spiralis")
        remember(path)
        menu = self.window.recent_menu
        menu.refresh()
        self.assertTrue(menu.actions()[0].text().startswith("seaside"))
        menu.actions()[0].trigger()
        self.assertEqual(self.session.path.name, "seaside.spiralis")
        path.unlink()
        self.assertNotIn(path, recent_projects())

    def test_the_written_frame_is_decoded_from_the_file(self) -> None:
        self.act("Export…")
        export = self.window.windows.export
        export.start(self.folder / "a.mp4")
        self.until(lambda: export.running is None, 60)
        pixels = exporter("mp4").read(self.folder / "a.mp4", 20)
        self.assertEqual(pixels.shape, (480, 640, 4))
        self.assertGreater(int(pixels[240, 400, 0]), 200)
        self.assertIsNone(exporter("mp4").read(self.folder / "a.mp4", 99))

    def test_held_results_belong_to_one_very_value(self) -> None:
        held: Cached[int] = Cached(3)
        values = [Track(1.0), Track(1.0)]
        made = [held.of(value, "k", lambda n=n: n) for n, value in enumerate(values)]
        self.assertEqual(made, [0, 1])
        self.assertEqual(held.of(values[0], "k", lambda: 9), 0)

    def test_shift_click_in_the_timeline_chooses_a_run(self) -> None:
        rows = self.editor.timeline.rows
        places = {r.layer.name: r.middle for r in rows.rows() if r.name is None}
        from PyQt6.QtCore import QPointF

        self.click(rows, QPointF(70, places["Square"]))
        self.click(rows, QPointF(70, places["Ground"]), SHIFT)
        self.assertEqual(len(self.session.selected), 3)
