"""Preferences, versions, folders of the file dialogs, and what is copied from one layer to others, in the window."""

from unittest import mock

import numpy as np
from attrs import evolve
from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QGuiApplication
from PyQt6.QtWidgets import QFileDialog, QMenu, QMessageBox

from spiralis.app.commands.outliving import keep_clipboard, kept_clipboard
from spiralis.app.details.linking import fill_menu
from spiralis.app.project.preferences import Preferences
from spiralis.app.project.start import StartPage
from spiralis.app.project.studies import StudyTile
from spiralis.app.project.versions import VersionsWindow
from spiralis.app.widgets.asking import LiveDialog
from spiralis.app.widgets.fields import NumberField
from spiralis.app.widgets.file_dialogs import folder_of
from spiralis.app.widgets.preferences import PREFERENCES, forget, prefer, preferences_path, preferred, stored
from spiralis.app.widgets.view_options import ViewOptions
from spiralis.core.animation.ease_tiles import EASE_TILES
from spiralis.core.editing.keys import KeyRef
from spiralis.core.model import Extend, Key, Layer, Rule, Track
from spiralis.core.storage import load
from spiralis.core.storage.versions import MOST, folder_for, keep_version, versions
from tests.app.harness import WindowTest

SOFT = next(tile.easing for tile in EASE_TILES if tile.name == "soft-both")


