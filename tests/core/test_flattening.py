"""Layered files as one picture: as large as the room that outlines are to fill, and right in every pixel."""

import tempfile
import unittest
from pathlib import Path

import numpy as np

from spiralis.core.editing.effecting import with_effect
from spiralis.core.editing.flattening import read_one_source
from spiralis.core.editing.slots import open_slots, source_in, with_slot
from spiralis.core.errors import SpiralisError
from spiralis.core.media.layered_files import read_layers
from spiralis.core.media.pictures import decode_picture
from spiralis.core.model import Composition, Layer, Project, Source
from spiralis.core.model.slots import Slot, Variant
from spiralis.core.raster.fonts import FONT_FOLDER
from spiralis.core.render import render_frame
from spiralis.core.variants.cells import filled_by
from spiralis.demo.poster import poster_ora
from tests.core.samples import cube, square_source

LOGO = """<svg xmlns="http://www.w3.org/2000/svg" width="80" height="40" viewBox="0 0 80 40">
<rect width="40" height="40" fill="#ff0000"/><rect x="60" width="20" height="40" fill="#0000ff"/></svg>"""


class OneSourceTest(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        self.logo = self.folder / "logo.svg"
        self.logo.write_text(LOGO)

    def pixels(self, source: Source) -> np.ndarray:
        assert source.data is not None
        return np.asarray(decode_picture(source.data, "logo"))

    def test_outlines_are_drawn_for_twice_the_room_and_never_smaller_than_they_are(self) -> None:
        for room, size in (
            ((0.0, 0.0), (80, 40)), ((10.0, 10.0), (80, 40)), ((400.0, 100.0), (800, 400)),
            ((100.0, 400.0), (1600, 800)), ((9000.0, 10.0), (4096, 2048)),
        ):  # fmt: skip
            source = read_one_source(self.logo, Project(), room)
            self.assertEqual(size, (source.width, source.height), room)
            self.assertEqual("logo.svg", source.name)
            self.assertTrue(source.sort.still)
            pixels, scale = self.pixels(source), size[0] / 80
            self.assertEqual((size[1], size[0]), pixels.shape[:2])
            np.testing.assert_allclose(pixels[2, int(2 * scale), :4], (255, 0, 0, 255), atol=1)
            np.testing.assert_allclose(pixels[2, int(50 * scale), 3], 0, atol=1)
            np.testing.assert_allclose(pixels[2, int(70 * scale), :4], (0, 0, 255, 255), atol=1)
            # The edge stands where it stands in the file.
            self.assertEqual(round(40 * scale), int((pixels[size[1] // 2, : int(50 * scale), 3] > 127).sum()))

    def test_pixels_stay_as_many_as_they_are(self) -> None:
        path = self.folder / "poster.ora"
        path.write_bytes(poster_ora())
        layered = read_layers(path)
        source = read_one_source(path, Project(), (5000.0, 5000.0))
        self.assertEqual((layered.width, layered.height), (source.width, source.height))

    def test_a_changed_file_is_read_anew(self) -> None:
        first = read_one_source(self.logo, Project(), (100.0, 100.0))
        self.logo.write_text(LOGO.replace("#ff0000", "#00ff00"))
        second = read_one_source(self.logo, Project(), (100.0, 100.0))
        self.assertNotEqual(first.digest, second.digest)
        self.assertEqual((0, 255, 0), tuple(self.pixels(second)[2, 2, :3]))

    def test_what_is_broken_is_said(self) -> None:
        self.logo.write_text("<svg")
        with self.assertRaisesRegex(SpiralisError, "logo.svg"):
            read_one_source(self.logo, Project())
        with self.assertRaisesRegex(SpiralisError, "gone.svg"):
            read_one_source(self.folder / "gone.svg", Project())


class SlotOfOutlinesTest(unittest.TestCase):
    """A slot whose picture of 100 px stands at 200 %: its room is 200 by 200 px."""

    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        (self.folder / "logo.svg").write_text(LOGO)

    def project(self, fit: str) -> Project:
        source = square_source(100)
        layer = Layer("Logo", "picture", 0, 10, id="logo").with_values(
            source=source.id, position=(300.0, 200.0), scale=(200.0, 200.0))  # fmt: skip
        whole = Project("P", (Composition("Piece", 600, 400, 25, 10, id="piece", layers=(layer,)),), (source,))
        return with_slot(whole, whole.compositions[0], "logo", Slot("Logo", "source", fit=fit))

    def test_a_row_of_a_table_names_an_svg(self) -> None:
        # How wide it is drawn, and how wide it shows: outlines of 80 by 40 px that fill twice the room in both ways.
        for fit, drawn, shown in (("contain", 800, 200.0), ("cover", 800, 400.0), ("as set", 80, 160.0)):
            project = self.project(fit)
            slots = open_slots(project, project.compositions[0])
            made = filled_by(project, "piece", slots, Variant((("Logo", "logo.svg"),)), self.folder)
            layer = made.compositions[0].layer("logo")
            source = made.source(layer.track("source").value)
            assert source is not None
            self.assertEqual(drawn, source.width, fit)
            self.assertAlmostEqual(shown, layer.track("scale").value[0] / 100 * source.width, delta=0.1, msg=fit)

    def test_what_shows_nothing_is_refused(self) -> None:
        project = self.project("contain")
        slot = open_slots(project, project.compositions[0])[0]
        font = next(FONT_FOLDER.glob("*.ttf"))
        with self.assertRaisesRegex(SpiralisError, "is a font, and a"):
            source_in(project, font, slot)

    def test_a_face_and_an_effect_take_files_and_the_layer_stays_what_it_is(self) -> None:
        source = square_source(100)
        box = Layer("Box", "box", 0, 10, id="box").with_values(
            depth=True, picture=source.id, position=(300.0, 200.0), scale=(150.0, 150.0))  # fmt: skip
        box = with_effect(box, "colour-lookup")
        lookup = f"{box.blocks[0].id}.lookup"
        whole = Project("P", (Composition("Piece", 600, 400, 25, 10, id="piece", layers=(box,)),), (source,))
        for name, called in (("picture", "Face"), (lookup, "Look")):
            whole = with_slot(whole, whole.compositions[0], "box", Slot(called, name))
        (self.folder / "noon.cube").write_bytes(cube(seed=4))
        slots = open_slots(whole, whole.compositions[0])
        row = Variant((("Face", "logo.svg"), ("Look", "noon.cube")))
        made = filled_by(whole, "piece", slots, row, self.folder)
        layer = made.compositions[0].layer("box")
        face, look = (made.source(layer.track(name).value) for name in ("picture", lookup))
        assert face is not None and look is not None
        self.assertEqual(("box", (150.0, 150.0)), (layer.kind, layer.track("scale").value))
        self.assertEqual(("logo.svg", "noon.cube"), (face.name, look.name))
        self.assertGreaterEqual(face.width, 900, "sharp on a face of 450 px")
        self.assertFalse((render_frame(whole, "piece", 0) == render_frame(made, "piece", 0)).all())
        # What is in the project already is found by its name, if the slot takes it.
        for name, cell in (("Face", "noon.cube"), ("Look", "logo.svg")):
            with self.assertRaises(SpiralisError):
                filled_by(made, "piece", slots, Variant(((name, cell),)), None)
            with self.assertRaisesRegex(SpiralisError, "is wanted"):
                filled_by(made, "piece", slots, Variant(((name, cell),)), self.folder)


if __name__ == "__main__":
    unittest.main()
