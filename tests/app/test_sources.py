"""Artwork in the real window: drops, the drawer, refreshing, relinking, flipbooks, nesting, pasting."""

from __future__ import annotations

import os
import threading
import time
from pathlib import Path
from unittest import mock

import numpy as np
from attrs import evolve
from PyQt6.QtCore import QMimeData, QPoint, QPointF, Qt, QTimer, QUrl
from PyQt6.QtGui import QGuiApplication
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QDialog, QDialogButtonBox, QInputDialog

from spiralis.app.project.import_dialog import Choices, ImportDialog, runs_in_question
from spiralis.app.project.importing import Landing
from spiralis.app.sources import listing as listing_module
from spiralis.app.sources.entries import entries_of
from spiralis.app.sources.listing import ENTRY, MIME
from spiralis.app.sources.refresh_dialog import RefreshDialog
from spiralis.app.work.beside import beside
from spiralis.core.editing.importing import Gathered, gather
from spiralis.core.editing.recolouring import colours_of
from spiralis.core.editing.sources import linked
from spiralis.core.media.sources import read_source
from spiralis.core.model import Project
from spiralis.core.model.slots import Slot, Variant
from spiralis.core.raster.fonts import FONT_FOLDER
from spiralis.core.storage import load
from tests.app.harness import ALT, LEFT, NONE, WindowTest, sample_project
from tests.core.clips import encode
from tests.core.drawings import DRAWINGS, svg
from tests.core.samples import png_bytes
from tests.core.test_fonts import changed


def colour_png(shade: tuple[int, int, int], size: tuple[int, int] = (40, 30)) -> bytes:
    return png_bytes(np.full((size[1], size[0], 4), (*shade, 255), np.uint8))