class PreferencesTest(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        self._was = preferences_path().read_bytes() if preferences_path().exists() else None
        self.addCleanup(self._put_back)

    def _put_back(self) -> None:
        preferences_path().unlink(missing_ok=True)
        if self._was is not None:
            preferences_path().write_bytes(self._was)
        forget()

    def shown(self) -> Preferences:
        self.act("Preferences…")
        return self.window.findChildren(Preferences)[-1]

    def test_every_preference_has_an_editor_and_is_kept(self) -> None:
        dialog = self.shown()
        self.assertEqual(set(dialog.editors), set(PREFERENCES))
        box = dialog.editors["pace"]
        box.setCurrentIndex(box.findData("soft-both"))
        box.activated.emit(box.currentIndex())
        self.click(dialog.editors["still"])
        self.enter_number(dialog.editors["autosave"], "12")
        dialog.close()
        forget()
        self.assertEqual([preferred(name) for name in ("pace", "still", "autosave")], ["soft-both", True, 12])
        self.assertEqual(stored()["autosave"], 12)

    def test_what_is_not_possible_counts_as_the_default(self) -> None:
        preferences_path().parent.mkdir(parents=True, exist_ok=True)
        preferences_path().write_text('{"pace": "wild", "autosave": 100000, "still": 1, "workers": true}')
        forget()
        for name in ("pace", "autosave", "still", "workers"):
            self.assertEqual(preferred(name), PREFERENCES[name].default, name)

    def test_new_keys_take_the_preferred_pace(self) -> None:
        prefer("pace", "soft-both")
        self.session.select(["words"])
        self.act("Key for position")
        self.assertEqual(self.layer("words").track("position").keys[0].easing, SOFT)
        self.session.go_to(30)
        self.session.set_property("position", (100.0, 100.0))
        self.session.go_to(15)
        self.session.set_property("position", (200.0, 100.0))
        eases = [key.easing for key in self.layer("words").track("position").keys]
        self.assertEqual(eases, [SOFT, SOFT, SOFT])

    def test_a_key_before_all_others_moves_like_the_first(self) -> None:
        self.session.select(["words"])
        self.session.go_to(30)
        prefer("pace", "soft-both")
        self.act("Key for opacity")
        self.session.go_to(5)
        self.session.set_property("opacity", 0.0)
        self.assertEqual([key.easing for key in self.layer("words").track("opacity").keys], [SOFT, SOFT])

    def test_numbers_with_a_comma(self) -> None:
        field = NumberField("Size", "px")
        field.show_value(12.5)
        self.assertEqual(field.text(), "12.5 px")
        prefer("decimal", "comma")
        field.show_value(13.5)
        self.assertEqual(field.text(), "13,5 px")
        self.session.select(["square"])
        self.settle(0.1)
        editor = self.editor.details.editors["rotation"].field
        self.enter_number(editor, "2,25")
        self.assertEqual(self.value("square", "rotation"), 2.25)
        self.click(editor)
        self.assertEqual(editor.text(), "2,25")

    def test_a_number_set_out_of_sight_has_room_once_it_is_seen(self) -> None:
        field = NumberField("Size", "px")
        field.setFixedWidth(58)
        field.show_value(1594.0)
        self.assertEqual(field.text(), "1594 px")
        field.show()
        self.assertIn(field.text(), ("1594px", "1594"))
        self.assertLessEqual(field.fontMetrics().horizontalAdvance(field.text()), 58 - 12)
        field.close()

    def test_format_time_and_less_motion(self) -> None:
        prefer("format", "Wide")
        prefer("time", "seconds")
        prefer("still", True)
        page = StartPage()
        self.assertEqual(page.fields.values()[:2], (1920, 1080))
        self.assertEqual(ViewOptions().unit, "seconds")
        tile = StudyTile(self.session.composition, lambda _: None)
        tile.enterEvent(None)
        self.assertFalse(tile.moving)
        prefer("still", False)
        tile.enterEvent(None)
        self.assertTrue(tile.moving)
        tile.leaveEvent(None)


class VersionsTest(WindowTest):
    def saved_versions(self) -> list[str]:
        return [v.why for v in versions(self.session.path, self.session.project)]

    def test_saves_and_work_are_kept_and_lead_back(self) -> None:
        self.picture()
        path = self.folder / "piece.spiralis"
        self.assertTrue(self.window.files.save_to(path))
        self.until(lambda: self.saved_versions() == ["saved"])
        first = self.session.project
        self.session.select(["words"])
        self.act("Delete")
        self.window.files.keeping.keep_now()
        self.until(lambda: self.saved_versions() == ["while working", "saved"])
        self.act("Versions…")
        window = self.window.findChildren(VersionsWindow)[-1]
        self.assertEqual(len(window.cards), 2)
        self.assertIsNotNone(window.cards[0].picture)
        self.assertFalse(window.back.isEnabled())
        self.click(window.cards[1])
        self.click(window.back)
        self.assertEqual(self.session.composition, first.compositions[0])
        self.act("Undo")
        self.assertIsNone(self.session.composition.find("words"))

    def test_a_version_is_written_to_a_file(self) -> None:
        path, out = self.folder / "piece.spiralis", self.folder / "earlier.spiralis"
        self.window.files.save_to(path)
        self.until(lambda: bool(self.saved_versions()))
        with mock.patch.object(QFileDialog, "getSaveFileName", return_value=(str(out), "")):
            self.window.files.copies.ask_version(versions(path, self.session.project)[0].path)
        self.assertEqual(load(out).compositions, self.session.project.compositions)

    def test_going_back_to_the_file_keeps_what_was_unsaved(self) -> None:
        path = self.folder / "piece.spiralis"
        self.window.files.save_to(path)
        self.session.select(["words"])
        self.act("Delete")
        lost = self.session.composition
        with (
            mock.patch.object(QMessageBox, "exec", lambda box: 0),
            mock.patch.object(QMessageBox, "clickedButton", lambda box: box.buttons()[0]),
        ):
            self.act("Back to the saved file")
        self.assertIsNotNone(self.session.composition.find("words"))
        self.until(lambda: "before going back" in self.saved_versions())
        kept = next(v for v in versions(path, self.session.project) if v.why == "before going back")
        self.assertEqual(kept.load().compositions[0].layers, lost.layers)

    def test_the_last_ten_stay_and_come_along_with_the_first_save(self) -> None:
        project = self.session.project
        for number in range(MOST + 3):
            keep_version(None, project, f"number {number}", b"")
        found = versions(None, project)
        self.assertEqual([v.why for v in found], [f"number {n}" for n in range(MOST + 2, 2, -1)])
        self.assertEqual(len(list(folder_for(None, project).iterdir())), 2 * MOST)
        path = self.folder / "later.spiralis"
        keep_version(path, project, "saved", b"")
        self.assertEqual([v.why for v in versions(path, project)][:2], ["saved", "number 12"])
        self.assertEqual(versions(None, project), [])


class FoldersTest(WindowTest):
    def test_each_purpose_has_its_own_folder(self) -> None:
        projects, pictures = self.folder / "projects", self.folder / "pictures"
        projects.mkdir()
        pictures.mkdir()
        path = self.saved(self.session.project, "projects/a.spiralis")
        with mock.patch.object(QFileDialog, "getOpenFileName", return_value=(str(path), "")):
            self.window.files.ask_open()
        with mock.patch.object(QFileDialog, "getOpenFileNames", return_value=([str(pictures / "a.png")], "")):
            self.window.importer.choose()
        self.until(lambda: not self.window.importer.busy)
        self.assertEqual((folder_of("projects"), folder_of("artwork")), (str(projects), str(pictures)))
        with mock.patch.object(QFileDialog, "getOpenFileName", return_value=("", "")) as asked:
            self.window.files.ask_open()
        self.assertEqual(asked.call_args.args[2], str(projects))


class PassedOnTest(WindowTest):
    def entries(self, name: str) -> dict[str, object]:
        menu = self.menu = QMenu()
        fill_menu(menu, self.session, self.session.layers[0].parameter(name), self.window)
        return {action.text(): action for action in menu.actions()}

    def test_keys_of_one_property_go_to_another(self) -> None:
        self.session.edit_layers(
            "Keys", lambda y: y.with_track("rotation", Track(0.0, (Key(0, 10.0, SOFT), Key(20, 60.0)))), ["square"]
        )
        self.session.select(["square"])
        self.entries("rotation")["Copy"].trigger()
        self.session.select(["words", "square"])
        self.assertNotIn("Paste 2 keys", self.entries("position"))
        self.entries("opacity")["Paste 2 keys"].trigger()
        for layer in ("words", "square"):
            self.assertEqual([k.value for k in self.layer(layer).track("opacity").keys], [10.0, 60.0])
        self.act("Undo")
        self.assertFalse(self.layer("words").track("opacity").keys)

    def test_a_look_goes_to_others_by_the_menu(self) -> None:
        self.act("Paste the look")
        self.assertTrue(self.said)
        self.session.select(["words"])
        self.session.set_property("fill", (1.0, 0.0, 0.0, 1.0))
        self.session.set_property("opacity", 50.0)
        self.act("Copy the look")
        more = Layer("More", "text", 0, 50, id="more")
        self.session.edit("Add", lambda piece: evolve(piece, layers=(*piece.layers, more)))
        self.session.select(["more"])
        self.act("Paste the look")
        self.assertEqual(self.value("more", "fill"), (1.0, 0.0, 0.0, 1.0))
        self.assertEqual(self.value("more", "opacity"), 50.0)


class ClipboardTest(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        self.addCleanup(kept_clipboard().unlink, missing_ok=True)

    def test_copied_layers_outlive_the_program(self) -> None:
        self.session.select(["words"])
        self.act("Copy")
        keep_clipboard()
        QGuiApplication.clipboard().clear()
        self.act("Paste")
        self.assertEqual([y.name for y in self.session.composition.layers].count("Words 2"), 1)

    def test_what_others_put_there_comes_first_and_damage_is_no_trouble(self) -> None:
        self.session.select(["words"])
        self.act("Copy")
        keep_clipboard()
        QGuiApplication.clipboard().setText("something else")
        self.act("Paste")
        self.assertEqual("something else", self.session.layers[0].track("text").value)
        count = len(self.session.composition.layers)
        keep_clipboard()  # What is there now is not ours, so the kept one stays.
        QGuiApplication.clipboard().clear()
        kept_clipboard().write_bytes(kept_clipboard().read_bytes()[:40])
        self.act("Paste")
        self.assertEqual(len(self.session.composition.layers), count)


class TogetherTest(WindowTest):
    def live(self, **values: float):  # type: ignore[no-untyped-def]
        def run(dialog: LiveDialog) -> int:
            for name, value in values.items():
                dialog.fields[name].show_value(value)
            dialog.apply()
            dialog.accept()
            return 1

        return mock.patch.object(LiveDialog, "exec", run)

    def bar(self, layer: str, frame: float) -> QPointF:
        rows = self.editor.timeline.rows
        row = next(r for r in rows.rows() if r.layer.id == layer and r.name is None)
        return QPointF(rows.axis().x(frame), row.middle)

    def spans(self) -> dict[str, tuple[int, int]]:
        return {y.id: (y.first, y.last) for y in self.session.composition.layers}

    def test_chosen_bars_are_trimmed_moved_and_snap_together(self) -> None:
        rows = self.editor.timeline.rows
        self.session.select(["square", "words"])
        self.drag(rows, self.bar("words", 50), self.bar("words", 40))
        spans = self.spans()
        self.assertEqual((spans["square"], spans["words"]), ((0, 40), (0, 40)))
        self.act("Undo")
        self.assertEqual(self.spans()["square"], (0, 50))
        self.drag(rows, self.bar("words", 30), self.bar("words", 35))
        self.assertEqual([self.spans()[i] for i in ("square", "words")], [(5, 55), (5, 55)])
        self.assertEqual([k.frame for k in self.layer("square").track("position").keys], [5, 25])
        # The end snaps back to the end of the piece, which is near.
        near = QPointF(4, 0)
        self.drag(rows, self.bar("words", 30), self.bar("words", 25) + near)
        self.assertEqual(self.spans()["words"], (0, 50))

    def test_a_bar_that_is_not_chosen_moves_alone(self) -> None:
        self.session.select(["square"])
        self.drag(self.editor.timeline.rows, self.bar("words", 30), self.bar("words", 37))
        self.assertEqual((self.spans()["square"], self.spans()["words"]), ((0, 50), (7, 57)))

    def test_keys_to_a_typed_frame(self) -> None:
        refs = {KeyRef("square", "position", frame) for frame in (0, 20)}
        self.session.select(["square"], refs)
        with self.live(frame=12):
            self.act("Keys to a frame…")
        self.assertEqual([k.frame for k in self.layer("square").track("position").keys], [12, 32])
        self.assertEqual({ref.frame for ref in self.session.keys}, {12, 32})

    def test_freeze_here(self) -> None:
        self.session.select(["square"])
        self.session.go_to(10)
        with self.live(frames=6):
            self.act("Freeze here…")
        self.assertEqual([k.frame for k in self.layer("square").track("position").keys], [0, 10, 16, 26])
        self.session.go_to(13)
        np.testing.assert_allclose(self.value("square", "position"), (280.0, 240.0))
        self.session.go_to(40)
        self.act("Freeze here…")
        self.assertIn("Nothing of what is chosen moves", self.said[-1])

    def test_a_rule_lasts_a_number_of_times(self) -> None:
        self.session.view.toggle("pace")
        self.session.select(["square"], {KeyRef("square", "position", 0)})
        self.settle(0.1)
        pace = self.editor.pace
        self.assertTrue(pace.counts["after"].isHidden())
        box = pace.rules["after"]
        box.setCurrentIndex(box.findData(Rule.PING_PONG))
        box.activated.emit(box.currentIndex())
        self.settle()
        self.assertTrue(pace.counts["after"].isVisible())
        self.enter_number(pace.counts["after"], "2")
        self.assertEqual(self.layer("square").track("position").after, Extend(Rule.PING_PONG, 2))


