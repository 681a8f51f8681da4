"""Dropping: what lights up while something is dragged over the window, and that it lands there."""

import os
from pathlib import Path
from unittest import mock

import numpy as np
from PyQt6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PyQt6.QtGui import QDragEnterEvent, QDragLeaveEvent, QDragMoveEvent, QDropEvent
from PyQt6.QtWidgets import QApplication, QFileDialog, QLineEdit, QPlainTextEdit, QWidget

from spiralis.app.project.import_dialog import Choices
from spiralis.core.model import Track
from spiralis.core.raster.fonts import FONT_FOLDER
from spiralis.core.storage import load
from tests.app.harness import LEFT, NONE, WindowTest
from tests.core.drawings import svg
from tests.core.samples import png_bytes


def write_png(path: Path, colour: tuple[int, ...], size: tuple[int, int]) -> Path:
    """Write a picture of one colour."""
    path.write_bytes(png_bytes(np.full((size[1], size[0], 4), colour, dtype=np.uint8)))
    return path


class DroppingTest(WindowTest):
    def mime(self, *paths: Path) -> QMimeData:
        mime = QMimeData()
        mime.setUrls([QUrl.fromLocalFile(str(path)) for path in paths])
        return mime

    def receiver(self, at: QPoint) -> QWidget:
        """Return who gets a drag at a point of the window first; what it refuses goes up to its parents."""
        widget = self.window.childAt(at)
        while widget is not None and widget is not self.window and not widget.acceptDrops():
            widget = widget.parentWidget()
        return widget or self.window

    def hover(self, mime: QMimeData, at: QPoint) -> str:
        """Drag over a point of the window and return what lights up there."""
        widget = self.receiver(at)
        place = widget.mapFrom(self.window, at)
        for sort in (QDragEnterEvent, QDragMoveEvent):
            event = sort(place, Qt.DropAction.CopyAction, mime, LEFT, NONE)
            QApplication.sendEvent(widget, event)
            self.assertTrue(event.isAccepted())
        light = self.window.drop_events.light
        return light.target.says if light.isVisible() and light.target is not None else ""

    def drop(self, mime: QMimeData, at: QPoint) -> None:
        widget = self.receiver(at)
        place = QPointF(widget.mapFrom(self.window, at))
        event = QDropEvent(place, Qt.DropAction.CopyAction, mime, LEFT, NONE)
        QApplication.sendEvent(widget, event)
        self.assertTrue(event.isAccepted())
        self.until(lambda: not self.window.importer.busy, 20)
        self.settle()

    def on_window(self, x: float, y: float) -> QPoint:
        return self.editor.canvas.mapTo(self.window, self.on_canvas(x, y).toPoint())

    def row(self, name: str, share: float) -> QPoint:
        rows = self.editor.timeline.rows
        row = next(each for each in rows.rows() if each.layer.id == name)
        return rows.mapTo(self.window, QPoint(120, round(row.top + share * row.height)))

    def test_a_picture_over_the_canvas_lights_it_up_and_lands_where_it_is_dropped(self) -> None:
        path = write_png(self.folder / "red.png", (200, 30, 30, 255), (40, 40))
        mime, at = self.mime(path), self.on_window(300, 200)
        self.assertEqual(self.hover(mime, at), "Bring red.png in")
        self.drop(mime, at)
        self.assertFalse(self.window.drop_events.light.isVisible())
        x, y = self.session.composition.layers[0].track("position").value
        self.assertAlmostEqual(x, 300, delta=2)
        self.assertAlmostEqual(y, 200, delta=2)

    def test_what_is_dropped_near_the_middle_lands_in_it(self) -> None:
        path = write_png(self.folder / "red.png", (200, 30, 30, 255), (40, 40))
        piece = self.session.composition
        middle, near = (piece.width / 2, piece.height / 2), 4 / self.editor.canvas.viewport.zoom
        for snaps, wanted in ((True, middle), (False, (middle[0] + near, middle[1] - near))):
            if self.session.view["snap"] != snaps:
                self.session.view.toggle("snap")
            at = self.on_window(middle[0] + near, middle[1] - near)
            self.assertEqual("Bring red.png in", self.hover(self.mime(path), at))
            self.drop(self.mime(path), at)
            x, y = self.session.composition.layers[0].track("position").value
            away = 0.001 if snaps else 1.5 / self.editor.canvas.viewport.zoom
            self.assertAlmostEqual(x, wanted[0], delta=away)
            self.assertAlmostEqual(y, wanted[1], delta=away)
            self.act("Undo")

    def test_between_layers_a_line_lights_up_and_the_file_goes_there(self) -> None:
        path = write_png(self.folder / "red.png", (200, 30, 30, 255), (40, 40))
        mime, at = self.mime(path), self.row("words", 0.2)
        self.assertEqual(self.hover(mime, at), "In front of Words")
        self.assertLess(self.window.drop_events.light.target.area.height(), 6)
        self.drop(mime, at)
        self.assertEqual([layer.name for layer in self.session.composition.layers][:3], ["Square", "red", "Words"])

    def test_the_lower_half_of_a_layer_means_behind_it(self) -> None:
        path = write_png(self.folder / "red.png", (200, 30, 30, 255), (40, 40))
        ground = self.session.composition.layers[-1]
        self.assertEqual(self.hover(self.mime(path), self.row("words", 0.8)), f"In front of {ground.name}")
        at = self.row(ground.id, 0.9)
        self.assertEqual(self.hover(self.mime(path), at), "Behind everything")
        self.drop(self.mime(path), at)
        self.assertEqual(self.session.composition.layers[-1].name, "red")

    def test_a_font_over_words_becomes_their_font(self) -> None:
        path = next(p for p in sorted(FONT_FOLDER.iterdir()) if p.suffix == ".ttf" and "Inter" not in p.name)
        mime, at = self.mime(path), self.on_window(480, 120)
        self.assertEqual(self.hover(mime, at), "As the font of Words")
        before = self.session.composition.layer("words").track("font").value
        self.drop(mime, at)
        after = self.session.composition.layer("words").track("font").value
        self.assertNotEqual(after, before)
        self.session.undo()
        self.assertEqual(self.session.composition.layer("words").track("font").value, before)
        self.assertIn("Bring", self.hover(mime, self.on_window(160, 240)))

    def test_a_file_over_a_row_of_sources_takes_its_place(self) -> None:
        self.editor.drawer.toggle()
        self.settle(0.6)
        rows = self.editor.drawer.list
        item = next(i for i in map(rows.item, range(rows.count())) if i.data(Qt.ItemDataRole.UserRole) is not None
                    and self.session.project.source(i.data(Qt.ItemDataRole.UserRole).id) is not None)  # fmt: skip
        at = rows.viewport().mapTo(self.window, rows.visualItemRect(item).center())
        path = write_png(self.folder / "blue.png", (20, 30, 200, 255), (100, 100))
        mime = self.mime(path)
        self.assertIn("In place of", self.hover(mime, at))
        self.drop(mime, at)
        self.until(lambda: any(source.name == "blue.png" for source in self.session.project.sources))
        self.assertEqual(len(self.session.project.sources), 1)

    def test_captions_become_words_that_change_and_are_edited_as_keys(self) -> None:
        path = self.folder / "talk.srt"
        path.write_text("1\n00:00:00,400 --> 00:00:01,000\nfirst one\n\n2\n00:00:01,200 --> 00:00:09,000\nsecond\n")
        mime, at = self.mime(path), self.on_window(300, 200)
        self.assertEqual(self.hover(mime, at), "Bring talk.srt in")
        self.drop(mime, at)
        layer = self.session.layers[0]
        self.assertEqual((layer.name, layer.kind), ("talk", "text"))
        self.assertEqual([k.frame for k in layer.track("text").keys], [0, 10, 25, 30, 225])
        quiet, said = self.seen_at([5, 15])
        self.assertGreater(np.abs(said[330:].astype(int) - quiet[330:]).max(), 100)
        self.session.go_to(30)
        self.settle()
        self.session.set_property("text", "another", [layer.id])
        self.assertEqual(self.session.evaluated().values(self.session.layers[0])["text"], "another")
        self.session.undo()
        self.session.undo()
        self.assertIsNone(self.session.composition.find(layer.id))

    def test_what_is_to_be_read_is_written_as_captions(self) -> None:
        path = self.folder / "talk.srt"
        path.write_text("1\n00:00:00,400 --> 00:00:01,000\nfirst one\n\n2\n00:00:01,200 --> 00:00:01,600\nsecond\n")
        mime, at = self.mime(path), self.on_window(300, 200)
        self.hover(mime, at)
        self.drop(mime, at)
        self.session.go_to(12)
        self.settle()
        self.session.set_property("text", "first & last", [self.session.layers[0].id])
        out, told = self.folder / "out", list[str]()
        self.session.said.connect(told.append)
        for kind, parts in ((".vtt", ("00:00.480", "first &amp; last")), (".srt", ("00:01,600", "first & last"))):
            with mock.patch.object(QFileDialog, "getSaveFileName", return_value=(str(out), f"Captions (*{kind})")):
                self.act("Write captions…")
            written = out.with_suffix(kind).read_text(encoding="utf-8")
            for part in (*parts, "second"):
                self.assertIn(part, written)
            self.assertEqual(told.pop(), f"Wrote out{kind}: 3 captions.")
        before = written
        silent = self.session.layers[0].with_track("text", Track(""))
        self.session.edit("No words", lambda piece: piece.with_layer(silent))
        with mock.patch.object(QFileDialog, "getSaveFileName", return_value=(str(out.with_suffix(".srt")), "")):
            self.act("Write captions…")
        self.assertIn("Nothing is to be read here", self.said[-1])
        self.assertEqual(out.with_suffix(".srt").read_text(encoding="utf-8"), before)

    def test_captions_beside_artwork_that_is_opened_as_a_piece_are_not_lost(self) -> None:
        (self.folder / "talk.vtt").write_text("WEBVTT\n\n00:00.000 --> 00:01.000\nhello\n")
        (self.folder / "art.svg").write_bytes(svg('<rect width="90" height="50"/>'))
        paths = [self.folder / "art.svg", self.folder / "talk.vtt"]
        piece = self.session.composition_id
        self.window.importer.bring(paths, choices=Choices("piece"))
        self.until(lambda: not self.window.importer.busy)
        self.assertNotEqual(self.session.composition_id, piece)
        self.assertIn("talk", [layer.name for layer in self.session.project.composition(piece).layers])

    def test_leaving_puts_the_light_out(self) -> None:
        path = write_png(self.folder / "red.png", (200, 30, 30, 255), (40, 40))
        for at in (self.on_window(300, 200), self.row("words", 0.2)):
            self.assertTrue(self.hover(self.mime(path), at))
            QApplication.sendEvent(self.window, QDragLeaveEvent())
            self.assertFalse(self.window.drop_events.light.isVisible())

    def test_a_file_whose_name_is_no_utf_8_is_dropped_and_saved(self) -> None:
        name = os.fsdecode(b"Gr\xf6\xdfe 100%.png")
        write_png(self.folder / name, (0, 255, 0, 255), (40, 30))
        mime = QMimeData()
        address = f"file://{self.folder}/Gr%F6%DFe%20100%25.png\r\n"
        mime.setData("text/uri-list", address.encode())
        at = self.on_window(320, 240)
        self.assertEqual("Bring Gr\ufffd\ufffde 100%.png in", self.hover(mime, at))
        self.drop(mime, at)
        self.assertEqual([], self.said)
        self.assertEqual("Gr\ufffd\ufffde 100%", self.session.composition.layers[0].name)
        saved = self.folder / os.fsdecode(b"St\xfcck.spiralis")
        self.assertTrue(self.window.files.save_to(saved))
        self.until(lambda: not self.session.history.unsaved)
        self.assertEqual(self.session.project, load(saved))

    def test_no_field_takes_a_file_as_words(self) -> None:
        self.session.select(["words"])
        self.settle()
        fields = self.window.findChildren(QLineEdit) + self.window.findChildren(QPlainTextEdit)
        self.assertGreater(len(fields), 10)
        for field in fields:
            if not isinstance(field.parent(), QWidget) or type(field).__module__ == "PyQt6.QtWidgets":
                continue  # Qt's own, inside a field that is ours.
            self.assertFalse(field.acceptDrops(), field.accessibleName())
            if isinstance(field, QPlainTextEdit):
                self.assertFalse(field.viewport().acceptDrops())
