"""Make slots, fill them, vary them from a table, reframe to three formats, export all: by mouse and keys."""

from __future__ import annotations

import shutil
from unittest import mock

import numpy as np
from attrs import evolve
from PIL import Image
from PyQt6.QtCore import QMimeData, QPointF, Qt, QUrl
from PyQt6.QtGui import QDropEvent, QPainter, QPixmap
from PyQt6.QtWidgets import QApplication, QDialogButtonBox, QFileDialog, QMenu, QPushButton

from spiralis.app.details.linking import fill_menu
from spiralis.app.fillin.form import PictureSlot
from spiralis.app.fillin.slot_dialog import SlotDialog
from spiralis.app.library.targets import OWN_TARGETS, Target
from spiralis.app.timeline import painting
from spiralis.app.timeline.marks import is_own
from spiralis.app.window import Window
from spiralis.core.model import Kind, Layer
from spiralis.core.model.art import Bundle, Contour, Figure
from spiralis.core.model.slots import Variant
from spiralis.core.storage import load
from tests.app.harness import CONTROL, LEFT, NONE, WindowTest, answered


class FillInTest(WindowTest):
    """The sample: a moving square (a picture), words “Hi”, a ground."""

    def make_slot(self, layer: str, name: str, called: str = "") -> SlotDialog:
        """Choose “Make it a slot…” in a row's menu, or the slot that it is, and press OK."""
        self.session.select([layer])
        self.settle()
        menu = QMenu()
        fill_menu(menu, self.session, self.layer(layer).parameter(name), self.editor.details)
        words = ("Make it a slot…", "Slot “")
        next(action for action in menu.actions() if action.text().startswith(words)).trigger()
        self.settle()
        dialog = self.window.findChildren(SlotDialog)[-1]
        if called:
            dialog.name.clear()
            self.type_(dialog.name, called)
        self.click(dialog.findChild(QDialogButtonBox).button(QDialogButtonBox.StandardButton.Ok))
        self.settle(0.1)
        dialog.deleteLater()
        return dialog

    def with_slots(self) -> None:
        self.make_slot("words", "text", "Headline")
        self.make_slot("square", "source", "Product")
        self.ground = self.session.composition.layers[-1].id
        self.make_slot(self.ground, "colour", "Ground")

    def show(self, part: int) -> None:
        if not self.window.filling:
            self.act("Fill-in view: slots, variants, formats")
        self.click(self.window.fill_in.buttons.button(part))
        self.settle(0.2)

    def table_file(self, text: str) -> None:
        path = self.folder / "rows.csv"
        path.write_text(text, encoding="utf-8")
        self.window.fill_in.table.open(path)
        self.settle(0.2)

    def test_a_slot_is_made_marked_changed_and_unmade(self) -> None:
        self.make_slot("words", "text", "Headline")
        slot = self.layer("words").slot("text")
        assert slot is not None
        self.assertEqual((slot.name, slot.fit), ("Headline", "shrink"))
        self.assertGreater(slot.room[0], 10)
        menu = QMenu()
        fill_menu(menu, self.session, self.layer("words").parameter("text"), self.editor.details)
        labels = [action.text() for action in menu.actions()]
        self.assertIn("Slot “Headline”…", labels)
        self.assertNotIn("Make it a slot…", labels)
        next(action for action in menu.actions() if action.text() == "No slot").trigger()
        self.settle()
        self.assertEqual(self.layer("words").slots, ())
        self.act("Undo")
        self.assertEqual(self.layer("words").slot("text"), slot)
        # What tables hold for it goes along with its name, and is told of where no slot has that.
        row = Variant((("Headline", "Gusts"),))
        self.session.edit("Row", lambda piece: evolve(piece, variants=(row,)))
        self.make_slot("words", "text", "Title")
        self.assertEqual("Gusts", self.session.composition.variants[0].cell("Title"))
        told: list[str] = []
        self.session.said.connect(told.append)
        menu = QMenu()
        fill_menu(menu, self.session, self.layer("words").parameter("text"), self.editor.details)
        next(action for action in menu.actions() if action.text() == "No slot").trigger()
        self.settle()
        self.assertEqual(["1 row of the table holds something for “Title” still; it is there again once a slot has "
                          "that name."], told)  # fmt: skip
        self.assertEqual("Gusts", self.session.composition.variants[0].cell("Title"))
        fill_menu(menu, self.session, self.layer("square").parameter("position"), self.editor.details)

    def test_what_is_typed_and_dropped_plays_at_once(self) -> None:
        self.with_slots()
        self.show(0)
        page = self.window.fill_in
        self.assertTrue(page.picture.playing)
        rows = page.form.rows
        self.assertEqual(set(rows), {"Headline", "Product", "Ground"})
        area = rows["Headline"].editor.text  # type: ignore[attr-defined]
        area.selectAll()
        self.type_(area, "WINDS ARE UP")
        self.assertEqual(self.layer("words").track("text").value, "WINDS ARE UP")
        self.assertLess(self.layer("words").track("size").value, 80, "it shrinks to the room it had")
        Image.new("RGB", (60, 30), (0, 255, 0)).save(self.folder / "green.png")
        picture = rows["Product"].editor
        assert isinstance(picture, PictureSlot)
        mime = QMimeData()
        mime.setUrls([QUrl.fromLocalFile(str(self.folder / "green.png"))])
        picture.dropEvent(QDropEvent(QPointF(5, 5), Qt.DropAction.CopyAction, mime, LEFT, NONE))
        self.settle(0.2)
        shown = self.session.project.source(self.layer("square").track("source").value)
        assert shown is not None
        self.assertEqual(shown.name, "green.png")
        # It covers the square's 100 x 100 px: 200 x 100 px, cropped at both sides.
        self.assertEqual(self.layer("square").track("crop_across").value, (25.0, 25.0))
        self.until(lambda: page.picture._pixels is not None and bool((page.picture._pixels[..., 1] > 200).any()))
        self.session.undo()
        self.session.undo()
        self.settle()
        self.assertEqual(self.layer("words").track("text").value, "Hi", "typing is one step")
        self.assertEqual(area.toPlainText(), "Hi")

    def test_a_file_is_dropped_in_the_place_of_a_logo_that_is_outlines(self) -> None:
        corners = ((0.0, 0.0), (80.0, 0.0), (80.0, 40.0), (0.0, 40.0))
        art = Bundle((Figure((Contour(tuple(c * 3 for c in corners), True),), (1.0, 0.0, 0.0, 1.0)),))
        logo = Layer("Logo", "shape", 0, 50, id="logo").with_values(form="drawing", art=art, position=(300.0, 300.0))
        self.session.edit("Logo", lambda piece: evolve(piece, layers=(logo, *piece.layers)))
        self.make_slot("logo", "art")
        self.assertEqual("Logo", self.layer("logo").slots[0].name)
        self.show(0)
        picture = self.window.fill_in.form.rows["Logo"].editor
        assert isinstance(picture, PictureSlot)
        self.assertEqual(("", "as it is"), (picture.list.currentText(), picture.list.placeholderText()))
        self.until(lambda: not picture.picture.pixmap().isNull())
        middle = picture.picture.pixmap().toImage().pixelColor(picture.picture.pixmap().rect().center())
        self.assertGreater(middle.red(), 200, "what it is now is shown")
        told: list[str] = []
        self.session.said.connect(told.append)
        (self.folder / "other.svg").write_text(
            '<svg xmlns="http://www.w3.org/2000/svg" width="20" height="20"><path d="M0 0H20V20z" fill="#0f0"/></svg>')
        mime = QMimeData()
        mime.setUrls([QUrl.fromLocalFile(str(self.folder / "other.svg"))])
        picture.dropEvent(QDropEvent(QPointF(5, 5), Qt.DropAction.CopyAction, mime, LEFT, NONE))
        self.settle(0.2)
        self.assertEqual("picture", self.layer("logo").kind)
        self.assertEqual("other.svg", picture.list.currentText())
        self.assertEqual(["“Logo” shows the file in place of what it was. Undo brings that back."], told)
        self.session.undo()
        self.settle()
        self.assertEqual(("shape", art), (self.layer("logo").kind, self.layer("logo").track("art").value))
        self.assertEqual("", picture.list.currentText())

    def test_where_nothing_is_the_frame_shows_as_on_the_canvas(self) -> None:
        self.make_slot("words", "text", "Headline")
        piece = self.session.composition
        clear = tuple(layer for layer in piece.layers if layer.kind != "backdrop")
        self.session.edit("No ground", lambda old: evolve(old, layers=clear))
        self.show(0)
        picture = self.window.fill_in.picture
        self.settle(0.3)
        place, shown = picture.place(), picture.grab().toImage()
        inside = {shown.pixelColor(int(place.left()) + 3 + 2 * step, int(place.top()) + 3).name() for step in range(20)}
        outside = shown.pixelColor(picture.width() // 2, max(int(place.top()) - 6, 0)).name()
        self.assertGreater(len(inside), 1)
        self.assertNotIn(outside, inside)

    def test_what_breaks_a_limit_is_marked(self) -> None:
        self.make_slot("words", "text", "Headline")
        layer = self.layer("words")
        slot = layer.slots[0]
        self.session.edit_layers("Limit", lambda y: y.with_slot(evolve(slot, longest=5)), ["words"])
        self.show(0)
        row = self.window.fill_in.form.rows["Headline"]
        row.editor.text.selectAll()  # type: ignore[attr-defined]
        self.type_(row.editor.text, "TOO LONG")  # type: ignore[attr-defined]
        self.until(lambda: row.problem.isVisible())
        self.assertEqual(row.problem.text(), "Too long by 3 letters")

    def test_commands_that_change_layers_wait_while_one_fills_in(self) -> None:
        self.show(0)
        self.assertFalse(self.window.actions_["Delete"].isEnabled())
        self.assertTrue(self.window.actions_["Save"].isEnabled())
        self.click(self.window.fill_in.edit)
        self.assertFalse(self.window.filling)
        self.assertTrue(self.window.actions_["Copy"].isEnabled())

    def test_a_template_opens_to_be_filled_in_and_asks_before_it_is_edited(self) -> None:
        self.make_slot("words", "text", "Headline")
        self.act("A template, or no template")
        path = self.saved(self.session.project)
        self.assertTrue(load(path).template)
        self.session.history.mark_saved()
        self.window.files.open(path)
        self.until(lambda: self.window.filling)
        with answered("Cancel"):
            self.click(self.window.fill_in.edit)
        self.assertTrue(self.window.filling)
        with answered("Edit it"):
            self.click(self.window.fill_in.edit)
        self.assertFalse(self.window.filling)

    def test_a_change_is_seen_as_soon_as_one_frame_is_ready(self) -> None:
        self.with_slots()
        self.session.go_to(3)
        self.show(0)
        picture = self.window.fill_in.picture
        self.until(lambda: picture._pixels is not None)
        red = self.session.project.with_composition(self.session.composition.with_layer(
            self.layer(self.ground).with_values(colour=(1.0, 0.0, 0.0, 1.0))))  # fmt: skip
        # Only the frame under the playhead is drawn, and the loop is elsewhere.
        with mock.patch.object(self.window.player, "ask_all"):
            picture.set_playing(False)
            picture.frame = 30
            self.session.peek.show_project(red)
            self.until(lambda: int(picture._pixels[2, 2, 0]) > 240, 10)
            self.assertIs(picture._pixels, self.window.player.picture())
            # It goes on from there where it plays, and stays at its own frame where it does not.
            self.assertEqual(30, picture.frame)
            self.session.peek.end()
            picture.set_playing(True)
            told: list[int] = []
            picture.playingChanged.connect(lambda: told.append(picture.frame))
            self.session.peek.show_project(red)
            self.until(lambda: int(picture._pixels[2, 2, 0]) > 240, 10)
            self.assertLess(picture.frame, 30)
            # What is heard of it goes on from there, too.
            self.assertEqual([self.session.frame], told)
        picture.set_playing(False)
        picture.frame = 30
        self.window.player.ask_all()
        self.until(lambda: self.window.player.store.holds(self.window.player.key(30)))
        picture._take()
        self.assertIsNot(picture._pixels, self.window.player.picture())

    def test_five_rows_in_three_formats_are_fifteen_files(self) -> None:
        self.with_slots()
        Image.new("RGB", (40, 40), (0, 0, 255)).save(self.folder / "blue.png")
        self.show(1)
        table = self.window.fill_in.table
        self.table_file("Headline,Product,Ground\nUP,blue.png,#102030\nA,,#203010\nB,gone.png,\nC,,nocolour\nHi,,#f0f0f0\n")
        self.until(lambda: "…" not in table.states)
        self.assertEqual(table.states[0], "ready")
        self.assertIn("Product: There is no picture “gone.png”", table.states[2])
        self.assertIn("not a colour", table.states[3])
        self.assertIn("stands out by", table.states[4])
        # Choosing a row shows it, and nothing is edited.
        before = self.session.version
        table.table.selectRow(0)
        self.settle(0.2)
        shown = self.session.pictured[0].compositions[0].layer("words").track("text").value
        self.assertEqual((shown, self.layer("words").track("text").value, self.session.version), ("UP", "Hi", before))
        # The colour of the chosen row is shown as it is.
        seen = table.table.grab(table.table.visualItemRect(table.table.item(0, 3)).translated(
            table.table.viewport().pos())).toImage()  # fmt: skip
        colours = {seen.pixelColor(x, seen.height() // 2).name() for x in range(seen.width())}
        self.assertIn("#102030", colours)
        # A cell is mended by typing.
        table.table.item(2, 1).setText("blue.png")
        table.table.item(3, 3).setText("#ff0000")
        self.settle(0.3)
        self.until(lambda: "…" not in table.states)
        self.assertEqual(table.states[2:4], ["ready", "ready"])
        self.show(2)
        formats = self.window.fill_in.formats
        formats.add_format(480, 480)
        self.settle(0.2)
        formats.add_format(300, 600)
        self.settle(0.2)
        self.assertEqual(len(formats.cards), 3)
        self.show(1)
        writing = self.window.fill_in.writing
        self.assertEqual(writing.begin.text(), "Export 5 files…")
        self.click(writing.formats)
        self.assertEqual(writing.begin.text(), "Export 15 files…")
        self.type_(writing.names, "{Headline}-{format}")
        writing.kind.setCurrentIndex([kind.name for kind in writing.kinds].index("gif"))
        with mock.patch("spiralis.app.fillin.writing.ask_folder", return_value=self.folder / "out"):
            (self.folder / "out").mkdir()
            self.click(writing.begin)
        queue = self.window.windows.queue
        self.until(lambda: not queue.busy, 400)
        self.assertEqual([item.state for item in queue.items], ["done"] * 15, [i.sentence for i in queue.items])
        self.assertEqual(len(list((self.folder / "out").glob("*.gif"))), 15)
        with Image.open(self.folder / "out" / "UP-300x600.gif") as gif:
            self.assertEqual(gif.size, (300, 600))
            self.assertGreater(np.asarray(gif.convert("RGB"))[..., 2].max(), 200)

    def test_the_pictures_of_a_table_are_found_again_when_its_project_is_opened_again(self) -> None:
        self.with_slots()
        pictures, work, elsewhere = (self.folder / name for name in ("pictures", "work", "elsewhere"))
        pictures.mkdir()
        work.mkdir()
        Image.new("RGB", (40, 40), (0, 0, 255)).save(pictures / "blue.png")
        (pictures / "rows.csv").write_text("Headline,Product\nUP,blue.png\n", encoding="utf-8")
        self.show(1)
        table = self.window.fill_in.table
        table.open(pictures / "rows.csv")
        path = work / "kite.spiralis"
        self.assertTrue(self.window.files.save_to(path))

        def again() -> list[str]:
            self.assertTrue(self.window.files.open(path))
            self.show(1)
            self.until(lambda: table.states != [] and "…" not in table.states)
            return table.states

        self.assertEqual(again(), ["ready"])
        self.assertIn("pictures from pictures", table.about.text())
        shutil.move(pictures, elsewhere)
        self.assertIn("no picture “blue.png” in “" + str(work), again()[0])
        with mock.patch.object(QFileDialog, "getExistingDirectory", return_value=str(elsewhere)):
            self.click(next(each for each in table.findChildren(QPushButton) if each.text() == "Pictures in…"))
        self.until(lambda: table.states == ["ready"])
        self.act("Undo")
        self.until(lambda: "no picture" in table.states[0])
        # What lies beside the project is found without being told.
        shutil.copy(elsewhere / "blue.png", work)
        self.session.history.mark_saved()
        self.assertEqual(again(), ["ready"])

    def test_rows_are_written_as_one_of_ones_own_targets(self) -> None:
        OWN_TARGETS.keep(Target("Small", "gif", {"colours": 8.0}, 160, 160, 0, 10.0))
        self.addCleanup(OWN_TARGETS.path.unlink, missing_ok=True)
        self.with_slots()
        self.show(1)
        writing = self.window.fill_in.writing
        self.table_file("Headline\nHo\n")
        self.settle(0.2)
        writing.kind.opening.emit()
        writing.kind.setCurrentText("Small")
        writing.write(self.folder)
        writing.write(self.folder)
        self.assertIn("on the export list already", self.said[-1])
        self.until(lambda: not self.window.windows.queue.busy, 60)
        (path,) = self.folder.glob("*.gif")
        with Image.open(path) as image:
            self.assertEqual((image.size, image.n_frames), ((160, 160), 20))
        # What is there is replaced only where that is wanted.
        path.write_bytes(b"mine")
        asked: list[str] = []
        with answered("Cancel", asked):
            writing.write(self.folder)
        self.assertEqual((len(asked), path.read_bytes(), self.window.windows.queue.busy), (1, b"mine", False))
        self.assertIn(path.name, asked[0])
        with answered("Replace", asked):
            writing.write(self.folder)
        self.until(lambda: not self.window.windows.queue.busy, 60)
        self.assertEqual(path.read_bytes()[:3], b"GIF")

    def test_rows_are_added_and_removed_and_bad_tables_change_nothing(self) -> None:
        self.make_slot("words", "text", "Headline")
        self.show(1)
        table = self.window.fill_in.table
        table.add_row()
        table.add_row()
        self.settle(0.2)
        self.assertEqual([row.cell("Headline") for row in self.session.composition.variants], ["Hi", "Hi"])
        table.table.selectRow(0)
        table.remove_row()
        self.settle(0.2)
        rows = self.session.composition.variants
        self.assertEqual(len(rows), 1)
        self.table_file("Other\nx\n")
        self.assertRegex(self.said[-1], "No column of “rows.csv” is named like a slot")
        self.table_file('Headline\n"open\n')
        self.assertRegex(self.said[-1], "a quote is not closed")
        self.assertEqual(self.session.composition.variants, rows)

    def test_rows_are_copied_from_and_to_a_table_elsewhere(self) -> None:
        self.make_slot("words", "text", "Headline")
        self.show(1)
        table = self.window.fill_in.table
        board = QApplication.clipboard()
        assert board is not None
        table.table.setFocus()
        board.setText("Headline\nFirst\nSecond\n")
        self.press(table.table, Qt.Key.Key_V, CONTROL)
        self.assertEqual(["First", "Second"], [row.cell("Headline") for row in self.session.composition.variants])
        table.table.setCurrentCell(1, 1)
        board.setText("Other\tmore\nLast\tmore\n")
        self.press(table.table, Qt.Key.Key_V, CONTROL)
        rows = self.session.composition.variants
        self.assertEqual(["First", "Other", "Last"], [row.cell("Headline") for row in rows])
        self.assertIn("left out", self.window.notice.label.text())
        self.press(table.table, Qt.Key.Key_C, CONTROL)
        self.assertEqual("Other", board.text().strip())
        self.press(table.table, Qt.Key.Key_Delete)
        self.assertIsNone(self.session.composition.variants[1].cell("Headline"))
        self.assertIsNotNone(self.session.composition.find("words"))
        for _ in range(3):
            self.act("Undo")
        self.assertEqual((), self.session.composition.variants)
        board.setText(" ")
        self.press(table.table, Qt.Key.Key_V, CONTROL)
        self.assertIn("Copy cells", self.said[-1])

    def test_formats_hold_their_layers_and_keep_what_is_their_own(self) -> None:
        self.show(2)
        formats = self.window.fill_in.formats
        formats.add_format(480, 480)
        self.settle(0.3)
        made = self.session.composition_id
        words = self.session.composition.layer("words")
        self.assertEqual(words.track("position").value[1], 150.0, "0.75 times as far from the middle")
        size = formats.holds["words"][2]
        size.setCurrentIndex(size.findData("keep"))
        size.activated.emit(size.currentIndex())
        self.settle(0.2)
        self.assertEqual(self.session.composition.layer("words").track("scale").value, (100.0, 100.0))
        self.click(self.window.fill_in.edit)
        self.session.set_property("position", (100.0, 100.0), ["words"])
        self.session.set_property("fill", (1.0, 0.0, 0.0, 1.0), ["words"])
        self.assertEqual([is_own(self.session.composition, y) for y in ("words", "square")], [True, False])
        self.assertEqual(self.marks(), [("Words", True), ("Square", False)])
        self.show(2)
        self.assertEqual(list(formats.again), ["words"])
        self.session.show_composition(self.session.project.compositions[0].id)
        self.session.set_property("opacity", 50.0, ["words"])
        layer = self.session.project.composition(made).layer("words")
        self.assertEqual((layer.track("opacity").value, layer.track("position").value), (50.0, (100.0, 100.0)))
        self.session.show_composition(made)
        self.settle(0.2)
        self.click(formats.again["words"])
        self.assertEqual(self.session.composition.layer("words").track("fill").value, (1.0, 1.0, 1.0, 1.0))

    def marks(self) -> list[tuple[str, bool]]:
        """Return for each layer's row whether the timeline draws the mark of what is a format's own."""
        asked: list[str] = []
        real = painting.icon_pixmap

        def icon(name: str, *rest: object) -> object:
            asked.append(name)
            return real(name, *rest)

        found = []
        with mock.patch("spiralis.app.timeline.painting.icon_pixmap", icon):
            for row in self.editor.timeline.rows.rows():
                if row.name is None and row.layer.name in ("Words", "Square"):
                    asked.clear()
                    canvas = QPixmap(400, 400)
                    painter = QPainter(canvas)
                    painting._draw_name(painter, row, self.session)
                    painter.end()
                    found.append((row.layer.name, "own" in asked))
        return sorted(found, reverse=True)

    def test_slots_of_a_format_are_those_of_its_piece(self) -> None:
        self.show(2)
        self.window.fill_in.formats.add_format(300, 300)
        self.settle(0.2)
        self.click(self.window.fill_in.edit)
        self.make_slot("words", "text", "Headline")
        self.assertEqual(self.session.project.compositions[0].layer("words").slots[0].name, "Headline")
        self.show(0)
        self.window.fill_in.form.fill("Headline", "Yo")
        for piece in self.session.project.compositions:
            self.assertEqual(piece.layer("words").track("text").value, "Yo")
        kinds = [slot.kind(self.session.project) for slot in self.window.fill_in.table.batch.slots]
        self.assertEqual(kinds, [Kind.TEXT])


class NoSlotsTest(WindowTest):
    """A piece without slots says how one is made."""

    def test_it_says_so(self) -> None:
        window: Window = self.window
        window.show_fill_in()
        self.settle(0.2)
        self.assertEqual(window.fill_in.form.rows, {})
        window.fill_in.show_part(1)
        self.settle(0.1)
        window.fill_in.table.add_row()
        self.assertRegex(self.said[-1], "no slots yet")
