"""Files that are wanted for something: a face of a box, a picture layer, a slot, the place of another file; outlines
among them."""

from pathlib import Path
from unittest import mock

from attrs import evolve
from PyQt6.QtCore import QMimeData, QPointF, Qt, QUrl
from PyQt6.QtGui import QDropEvent
from PyQt6.QtWidgets import QDialogButtonBox, QFileDialog

from spiralis.app.details.editors import ChoiceEditor
from spiralis.app.fillin.form import PictureSlot
from spiralis.app.fillin.slot_dialog import SlotDialog
from spiralis.core.editing.effecting import with_effect
from spiralis.core.editing.slots import with_slot
from spiralis.core.model import Layer, Source
from spiralis.core.model.slots import Slot
from spiralis.core.raster.fonts import FONT_FOLDER
from tests.app.harness import LEFT, NONE, WindowTest, sample_project
from tests.core.clips import encode
from tests.core.samples import cube
from tests.core.test_flattening import LOGO


class FileForTest(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        self.logo = self.folder / "logo.svg"
        self.logo.write_text(LOGO)
        box = Layer("Box", "box", 0, 50, id="box").with_values(each=True, depth=True, position=(300.0, 200.0))
        self.session.edit("Box", lambda piece: evolve(piece, layers=(box, *piece.layers)))

    def source_of(self, layer: str, name: str) -> Source:
        found = self.session.project.source(str(self.value(layer, name)))
        assert found is not None
        return found

    def bring(self, name: str, path: Path) -> None:
        """Choose “Bring a file in…” in a row's list, and the file."""
        editor = self.editor.details.editors[name]
        assert isinstance(editor, ChoiceEditor)
        last = editor.box.count() - 1
        self.assertEqual("Bring a file in…", editor.box.itemText(last))
        with mock.patch.object(QFileDialog, "getOpenFileName", return_value=(str(path), "")):
            editor.box.activated.emit(last)
        self.until(lambda: not self.window.file_for.background.busy)
        self.settle()

    def choose(self, *ids: str) -> None:
        self.session.select(ids)
        self.settle()

    def test_the_face_of_a_box_gets_it_and_no_layer_comes(self) -> None:
        self.choose("box")
        before, name = self.session.project, "front_picture"
        self.bring(name, self.logo)
        self.assertEqual("logo.svg", self.source_of("box", name).name)
        self.assertEqual(2160, self.source_of("box", name).width, "outlines are drawn sharp enough for a whole frame")
        self.assertEqual(len(before.compositions[0].layers), len(self.session.composition.layers))
        self.act("Undo")
        self.assertTrue(self.session.project is before, "one step")

    def test_what_is_no_picture_is_refused_in_a_sentence(self) -> None:
        self.choose("box")
        before = self.session.project
        clip = self.folder / "clip.mp4"
        clip.write_bytes(encode("libx264", "mp4", "yuv420p", count=5))
        font = next(FONT_FOLDER.glob("*.ttf"))
        for path, word in ((clip, "footage"), (font, "font"), (self.folder / "no.png", "no.png")):
            self.said.clear()
            self.bring("front_picture", path)
            self.assertIn(word, self.said[0])
            self.assertIn(path.name, self.said[0])
            self.assertTrue(self.session.project is before)

    def test_a_picture_layer_shows_it_as_large_as_the_one_before(self) -> None:
        self.choose("square")
        self.bring("source", self.logo)
        layer, source = self.layer("square"), self.source_of("square", "source")
        self.assertEqual(("logo.svg", 400), (source.name, source.width))
        self.assertEqual((25.0, 25.0), layer.track("scale").value)
        self.assertEqual(2, len(layer.track("position").keys))

    def test_a_project_that_was_opened_meanwhile_gets_nothing(self) -> None:
        self.choose("square")
        self.window.file_for.bring(self.logo, "source")
        self.session.history.mark_saved()
        self.session.replace_project(sample_project(), None)
        self.until(lambda: not self.window.file_for.background.busy)
        self.settle()
        self.assertIn("logo.svg did not come in", self.said[-1])
        self.assertEqual(1, len(self.session.project.sources))

    def test_outlines_take_the_place_of_a_picture_in_the_drawer(self) -> None:
        before, held = self.session.project, self.session.project.sources[0]
        self.window.context.sources.replace(held.id, self.logo, "fit")
        self.until(lambda: self.session.project is not before)
        now = self.session.project.sources[0]
        self.assertEqual(("logo.svg", 400, 200, held.id), (now.name, now.width, now.height, now.id))
        self.assertEqual((25.0, 25.0), self.layer("square").track("scale").value)
        self.act("Undo")
        self.window.context.sources.replace(held.id, self.logo, "keep")
        self.until(lambda: self.session.project is not before)
        self.assertEqual(80, self.session.project.sources[0].width)
        self.assertEqual((100.0, 100.0), self.layer("square").track("scale").value)

    def drop_on_slot(self, name: str, path: Path) -> PictureSlot:
        """Let go of a file over a slot of the fill-in view."""
        picture = self.window.fill_in.form.rows[name].editor
        assert isinstance(picture, PictureSlot)
        mime = QMimeData()
        mime.setUrls([QUrl.fromLocalFile(str(path))])
        picture.dropEvent(QDropEvent(QPointF(5, 5), Qt.DropAction.CopyAction, mime, LEFT, NONE))
        self.settle(0.2)
        return picture

    def test_a_face_and_a_table_of_colours_are_slots_for_what_they_take(self) -> None:
        self.session.edit_layers("Add", lambda y: with_effect(y, "colour-lookup"), ["box"])
        lookup = f"{self.layer('box').blocks[0].id}.lookup"
        for name, called in (("front_picture", "Face"), (lookup, "Look")):
            self.choose("box")
            dialog = SlotDialog(self.window, self.session, self.layer("box"), self.layer("box").parameter(name))
            self.assertIn(": ", dialog.name.text(), "which of the layer's properties it is")
            self.assertIsNone(dialog.fit.parentWidget(), "there is no place that it could be too large for")
            dialog.name.setText(called)
            dialog.findChild(QDialogButtonBox).accepted.emit()
        self.act("Fill-in view: slots, variants, formats")
        self.settle(0.2)
        cubes = self.folder / "noon.cube"
        cubes.write_bytes(cube(seed=4))
        look = self.drop_on_slot("Look", cubes)
        self.assertEqual("noon.cube", self.source_of("box", lookup).name)
        face = self.drop_on_slot("Face", self.logo)
        self.assertEqual("logo.svg", self.source_of("box", "front_picture").name)
        self.assertEqual("box", self.layer("box").kind)
        self.assertEqual([], self.said)
        square = self.session.project.sources[0].name
        lists = [[slot.list.itemText(row) for row in range(slot.list.count())] for slot in (face, look)]
        self.assertEqual([[square, "logo.svg"], ["noon.cube"]], lists)
        before = self.session.project
        self.drop_on_slot("Face", cubes)
        self.assertIn("is a lookup, and a picture is wanted", self.said[-1])
        self.assertTrue(self.session.project is before)
        with mock.patch.object(QFileDialog, "getOpenFileName", return_value=("", "")) as asked:
            self.click(look.file)
        self.assertNotIn("png", asked.call_args.args[3])

    def test_a_logo_that_is_dropped_on_its_slot_is_drawn_for_its_room(self) -> None:
        slot = Slot("Logo", "source", fit="contain")
        self.session.edit_project("Slot", with_slot(self.session.project, self.session.composition, "square", slot))
        self.act("Fill-in view: slots, variants, formats")
        self.settle(0.2)
        picture = self.drop_on_slot("Logo", self.logo)
        source = self.source_of("square", "source")
        self.assertEqual(("logo.svg", 400), (source.name, source.width))
        self.assertEqual("logo.svg", picture.list.currentText())
        self.assertEqual([], self.said)
