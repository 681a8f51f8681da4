"""Opening, saving, recovery, bad files, the export window: what the person is told and what stays."""

import gc
import json
import os
import shutil
import subprocess
import unittest
import weakref
import zipfile
from collections.abc import Callable
from pathlib import Path
from typing import Any
from unittest import mock

import numpy as np
from attrs import evolve
from PyQt6.QtCore import QPointF
from PyQt6.QtWidgets import QFileDialog, QMessageBox

from spiralis.app.project import files
from spiralis.app.project.places import keep_place
from spiralis.app.project.recent import recent_projects
from spiralis.app.work.shots import VIEWS, write_shots
from spiralis.core.model import Project
from spiralis.core.storage import load
from spiralis.core.storage.recovery import left_behind
from tests.app.harness import WindowTest, answered, sample_project
from tests.core.samples import png_bytes, project


class FilesTest(WindowTest):
    def test_bad_files_are_a_sentence_and_change_nothing(self) -> None:
        from PIL import Image

        text = self.folder / "poster.png"
        text.write_text("words")
        (self.folder / "empty.png").write_bytes(b"")
        Image.fromarray(np.zeros((300, 300, 3), np.uint8)).save(self.folder / "whole.jpg")
        (self.folder / "cut.jpg").write_bytes((self.folder / "whole.jpg").read_bytes()[:900])
        (self.folder / "type.ttf").write_bytes(b"no font at all")
        before = self.session.project
        for name in ("poster.png", "empty.png", "cut.jpg", "type.ttf", "missing.png"):
            self.said.clear()
            self.drop([self.folder / name], QPointF(200, 300))
            self.assertEqual(len(self.said), 1, name)
            self.assertIn(name, self.said[0])
            self.assertIn(name, self.window.notice.label.text())
            self.assertIs(self.session.project, before, name)

    def test_good_files_come_in_beside_bad_ones(self) -> None:
        (self.folder / "good.png").write_bytes(png_bytes(np.full((2000, 900, 4), 200, np.uint8)))
        (self.folder / "bad.png").write_text("words")
        self.drop([self.folder / "bad.png", self.folder / "good.png"], QPointF(200, 300))
        self.until(lambda: not self.window.importer.busy)
        self.assertEqual(self.session.composition.layers[0].name, "good")
        self.assertIn("bad.png", self.said[0])
        self.assertAlmostEqual(self.session.composition.layers[0].track("scale").value[0], 100 * 0.8 * 480 / 2000, 1)

    def test_reopening_a_changed_file_shows_it_as_it_is_now(self) -> None:
        old = self.picture()
        self.session.set_property("opacity", 0.0, ["square"])
        path = self.saved(self.session.project)
        self.session.history.mark_saved()
        self.assertTrue(self.window.files.open(path))
        new = self.picture()
        self.assertEqual(new.shape, old.shape)
        self.assertFalse(np.array_equal(new, old))

    def test_a_project_opens_where_one_was_in_it(self) -> None:
        made = sample_project()
        first, second = made.compositions[0], evolve(made.compositions[0], id="two", name="Two")
        made = evolve(made, compositions=(first, second))
        path, other = self.saved(made), self.saved(made, "other.spiralis")

        def open_(name: Path) -> tuple[str, int]:
            self.session.history.mark_saved()
            self.assertTrue(self.window.files.open(name))
            return self.session.composition_id, self.session.frame

        self.assertEqual((first.id, 0), open_(path))
        self.session.show_composition("two")
        self.session.go_to(17)
        self.assertEqual((first.id, 0), open_(other), "each file has a place of its own")
        self.assertEqual(("two", 17), open_(path))
        self.assertEqual(17, self.editor.timeline.session.frame)
        self.assertEqual(second.id, self.editor.piece_bar.session.composition_id)
        # A piece that is gone, or a frame that is, is nothing to stumble over.
        self.session.go_to(30)
        self.session.edit_project("Shorter", evolve(self.session.project, compositions=(
            first, evolve(second, length=20, layers=()))))  # fmt: skip
        self.session.go_to(19)
        self.assertTrue(self.window.files.save())
        self.assertEqual(("two", 19), open_(path))
        keep_place(path, ("two", 4000))
        self.session.path = None
        self.assertEqual(("two", 19), open_(path))
        keep_place(path, ("gone", 5))
        self.session.path = None
        self.assertEqual((first.id, 0), open_(path))

    def test_a_broken_project_leaves_the_open_one(self) -> None:
        path = self.saved(sample_project())
        data = path.read_bytes()
        path.write_bytes(data[: len(data) // 2])
        before = self.session.project
        self.assertFalse(self.window.files.open(path))
        self.assertIs(self.session.project, before)
        self.assertIn("piece.spiralis", self.said[0])

    def test_missing_media_are_named(self) -> None:
        path = self.saved(sample_project())
        thin = self.folder / "thin.spiralis"
        with zipfile.ZipFile(path) as old, zipfile.ZipFile(thin, "w") as new:
            for name in old.namelist():
                if not name.startswith("media/"):
                    new.writestr(name, old.read(name))
        self.assertTrue(self.window.files.open(thin))
        self.assertIn("square.png", self.said[0])
        self.picture()

    def test_a_copy_is_another_file_and_the_open_one_stays(self) -> None:
        path, copy = self.folder / "mine.spiralis", self.folder / "copy.spiralis"
        self.assertTrue(self.window.files.save_to(path))
        self.session.set_property("opacity", 40.0, ["words"])
        with mock.patch.object(QFileDialog, "getSaveFileName", return_value=(str(copy.with_suffix("")), "")) as asked:
            self.act("Save a copy…")
        self.assertTrue(asked.call_args.args[2].endswith("mine-copy.spiralis"))
        self.assertEqual(self.session.path, path)
        self.assertTrue(self.session.history.unsaved)
        piece = load(copy).compositions[0]
        self.assertEqual(piece.layer("words").track("opacity").value, 40.0)
        self.assertEqual(load(path).compositions[0].layer("words").track("opacity").value, 100.0)
        self.window.files.copies.write(path)
        self.assertIn("open file itself", self.said[-1])
        self.window.files.copies.write(self.folder / "none" / "a.spiralis")
        self.assertIn("none", self.said[-1])

    def test_a_name_without_its_ending_replaces_nothing_unasked(self) -> None:
        copy, sheet = self.folder / "copy.spiralis", self.folder / "frame.svg"
        copy.write_text("there")
        sheet.write_text("there")
        asked: list[str] = []

        def typed(name: str, kind: str) -> Any:
            return mock.patch.object(QFileDialog, "getSaveFileName", return_value=(str(self.folder / name), kind))

        with answered("Cancel", asked), typed("copy", "Projects (*.spiralis)"):
            self.act("Save a copy…")
        with answered("Cancel", asked), typed("frame", "Vectors: sharp (*.svg)"):
            self.act("Write this frame…")
        self.assertEqual(asked, ["“copy.spiralis” is there already.", "“frame.svg” is there already."])
        self.assertEqual([copy.read_text(), sheet.read_text()], ["there", "there"])
        with answered("Replace it", asked), typed("copy", ""):
            self.act("Save a copy…")
        self.assertEqual(load(copy).compositions[0].name, self.session.composition.name)
        with answered("none", asked), typed("copy.SPIRALIS", ""):
            self.act("Save a copy…")
        self.assertTrue((self.folder / "copy.SPIRALIS").exists())
        self.assertEqual(len(asked), 3)

    def test_back_to_the_saved_file_asks_first(self) -> None:
        self.act("Back to the saved file")
        self.assertIn("no file yet", self.said[-1])
        self.assertTrue(self.window.files.save_to(self.folder / "mine.spiralis"))
        self.session.set_property("opacity", 40.0, ["words"])
        changed = self.session.project

        with answered("Leave it"):
            self.act("Back to the saved file")
        self.assertIs(self.session.project, changed)
        with answered("Go back"):
            self.act("Back to the saved file")
        self.assertEqual(self.session.composition.layer("words").track("opacity").value, 100.0)
        self.assertFalse(self.session.history.unsaved)

    def test_where_the_saved_file_cannot_be_read_the_work_stays_unsaved(self) -> None:
        path = self.folder / "mine.spiralis"
        self.assertTrue(self.window.files.save_to(path))
        self.session.set_property("opacity", 40.0, ["words"])
        path.unlink()
        with mock.patch.object(files.Files, "_may_revert", return_value=True):
            self.act("Back to the saved file")
        self.assertIn("is not there", self.said[-1])
        self.assertEqual(40.0, self.value("words", "opacity"))
        self.assertTrue(self.session.history.unsaved)

    def test_the_open_file_opened_again_and_saved_on_the_way_shows_what_was_saved(self) -> None:
        path = self.folder / "mine.spiralis"
        self.assertTrue(self.window.files.save_to(path))
        buttons = QMessageBox.StandardButton
        ways = ((buttons.Save, 40.0), (buttons.Discard, 40.0), (buttons.Cancel, 42.0))
        for number, (answer, shown) in enumerate(ways):
            self.session.set_property("opacity", 40.0 + number, ["words"])
            with mock.patch.object(QMessageBox, "exec", return_value=answer):
                self.window.files.open(path)
            self.assertEqual(shown, self.value("words", "opacity"))
            self.assertEqual(answer == buttons.Cancel, self.session.history.unsaved)
            self.assertEqual(40.0, load(path).compositions[0].layer("words").track("opacity").value)

    def test_a_version_is_written_whole_or_not_at_all_and_never_over_the_open_file(self) -> None:
        path, other = self.folder / "mine.spiralis", self.folder / "other.spiralis"
        self.assertTrue(self.window.files.save_to(path))
        before = path.read_bytes()
        version = self.saved(sample_project(), "version.spiralis")
        other.write_bytes(b"what was there")

        def write(to: Path) -> None:
            with mock.patch.object(QFileDialog, "getSaveFileName", return_value=(str(to), "")):
                self.window.files.copies.ask_version(version)

        write(path)
        self.assertIn("is the open file itself", self.said[-1])
        self.assertEqual(before, path.read_bytes())
        with mock.patch("os.fsync", side_effect=OSError(28, "No space left on device")):
            write(other)
        self.assertIn("other.spiralis", self.said[-1])
        self.assertEqual(b"what was there", other.read_bytes())
        write(other)
        self.assertEqual(version.read_bytes(), other.read_bytes())
        self.assertEqual(["mine.spiralis", "other.spiralis", "version.spiralis"],
                         sorted(p.name for p in self.folder.iterdir()))  # fmt: skip

    def test_saving_where_one_may_not_is_a_sentence(self) -> None:
        self.assertFalse(self.window.files.save_to(Path("/proc/a.spiralis")))
        self.assertFalse(self.window.files.save_to(self.folder / "none" / "a.spiralis"))
        self.assertEqual(len(self.said), 2)

    def test_a_window_that_is_closed_while_a_file_is_read_stays_closed(self) -> None:
        path = self.saved(sample_project())
        before = self.session.project

        def closing(work: Callable[[], Project]) -> Project:
            self.assertTrue(self.window.close())
            return work()

        with mock.patch.object(files, "beside", closing):
            self.window.files.open(path)
        self.assertIs(self.session.project, before)

    def test_what_comes_in_while_a_file_is_written_is_not_lost_and_not_called_saved(self) -> None:
        path = self.folder / "mine.spiralis"

        def changing(work: Callable[[], object]) -> object:
            made = work()
            self.session.set_property("opacity", 40.0, ["words"])
            return made

        for name in ("Untitled", "Kites"):
            self.session.edit_project("Name", evolve(self.session.project, name=name))
            self.session.set_property("opacity", 70.0, ["words"])
            with mock.patch.object(files, "beside", changing):
                self.assertTrue(self.window.files.save_to(path))
            self.assertEqual(40.0, self.value("words", "opacity"))
            self.assertEqual("mine" if name == "Untitled" else name, self.session.project.name)
            self.assertTrue(self.session.history.unsaved)
            self.assertEqual(70.0, load(path).compositions[0].layer("words").track("opacity").value)
            self.assertTrue(self.window.files.save_to(path))
            self.assertFalse(self.session.history.unsaved)
            self.assertEqual(40.0, load(path).compositions[0].layer("words").track("opacity").value)

    def test_unsaved_changes_are_asked_about(self) -> None:
        self.session.set_property("opacity", 5.0, ["words"])
        path = self.saved(sample_project())
        buttons = QMessageBox.StandardButton
        with mock.patch.object(QMessageBox, "exec", return_value=buttons.Cancel) as asked:
            self.assertFalse(self.window.files.open(path))
            self.assertEqual(asked.call_count, 1)
        self.assertEqual(self.value("words", "opacity"), 5.0)
        with mock.patch.object(QMessageBox, "exec", return_value=buttons.Discard):
            self.assertTrue(self.window.files.open(path))
        self.assertEqual(self.value("words", "opacity"), 100.0)

    def test_closing_asks_and_can_save(self) -> None:
        self.session.set_property("opacity", 5.0, ["words"])
        target = self.folder / "kept.spiralis"
        with (
            mock.patch.object(QMessageBox, "exec", return_value=QMessageBox.StandardButton.Save),
            mock.patch.object(QFileDialog, "getSaveFileName", return_value=(str(target), "")),
        ):
            self.assertTrue(self.window.close())
        self.assertTrue(target.exists())
        self.assertIn(target.resolve(), recent_projects())

    def test_unsaved_work_survives_a_crash(self) -> None:
        self.session.set_property("opacity", 7.0, ["words"])
        self.window.files.keeping._write_journal()
        journal = self.window.files.keeping.journal
        self.until(lambda: journal.note.exists())
        # A crash: the process is gone and never discarded its copy.
        note = json.loads(journal.note.read_text())
        dead = journal.path.with_name("4194301-dead.spiralis")
        shutil.copy(journal.path, dead)
        dead.with_suffix(".json").write_text(json.dumps({**note, "process": 4194301}))
        found = next(f for f in left_behind() if f.journal.path == dead)
        self.session.set_property("opacity", 50.0, ["words"])
        self.window.files.recover(found)
        self.assertEqual(self.value("words", "opacity"), 7.0)
        self.assertTrue(self.session.history.unsaved)
        self.until(lambda: not dead.exists())
        self.assertTrue(self.window.files.keeping.journal.path.exists())

    def test_artwork_that_begins_a_project_is_unsaved_work(self) -> None:
        copied = self.enterContext(mock.patch.object(self.window.files.keeping, "note_change"))
        self.window.files.start(sample_project())
        self.assertTrue(self.session.history.unsaved)
        copied.assert_called()

    def test_a_project_that_is_left_is_let_go_of(self) -> None:
        self.window.show_editor()
        for number in range(3):
            self.session.set_property("opacity", float(number), [self.session.composition.layers[0].id])
            self.settle()
        left = weakref.ref(self.session.project)
        self.session.history.mark_saved()
        self.window.files.new(project(width=200, height=100).compositions[0])
        gc.unfreeze()
        # Threads that still make something of it let go when it is done.
        self.until(lambda: gc.collect() >= 0 and left() is None, 10)

    def test_formats_that_cannot_be_are_answered_on_the_start_page(self) -> None:
        self.act("New…")
        start = self.window.start
        for width, rate in (("0", "25"), ("20001", "25"), ("100", "0"), ("100", "fast"), ("100", "1/0")):
            self.enter_number(start.fields.across, width)
            start.fields.rate.setCurrentText(rate)
            self.click(start.begin)
            self.assertTrue(start.problem.text().endswith("."), (width, rate))
            self.assertFalse(self.window.editing)

    def test_a_card_starts_a_piece_of_its_format(self) -> None:
        self.act("New…")
        self.click(self.window.start.cards[2])
        self.assertEqual((self.session.composition.width, self.session.composition.height), (1080, 1920))

    def test_the_demo_opens_and_draws(self) -> None:
        self.window.files.open_demo()
        self.assertEqual(self.session.project.name, "Tolvane Kites")
        self.assertGreater(int(self.picture()[..., :3].max()), 150)


class ExportWindowTest(WindowTest):
    def open_(self):  # type: ignore[no-untyped-def]
        self.act("Export…")
        return self.window.windows.export

    def test_cancel_leaves_no_file(self) -> None:
        export = self.open_()
        export.start(self.folder / "a.mp4")
        self.until(lambda: export.foot.bar.value() >= 2)
        self.click(export.foot.cancel)
        self.until(lambda: export.running is None)
        self.settle()
        self.assertEqual(list(self.folder.iterdir()), [])
        self.assertIn("nothing was written", export.foot.state.text())

    def test_a_bad_folder_is_a_sentence(self) -> None:
        export = self.open_()
        export.start(self.folder / "none" / "a.gif")
        self.until(lambda: export.running is None)
        self.settle()
        self.assertIn("not there", export.foot.state.text())
        self.assertFalse(export.foot.open_file.isVisible())

    def test_settings_reach_the_file(self) -> None:
        export = self.open_()
        self.click(export.cards["gif"])
        self.enter_number(export.settings.width_field, "50%")
        self.enter_number(export.settings.last, "9")
        self.enter_number(export.settings.fields["colours"], "4")
        export.start(self.folder / "a.gif")
        self.until(lambda: export.running is None)
        from PIL import Image

        with Image.open(self.folder / "a.gif") as image:
            self.assertEqual((image.size, image.n_frames), ((320, 240), 10))
            self.assertLessEqual(len(image.convert("RGB").getcolors(9999)), 4)

    def test_one_frame_as_png(self) -> None:
        self.session.go_to(12)
        export = self.open_()
        self.click(export.cards["png"])
        export.start(self.folder / "still.png")
        self.until(lambda: export.running is None)
        self.assertEqual([path.name for path in self.folder.iterdir()], ["still.png"])


class ShotsTest(unittest.TestCase):
    #: Views that take little time; all of them are written with ``spiralis shot``.
    SOME = ("start", "main-window", "copies", "moves")

    def test_every_view_has_a_picture_that_the_readme_shows(self) -> None:
        from PyQt6.QtGui import QImage

        folder, readme = Path("docs/screenshots"), Path("README.md").read_text(encoding="utf-8")
        self.assertEqual({path.stem for path in folder.iterdir()}, set(VIEWS))
        for name in VIEWS:
            self.assertIn(f"docs/screenshots/{name}.png", readme)
            image = QImage(str(folder / f"{name}.png"))
            self.assertLessEqual(image.width(), 1280)
            self.assertGreater(image.width(), 200)

    def test_some_views_are_written_at_their_size(self) -> None:
        import tempfile

        from PyQt6.QtGui import QImage

        kept = os.environ.get("XDG_STATE_HOME")
        with tempfile.TemporaryDirectory() as folder:
            paths = list(write_shots(Path(folder), self.SOME))
            self.assertEqual([path.stem for path in paths], [name for name in VIEWS if name in self.SOME])
            for path in paths:
                image = QImage(str(path))
                width, height = (500, 300) if path.stem == "moves" else (1280, 800)
                self.assertGreaterEqual(image.width(), width, path.name)
                self.assertGreaterEqual(image.height(), height, path.name)
        if kept is not None:
            os.environ["XDG_STATE_HOME"] = kept


@unittest.skipUnless(shutil.which("Xvfb"), "Xvfb is not installed")
class XvfbTest(unittest.TestCase):
    def test_the_window_comes_up_on_a_real_display(self) -> None:
        code = (
            "from spiralis.app.main import application, new_window\n"
            "w = new_window(); w.show(); w.files.open_demo()\n"
            "ok = w.player.wait_for_picture(60, application().processEvents)\n"
            "print(application().platformName(), ok, w.player.picture().shape[0] > 100)\n"
            "import os, sys; sys.stdout.flush(); os._exit(0)"
        )
        import sys

        server = subprocess.Popen(["Xvfb", "-displayfd", "1", "-screen", "0", "1280x800x24"], stdout=subprocess.PIPE,
                                  stderr=subprocess.DEVNULL, text=True)  # fmt: skip
        try:
            assert server.stdout is not None
            display = server.stdout.readline().strip()
            env = {**os.environ, "DISPLAY": f":{display}", "QT_QPA_PLATFORM": "xcb"}
            done = subprocess.run(
                [sys.executable, "-c", code], capture_output=True, text=True, env=env, timeout=120, check=False
            )
        finally:
            server.kill()
            server.wait()
            server.stdout.close()
        self.assertEqual(done.stdout.strip(), "xcb True True", done.stderr[-800:])