class ArtworkTest(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        self.window.importer.ask = lambda found: Choices()
        self.notes: list[str] = []
        self.session.said.connect(self.notes.append)

    def file(self, name: str, data: bytes) -> Path:
        path = self.folder / name
        path.write_bytes(data)
        return path

    def bring(self, *paths: Path, at: QPointF | None = None) -> None:
        self.drop(list(paths), at if at is not None else QPointF(900, 300))
        self.until(lambda: not self.window.importer.busy)
        self.settle()

    def row(self, name: str) -> None:
        """Choose a row of the open drawer."""
        listing = self.editor.drawer.list
        for index in range(listing.count()):
            entry = listing.item(index).data(ENTRY)
            if entry is not None and entry.name == name:
                listing.setCurrentRow(index)
                self.settle()
                return
        self.fail(f"no row {name}")

    def open_drawer(self) -> None:
        self.act("Sources")
        self.until(lambda: self.editor.drawer.pos().x() == 0)
        self.settle(0.2)


class BringingInTest(ArtworkTest):
    def test_a_dropped_drawing_is_a_layer_to_go_into_and_come_back_from(self) -> None:
        canvas = self.editor.canvas
        point = QPointF(canvas.mapTo(self.window, self.on_canvas(320, 200).toPoint()))
        self.bring(self.file("badge.svg", DRAWINGS["basic shapes"]), at=point)
        layer = self.session.layers[0]
        self.assertEqual((layer.kind, layer.name), ("nested", "badge"))
        np.testing.assert_allclose(layer.track("position").value, (320, 200), atol=3)
        outer = self.session.composition_id
        inside = self.on_canvas(*self.session.evaluated().matrix(layer).apply(40, 30))
        self.double_click(canvas, inside)
        self.assertEqual(self.session.composition.name, "badge")
        self.assertTrue(self.editor.piece_bar.up.isVisible())
        self.click(self.editor.piece_bar.up)
        self.assertEqual(self.session.composition_id, outer)
        self.act("Undo")
        self.assertEqual(len(self.session.project.compositions), 1)

    def test_many_files_come_in_as_one_step_and_bad_ones_are_named(self) -> None:
        paths = [
            self.file("a.png", colour_png((255, 0, 0))), self.file("clip.mp4", encode("libx264", "mp4", "yuv420p", 5)),
            self.file("bad.svg", b"<svg"), self.file("logo.svg", DRAWINGS["dashes"]),
        ]  # fmt: skip
        self.bring(*paths)
        self.assertEqual(sorted(y.kind for y in self.session.layers), ["footage", "nested", "picture"])
        self.assertTrue(any("bad.svg" in sentence for sentence in self.said))
        self.assertEqual(self.session.history.undo_name, "Import 3 files")

    def test_files_come_into_the_piece_and_the_project_in_which_they_were_asked_for(self) -> None:
        first = self.session.composition_id
        other = evolve(self.session.composition, id="other", name="Other")
        self.session.edit_project("Another piece", self.session.project.with_composition(other))
        red, font = self.file("red.png", colour_png((255, 0, 0))), next(FONT_FOLDER.glob("*.ttf"))
        self.window.importer.bring([red])
        self.window.importer.bring([font], Landing(words="words"))
        self.session.show_composition("other")
        self.session.edit_layers("Bare", lambda layer: layer, ["words"])
        self.session.edit("Without words", lambda piece: evolve(piece, layers=piece.layers[:1]))
        self.until(lambda: not self.window.importer.busy)
        self.assertIn("red", [layer.name for layer in self.session.project.composition(first).layers])
        self.assertEqual(1, len(self.session.composition.layers))
        self.assertTrue(any("lies in" in note for note in self.notes), self.notes)
        self.assertNotEqual("Inter", self.session.project.composition(first).layer("words").track("font").value)
        # Words that go before their font is read.
        self.session.show_composition(first)
        self.window.importer.bring([font], Landing(words="words"))
        self.session.select(["words"])
        self.act("Delete")
        self.until(lambda: not self.window.importer.busy)
        self.window.importer.bring([red])
        self.session.replace_project(sample_project(), None)
        before = self.session.project
        self.until(lambda: not self.window.importer.busy)
        self.assertIs(self.session.project, before)
        self.assertIn("red.png did not come in", self.said[-1])

    def test_files_wait_while_something_is_dragged_or_a_dialog_is_open(self) -> None:
        red, green = (self.file(f"{n}.png", colour_png((n == "red", 9, 9))) for n in ("red", "green"))
        canvas, count = self.editor.canvas, len(self.session.composition.layers)
        self.session.select(["square"])
        self.settle()
        handle = self.window.windowHandle()
        start = canvas.mapTo(self.window, self.on_canvas(*self.value("square", "position")).toPoint())
        QTest.mousePress(handle, LEFT, NONE, start)
        QTest.mouseMove(handle, start + QPoint(20, 0))
        self.window.importer.bring([red])
        self.settle(0.4)
        self.assertTrue(self.window.importer.busy)
        QTest.mouseMove(handle, start + QPoint(60, 0))
        self.settle()
        self.assertEqual(count, len(self.session.composition.layers))
        QTest.mouseRelease(handle, LEFT, NONE, start + QPoint(60, 0))
        self.until(lambda: not self.window.importer.busy)
        self.assertEqual(count + 1, len(self.session.composition.layers))
        self.assertEqual(["red"], [layer.name for layer in self.session.layers])
        dialog = QDialog(self.window)
        dialog.setModal(True)
        dialog.show()
        self.window.importer.bring([green])
        self.settle(0.4)
        self.assertEqual(count + 1, len(self.session.composition.layers))
        dialog.close()
        self.until(lambda: not self.window.importer.busy)
        self.assertEqual(["green"], [layer.name for layer in self.session.layers])
        self.act("Undo")
        self.act("Undo")
        self.assertEqual("Move Square", self.session.history.undo_name)
        read = threading.Event()
        self.window.importer.progressed.connect(lambda *_: read.set())
        before = self.session.project
        self.window.importer.bring([red])
        beside(lambda: (read.wait(20), time.sleep(0.2)))
        self.assertIs(before, self.session.project)
        self.until(lambda: not self.window.importer.busy)
        self.assertEqual(["red"], [layer.name for layer in self.session.layers])

    def test_the_dialog_offers_what_there_is_a_choice_about(self) -> None:
        found = gather([self.file("t.svg", DRAWINGS["transforms"])], Project())
        dialog = ImportDialog(self.window, found)
        self.addCleanup(dialog.deleteLater)
        dialog.show()
        self.settle()
        self.assertEqual(dialog.choices(), Choices("layers", True))
        self.click(dialog.layered.buttons()[2], QPointF(8, 10))
        self.click(dialog.nested, QPointF(8, 8))
        self.assertEqual(dialog.choices(), Choices("piece", False))

    def test_a_few_numbered_pictures_are_asked_about(self) -> None:
        paths = [self.file(f"kite_{n}.png", colour_png((250, 80 * n, 0))) for n in range(3)]
        for way, kinds in (("layers", ["picture"] * 3), ("flipbook", ["flipbook"]), ("footage", ["footage"])):
            with self.subTest(way=way):

                def choose(found: Gathered, way: str = way) -> Choices:
                    dialog = ImportDialog(self.window, found)
                    self.addCleanup(dialog.deleteLater)
                    self.assertEqual("layers", dialog.choices().pictures)
                    next(b for b in dialog.pictures.buttons() if b.property("choice") == way).setChecked(True)
                    return dialog.choices()

                self.window.importer.ask = choose
                self.bring(*paths)
                self.until(lambda: not self.window.importer.busy)
                self.assertEqual(kinds, [layer.kind for layer in self.session.layers])
                self.act("Undo")

    def test_many_numbered_pictures_play_and_only_such_as_may_be_meant_otherwise_are_asked_about(self) -> None:
        for count, asked in ((9, True), (25, False)):
            paths = [self.file(f"run{count}_{n:02}.png", colour_png((n, 0, 0))) for n in range(count)]
            found = gather(paths, Project())
            self.assertEqual(asked, bool(runs_in_question(found)))
            dialog = ImportDialog(self.window, found)
            self.addCleanup(dialog.deleteLater)
            self.assertEqual("footage", dialog.choices().pictures)

    def test_as_a_piece_and_in_place_of_the_content(self) -> None:
        path = self.file("poster.svg", DRAWINGS["opacity of groups"])
        self.window.importer.bring([path], choices=Choices("piece"))
        self.until(lambda: not self.window.importer.busy)
        piece = self.session.composition
        self.assertEqual((piece.name, piece.width, piece.height), ("poster", 200, 160))
        self.window.importer.bring([path], choices=Choices("replace", nested=False))
        self.until(lambda: not self.window.importer.busy)
        self.assertEqual([y.name for y in self.session.composition.layers], ["Rectangle", "Group"])
        self.assertEqual(
            (self.session.composition.width, self.session.history.undo_name), (200, "Replace the content by poster.svg")
        )

    def test_pictures_and_svg_are_pasted(self) -> None:
        mime = QMimeData()
        mime.setData("image/png", colour_png((0, 200, 0)))
        QGuiApplication.clipboard().setMimeData(mime)
        self.act("Paste")
        self.assertEqual(self.session.layers[0].kind, "picture")
        QGuiApplication.clipboard().setText(DRAWINGS["dashes"].decode())
        self.act("Paste")
        self.assertEqual(self.session.layers[0].kind, "nested")
        mime = QMimeData()
        mime.setUrls([QUrl.fromLocalFile(str(self.file("b.png", colour_png((1, 2, 3)))))])
        QGuiApplication.clipboard().setMimeData(mime)
        self.act("Paste")
        self.until(lambda: self.session.layers[0].name == "b")

    def paste(self, text: str) -> None:
        QGuiApplication.clipboard().setText(text)
        self.act("Paste")

    def test_words_are_pasted_as_a_layer_of_their_own(self) -> None:
        self.session.select(["words"])
        self.paste("  Up it\r\ngoes\n")
        layer = self.session.layers[0]
        self.assertEqual(("text", "Up it goes", "Up it\ngoes"), (layer.kind, layer.name, self.value(layer.id, "text")))
        self.assertEqual("lines", self.value(layer.id, "flow"))
        self.assertEqual("Hi", self.value("words", "text"))
        self.paste("Kite\tday\x07\n👩\u200d👧")
        self.assertEqual("Kite day\n👩\u200d👧", self.value(self.session.layers[0].id, "text"))
        self.act("Undo")
        # A whole paragraph stays within the frame.
        self.paste("A kite needs little more than a breeze and somebody who lets go of it at the right time.")
        layer = self.session.layers[0]
        left, top, right, bottom = self.session.evaluated().matrix(layer).box(self.session.evaluated().box(layer))
        self.assertTrue(left >= 0 and top >= 0 and right <= 640 and bottom <= 480, (left, top, right, bottom))
        self.act("Undo")
        self.act("Undo")
        self.assertEqual(3, len(self.session.composition.layers))

    def test_what_cannot_be_pasted_is_said(self) -> None:
        before = self.session.project
        self.paste("x" * 20_001)
        self.assertIn("at most 20000 letters", self.said[-1])
        mime = QMimeData()
        mime.setData("application/x-something", b"1")
        QGuiApplication.clipboard().setMimeData(mime)
        self.act("Paste")
        self.assertIn("Nothing on the clipboard can be pasted here", self.said[-1])
        self.assertIs(before, self.session.project)

    def test_words_are_dropped_where_one_lets_go_of_them(self) -> None:
        mime = QMimeData()
        mime.setText("Wind 7")
        place = QPointF(self.editor.canvas.mapTo(self.window, self.on_canvas(200, 300).toPoint()))
        self.assertTrue(self.window.dropping.takes(mime))
        self.assertEqual("Set the words here", self.window.dropping.target(mime, place).says)
        self.drop_mime(mime, place)
        self.settle()
        layer = self.session.layers[0]
        self.assertEqual("Wind 7", self.value(layer.id, "text"))
        np.testing.assert_allclose(self.value(layer.id, "position"), (200, 300), atol=3)
        # A link is no words.
        mime = QMimeData()
        mime.setUrls([QUrl("https://tolvane.example/kite")])
        mime.setText("https://tolvane.example/kite")
        self.assertFalse(self.window.dropping.takes(mime))

    def test_the_window_answers_while_files_are_read(self) -> None:
        answered, waited = threading.Event(), []

        def slow(*arguments: object) -> Gathered:
            waited.append(answered.wait(20))  # Only the window's own turns can end this wait.
            return gather(*arguments)

        path = self.file("slow.png", colour_png((1, 2, 3)))
        with mock.patch("spiralis.app.project.importing.gather", slow):
            self.window.dropping.take_files([path])
            QTimer.singleShot(10, answered.set)
            self.until(lambda: not self.window.importer.busy)
        self.assertEqual(waited, [True])
        self.assertEqual(len(self.session.layers), 1)


class DrawerTest(ArtworkTest):
    def test_it_lists_counts_and_searches(self) -> None:
        self.bring(self.file("sail.png", colour_png((9, 9, 9))), self.file("badge.svg", DRAWINGS["dashes"]))
        self.open_drawer()
        names = [entry.name for entry in entries_of(self.session.project)]
        self.assertEqual(names, ["Piece", "badge", "badge.svg", "sail.png", "square.png"])
        uses = {entry.name: entry.uses for entry in entries_of(self.session.project)}
        self.assertEqual((uses["badge"], uses["sail.png"]), (1, 1))
        self.type_(self.editor.drawer.search, "sail")
        self.until(lambda: self.editor.drawer.list.count() == 2)
        self.press(self.editor.drawer, Qt.Key.Key_Escape)
        self.until(lambda: not self.editor.drawer.isVisible())

    def test_a_row_dragged_to_canvas_and_timeline_lands_there(self) -> None:
        source = self.session.project.sources[0]
        canvas, rows = self.editor.canvas, self.editor.timeline.rows
        for target, widget in ((self.on_canvas(500, 300), canvas), (self.bead("square", "position", 0), rows)):
            mime = QMimeData()
            mime.setData(MIME, source.id.encode())
            place = QPointF(widget.mapTo(self.window, target.toPoint()))
            self.drop_mime(mime, place)
            self.settle()
        names = [layer.name for layer in self.session.composition.layers]
        self.assertEqual(names, ["square", "square 2", "Square", "Words", "Ground"])
        first = next(y for y in self.session.composition.layers if y.name == "square")
        np.testing.assert_allclose(first.track("position").value, (500, 300), atol=3)

    def test_what_is_used_is_not_removed_and_what_is_not_is(self) -> None:
        self.open_drawer()
        self.row("square.png")
        self.click(self.editor.drawer.buttons["Remove"])
        self.assertTrue(any("square.png" in sentence for sentence in self.said))
        self.session.select(["square"])
        self.act("Delete")
        self.settle(0.3)
        self.row("square.png")
        self.click(self.editor.drawer.buttons["Remove"])
        self.assertEqual(self.session.project.sources, ())

    def test_what_a_row_of_a_table_names_is_not_removed(self) -> None:
        self.session.edit("Slot", lambda piece: piece.with_layer(
            evolve(piece.layer("square"), slots=(Slot("Product", "source"),))))  # fmt: skip
        self.session.edit("Row", lambda piece: evolve(piece, variants=(Variant((("Product", "other"),)),)))
        source = read_source(self.file("other.png", colour_png((9, 9, 9))))
        self.session.edit_project("File", evolve(self.session.project, sources=(*self.session.project.sources, source)))
        self.open_drawer()
        self.row("other.png")
        self.click(self.editor.drawer.buttons["Remove"])
        self.assertIn("names “other.png”", self.said[-1])
        self.assertIsNotNone(self.session.project.source(source.id))

    def test_a_font_sets_the_chosen_words_and_stays_while_it_does(self) -> None:
        own = self.file("Tolvane.ttf", changed("Tolvane"))
        self.bring(own)
        before = self.session.project
        self.open_drawer()
        self.session.select([])
        self.row("Tolvane.ttf")
        listing = self.editor.drawer.list
        # With nothing chosen a double-click says what it is for, and takes nothing away.
        listing.asked.emit(listing.entry())
        self.assertIs(before, self.session.project)
        self.session.select(["square", "words"])
        listing.asked.emit(listing.entry())
        self.settle()
        self.assertEqual("Tolvane", self.layer("words").track("font").value)
        self.row("Tolvane.ttf")
        self.assertEqual(1, listing.entry().uses)
        self.click(self.editor.drawer.buttons["Remove"])
        self.assertIn("1 layer uses “Tolvane.ttf”; delete it or give it something else first.", self.said)
        # One that comes from another file as well is no loss.
        self.bring(self.file("Again.ttf", changed("Tolvane", without=("GPOS",))))
        self.row("Tolvane.ttf")
        self.click(self.editor.drawer.buttons["Remove"])
        self.assertNotIn("Tolvane.ttf", [source.name for source in self.session.project.sources])
        for _ in range(3):
            self.session.undo()
        self.until(lambda: any(listing.item(i).text() == "Tolvane.ttf" for i in range(listing.count())))
        self.row("Tolvane.ttf")
        self.click(self.editor.drawer.buttons["Remove"])
        self.assertNotIn("Tolvane.ttf", [source.name for source in self.session.project.sources])

    def test_files_come_by_their_kinds_and_only_what_shows_something_is_dragged(self) -> None:
        fonts = next(p for p in sorted(FONT_FOLDER.iterdir()) if p.suffix == ".ttf" and "Inter" not in p.name)
        table = "LUT_1D_SIZE 2\n0 0 0\n1 1 1\n"
        self.bring(self.file("A.ttf", fonts.read_bytes()), self.file("B.cube", table.encode()),
                   self.file("Z.png", colour_png((9, 9, 9))))  # fmt: skip
        self.assertIn("The table B.cube", "".join(self.notes))
        self.open_drawer()
        rows = [e for e in entries_of(self.session.project) if e.sort is not None]
        headings = list(dict.fromkeys(e.group for e in rows))
        self.assertEqual(["Pictures", "Fonts", "Colour lookups"], headings)
        listing, dragged = self.editor.drawer.list, []
        with mock.patch.object(listing_module.QDrag, "exec", lambda drag, *_: dragged.append(drag.mimeData())):
            for entry in rows:
                self.row(entry.name)
                listing.startDrag(Qt.DropAction.CopyAction)
        self.assertEqual(sum(e.group == "Pictures" for e in rows), len(dragged))

    def test_replacing_keeps_placement_and_motion(self) -> None:
        before = self.layer("square")
        path = self.file("wide.png", colour_png((0, 0, 255), (200, 50)))
        self.window.context.sources.replace(self.session.project.sources[0].id, path, "fit")
        self.until(lambda: self.session.project.sources[0].name == "wide.png")
        after = self.layer("square")
        self.assertEqual(after.track("position"), before.track("position"))
        self.assertEqual(after.track("scale").value, (50.0, 50.0))
        self.assertGreater(int(self.picture()[..., 2].max()), 200)

    def test_missing_files_are_marked_and_found_again(self) -> None:
        (self.folder / "art").mkdir()
        project = linked(self.session.project, self.folder / "art")
        path = self.saved(project)
        held = next((self.folder / "art").iterdir())
        moved = self.folder / "moved.png"
        held.rename(moved)
        self.assertTrue(self.window.files.open(path))
        self.assertTrue(any("missing" in sentence for sentence in self.said))
        canvas = self.editor.canvas
        self.settle()
        image = canvas.grab().toImage()
        corner, end = self.on_canvas(105, 185).toPoint(), self.on_canvas(215, 295).toPoint()
        places = [(x, y) for x in range(corner.x(), end.x()) for y in range(corner.y(), end.y())]
        alarmed = sum(image.pixelColor(*place).red() > 180 for place in places)
        self.assertGreater(alarmed, 100)
        lost = self.session.project.sources[0].id
        spare = evolve(read_source(self.file("spare.png", colour_png((9, 9, 9)))), id="spare")
        self.session.edit_project("More", evolve(self.session.project, sources=(*self.session.project.sources, spare)))
        self.window.context.sources.relink(lost, moved)
        renamed = evolve(spare, name="renamed meanwhile")
        self.session.edit_project("Rename", self.session.project.with_changed(renamed))
        self.until(lambda: not self.session.project.sources[0].missing)
        self.assertEqual("renamed meanwhile", self.session.project.source("spare").name)
        found = self.session.project
        self.session.undo()
        self.window.context.sources.relink(lost, moved)
        self.session.redo()
        self.until(lambda: not self.window.context.sources.background.busy)
        self.assertIs(self.session.project, found)
        self.assertIn("changed meanwhile", self.said[-1])
        self.assertTrue(self.window.files.save_to(path))
        self.assertFalse(load(path).sources[0].missing)

    def test_collecting_and_linking_from_the_menu(self) -> None:
        self.window.context.sources.link_to(self.folder / "media")
        self.assertTrue(self.session.project.sources[0].linked)
        self.window.context.sources.collect()
        self.assertFalse(self.session.project.sources[0].linked)
        self.assertEqual(self.session.history.undo_name, "Collect every file")


BEFORE = '<rect id="Ground" width="200" height="160" fill="#eee"/><path id="Sail" d="M120 20h40v60z" fill="#08f"/>'
AFTER = BEFORE.replace('id="Ground"', 'id="Sky"').replace("#08f", "#f00") + '<circle id="Sun" cx="30" cy="30" r="9"/>'


class RefreshTest(ArtworkTest):
    def setUp(self) -> None:
        super().setUp()
        self.logo = self.file("logo.svg", svg(BEFORE))
        self.bring(self.logo)
        self.session.go_into(self.session.layers[0])

    def test_a_file_changed_outside_is_offered_and_nothing_happens_before_it_is_taken(self) -> None:
        offered: list[list[str]] = []
        self.window.watch.changed.connect(offered.append)
        self.settle(0.6)
        replacement = self.file("logo.svg.new", svg(AFTER))
        os.replace(replacement, self.logo)
        self.until(lambda: bool(offered))
        self.assertTrue(self.window.notice.action.isVisible())
        self.assertEqual([y.name for y in self.session.composition.layers], ["Sail", "Ground"])
        self.window.context.sources.rereading.ask = lambda report: (report, True, True)
        self.click(self.window.notice.action)
        self.until(lambda: len(self.session.composition.layers) == 4)
        self.assertEqual(self.session.history.undo_name, "Refresh logo.svg")

    def test_the_report_says_what_matches_and_a_renamed_layer_is_matched_in_it(self) -> None:
        self.logo.write_bytes(svg(AFTER))
        seen: list[RefreshDialog] = []

        def answer(report):  # type: ignore[no-untyped-def]
            dialog = RefreshDialog(self.window, self.session.project, report)
            self.addCleanup(dialog.deleteLater)
            dialog.show()
            self.settle()
            seen.append(dialog)
            self.assertIn("1 gone from the file, 2 new in the file, 1 changed", dialog.title.text())
            missing = next(match for match in report.matches if match.state == "missing")
            dialog.match_by_hand(missing.layer.id, "Sky")
            self.assertIn("1 new in the file, 1 changed, 1 as before", dialog.title.text())
            self.assertIsNotNone(dialog.findChild(QDialogButtonBox))
            return dialog.answer()

        self.window.context.sources.rereading.ask = answer
        ground = next(y for y in self.session.composition.layers if y.name == "Ground")
        self.act("Refresh from its file…")
        self.until(lambda: len(self.session.composition.layers) == 3)
        self.assertEqual(self.session.composition.layer(ground.id).origin.key, "Sky")
        self.assertEqual(len(seen), 1)


class FlipbookTest(ArtworkTest):
    def setUp(self) -> None:
        super().setUp()
        self.window.importer.ask = lambda found: Choices(pictures="flipbook")
        colours = ((255, 0, 0), (0, 255, 0), (0, 0, 255))
        self.bring(*(self.file(f"{name}.png", colour_png(shade)) for name, shade in zip("abc", colours, strict=True)))
        self.cells = self.editor.flipbook.cells

    def names(self) -> list[str]:
        found = (self.session.project.source(source) for source, _ in self.cells.drawings)
        return [source.name[0] for source in found if source is not None]

    def test_the_strip_shows_reorders_and_times(self) -> None:
        self.assertTrue(self.editor.flipbook.isVisible())
        self.assertEqual((self.session.layers[0].kind, self.names()), ("flipbook", ["a", "b", "c"]))
        self.drag(self.cells, self.cells.cell(2).center(), QPointF(4, 40))
        self.assertEqual(self.names(), ["c", "a", "b"])
        self.click(self.cells, self.cells.cell(1).center())
        self.type_(self.cells, "6")
        self.press(self.editor.flipbook.stays, Qt.Key.Key_Return)
        self.assertEqual([stay for _, stay in self.cells.drawings], [2, 6, 2])
        self.until(lambda: "10 f = 0.83 s" in self.editor.flipbook.total.text())
        self.cells.setFocus()
        self.press(self.cells, Qt.Key.Key_Right, ALT)
        self.assertEqual(self.names(), ["c", "b", "a"])
        self.press(self.cells, Qt.Key.Key_Insert)
        self.assertEqual(self.names(), ["c", "b", "a", "a"])
        self.press(self.cells, Qt.Key.Key_Delete)
        self.assertEqual(self.names(), ["c", "b", "a"])

    def test_a_click_shows_that_drawing_on_the_canvas(self) -> None:
        piece = self.session.composition
        self.session.set_property("position", (piece.width / 2, piece.height / 2))
        for index, channel in ((1, 1), (2, 2), (0, 0)):
            self.click(self.cells, self.cells.cell(index).center())
            pixels = self.picture()
            middle = pixels[pixels.shape[0] // 2, pixels.shape[1] // 2, :3]
            self.assertEqual(int(np.argmax(middle)), channel)


class StillTest(ArtworkTest):
    def test_the_frame_is_written_as_layers(self) -> None:
        done: list[str] = []
        self.session.said.connect(done.append)
        for name in ("frame.ora", "frame.svg", "frame.png"):
            self.window.context.stills.write(self.folder / name)
            self.until(lambda name=name: any(name in sentence for sentence in done))
            self.assertGreater((self.folder / name).stat().st_size, 500)
        self.window.context.stills.write(self.folder / "nowhere" / "x.png")
        self.until(lambda: any("nowhere" in sentence for sentence in self.said))


class ShapeTest(ArtworkTest):
    def test_a_colour_of_a_drawing_changes_in_details(self) -> None:
        self.window.importer.bring([self.file("flat.svg", svg(BEFORE))], choices=Choices("flat"))
        self.until(lambda: [y.kind for y in self.session.layers] == ["shape"])
        self.settle()
        editor = self.editor.details.editors["art"]
        self.assertEqual(len(editor.fields), 2)
        editor.fields[1].changed.emit((0.0, 1.0, 0.0, 1.0))
        self.settle()
        self.assertIn((0.0, 1.0, 0.0, 1.0), colours_of(self.session.layers[0].track("art").value))


class PiecesTest(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        self.session.select(["words"])
        self.act("Nest at full size")
        self.part = next(p for p in self.session.project.compositions if p.id != self.session.composition_id)
        self.act("Sources")
        self.until(lambda: self.editor.drawer.list.count() > 0)

    def rows(self) -> list[str]:
        shown = self.editor.drawer.list
        return [shown.item(row).text() for row in range(shown.count())]

    def choose(self, name: str) -> None:
        shown = self.editor.drawer.list
        shown.setCurrentRow(self.rows().index(name))
        self.settle()

    def test_pieces_and_their_parts_are_told_apart(self) -> None:
        rows = self.rows()
        self.assertEqual(rows[:4], ["Pieces", "Piece", "Parts of pieces", self.part.name])
        pieces = self.editor.piece_bar.pieces
        self.assertEqual([pieces.itemText(i) for i in range(pieces.count())], ["Piece", "", self.part.name])
        pieces.showPopup()
        self.until(lambda: pieces.itemData(0, Qt.ItemDataRole.DecorationRole) is not None)
        pieces.hidePopup()
        pieces.activated.emit(2)
        self.assertEqual(self.session.composition_id, self.part.id)

    def test_they_are_renamed_foldered_and_removed(self) -> None:
        drawer = self.editor.drawer
        self.choose(self.part.name)
        with mock.patch.object(QInputDialog, "getText", return_value=("Greeting", True)):
            self.press(drawer.list, Qt.Key.Key_F2)
        self.settle(0.3)
        self.assertEqual(self.session.project.composition(self.part.id).name, "Greeting")
        with mock.patch.object(QInputDialog, "getItem", return_value=("Words", True)) as asked:
            self.choose("Greeting")
            self.click(drawer.buttons["Folder"])
        self.settle(0.3)
        self.assertEqual(asked.call_args.args[3], ["no folder"])
        self.assertIn("Words", self.rows())
        self.assertNotIn("Parts of pieces", self.rows())
        self.choose("Greeting")
        with mock.patch.object(QInputDialog, "getItem", return_value=("no folder", True)) as asked:
            self.click(drawer.buttons["Folder"])
        self.assertEqual(asked.call_args.args[3], ["no folder", "Words"])
        self.settle(0.3)
        self.assertIn("Parts of pieces", self.rows())
        self.choose("square.png")
        with mock.patch.object(QInputDialog, "getText", return_value=("tile.png", True)):
            self.click(drawer.buttons["Rename"])
        self.assertEqual(self.session.project.sources[0].name, "tile.png")
        self.act("Undo")
        self.assertEqual(self.session.project.sources[0].name, "square.png")
        # Delete means the row, and never a layer that is chosen meanwhile.
        self.session.select(["square"])
        self.settle(0.3)
        self.choose("Greeting")
        drawer.list.setFocus()
        count = len(self.session.composition.layers)
        self.press(drawer.list, Qt.Key.Key_Delete)
        self.assertEqual(len(self.session.composition.layers), count)
