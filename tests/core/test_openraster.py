"""OpenRaster in and out, against an independent library."""

from __future__ import annotations

import io
import tempfile
import unittest
import zipfile
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pyora
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image

from spiralis.core.editing.artwork import as_composition
from spiralis.core.editing.refreshing import apply_refresh, refresh_report
from spiralis.core.errors import FileError, SpiralisError
from spiralis.core.media.layered_files import read_layers
from spiralis.core.media.openraster import read_openraster
from spiralis.core.media.stills import write_still
from spiralis.core.model import Layer, Project
from spiralis.core.render import render_frame
from spiralis.demo.poster import poster_ora
from tests.core.drawings import DRAWINGS
from tests.core.samples import backdrop, png_bytes, project, square_source


def flat(width: int, height: int, colour: tuple[int, int, int, int]) -> Image.Image:
    return Image.new("RGBA", (width, height), colour)


def written(layers: str, files: dict[str, bytes] | None = None, size: str = 'w="40" h="30"') -> bytes:
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w") as archive:
        archive.writestr("mimetype", "image/openraster")
        archive.writestr("stack.xml", f"<image {size}><stack>{layers}</stack></image>")
        for name, data in (files or {"data/a.png": png_bytes(np.full((6, 8, 4), 200, np.uint8))}).items():
            archive.writestr(name, data)
    return buffer.getvalue()


class ForeignFileTest(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))

    def test_what_an_independent_writer_wrote(self) -> None:
        file = pyora.Project.new(120, 90)
        file.add_layer(flat(120, 90, (20, 40, 60, 255)), "/Ground", opacity=1.0)
        group = file.add_group("/空の凧", opacity=0.5)
        file.add_layer(flat(30, 20, (255, 0, 0, 255)), "/空の凧/Rot", offsets=(10, 12))
        file.add_layer(flat(16, 16, (0, 255, 0, 255)), "/空の凧/Grün", offsets=(30, 40), visible=False)
        self.assertEqual(group.name, "空の凧")
        path = self.folder / "other.ora"
        file.save(str(path))
        layered = read_layers(path)
        self.assertEqual((layered.width, layered.height), (120, 90))
        inner = next(part for part in layered.parts if part.kind == "group")
        self.assertEqual((inner.name, round(inner.opacity, 3)), ("空の凧", 0.5))
        rot = next(part for part in inner.parts if part.name == "Rot")
        self.assertEqual((rot.matrix.e, rot.matrix.f, rot.width, rot.height), (10, 12, 30, 20))
        self.assertFalse(next(part for part in inner.parts if part.name == "Grün").visible)
        sample, piece = as_composition(Project(), layered, str(path))
        frame = render_frame(sample, piece.id, 0) * 255
        np.testing.assert_allclose(frame[20, 20, :3], [137.5, 20, 30], atol=1.0)
        np.testing.assert_allclose(frame[80, 100, :3], [20, 40, 60], atol=0.6)

    def test_ours_opens_in_an_independent_reader_and_reads_back_the_same(self) -> None:
        source = square_source(20)
        layers = (
            Layer("Ziel", "picture", 0, 20).with_values(source=source.id, position=(30.0, 20.0), opacity=60.0),
            Layer("Mix", "picture", 0, 20).with_values(source=source.id, position=(36.0, 24.0), blend="screen"),
            backdrop(64, 48, (0.1, 0.5, 0.9, 1.0)),
        )
        sample = project(*layers, sources=(source,))
        path = self.folder / "ours.ora"
        write_still(sample, "Piece", 0, path)
        seen = pyora.Project.load(str(path))
        self.assertEqual(seen.dimensions, (64, 48))
        found = {layer.name: layer for layer in seen.children}
        self.assertEqual(set(found), {"Ziel", "Mix", "Ground"})
        self.assertAlmostEqual(found["Ziel"].opacity, 0.6, places=4)
        self.assertEqual(found["Mix"].composite_op, "svg:screen")
        again, piece = as_composition(Project(), read_layers(path), str(path))
        np.testing.assert_allclose(
            render_frame(again, piece.id, 0) * 255, render_frame(sample, "Piece", 0) * 255, atol=1.6
        )

    def test_the_demo_poster_opens_with_its_groups(self) -> None:
        layered = read_openraster(poster_ora(), "poster.ora")
        self.assertEqual((layered.width, layered.height, layered.notes), (1080, 1350, ()))
        groups = {part.name: len(part.parts) for part in layered.parts if part.kind == "group"}
        self.assertEqual(groups, {"Words": 4, "Bars": 4})
        self.assertEqual({p.name: p.blend for p in layered.parts}["Grid"], "plus-lighter")


class StillTest(unittest.TestCase):
    def test_vectors_written_as_svg_read_back_the_same(self) -> None:
        folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        for index, name in enumerate(
            ("basic shapes", "transforms", "clip paths", "masks", "dashes", "radial gradients")
        ):
            with self.subTest(name):
                source = folder / f"{index}.svg"
                source.write_bytes(DRAWINGS[name])
                first, piece = as_composition(Project(), read_layers(source), str(source))
                target = folder / f"{index}-out.svg"
                write_still(first, piece.id, 0, target)
                second, other = as_composition(Project(), read_layers(target), str(target))
                gap = np.abs(render_frame(first, piece.id, 0) - render_frame(second, other.id, 0)) * 255
                self.assertLess(gap.mean(), 0.1)

    def test_a_frame_as_png_and_a_wrong_ending(self) -> None:
        folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        sample = project(backdrop(64, 48, (1.0, 0.0, 0.0, 1.0)))
        write_still(sample, "Piece", 3, folder / "a.png")
        with Image.open(folder / "a.png") as image:
            self.assertEqual((image.size, image.getpixel((5, 5))), ((64, 48), (255, 0, 0)))
        with self.assertRaises(SpiralisError):
            write_still(sample, "Piece", 3, folder / "a.xyz")
        self.assertEqual([p.name for p in folder.iterdir()], ["a.png"])


# OpenRaster's names of the operators that pyora draws in a way of its own, by what the standard leaves of both.
OPERATORS: dict[str, Callable[[np.ndarray, np.ndarray], tuple[object, object]]] = {
    "svg:plus": lambda top, low: (1, 1),
    "svg:dst-in": lambda top, low: (0, top),
    "svg:dst-out": lambda top, low: (0, 1 - top),
    "svg:src-atop": lambda top, low: (low, 1 - top),
    "svg:dst-atop": lambda top, low: (1 - low, top),
}
# By how many of 255 its own rounding, and its other curve of soft light, may differ.
MIXES = {"svg:soft-light": 12.0} | dict.fromkeys(
    ("svg:src-over", "svg:multiply", "svg:screen", "svg:overlay", "svg:darken", "svg:lighten", "svg:color-dodge",
     "svg:color-burn", "svg:hard-light", "svg:difference", "svg:color", "svg:luminosity", "svg:hue", "svg:saturation"),
    4.0,
)  # fmt: skip


def cloudy(width: int, height: int, seed: int) -> Image.Image:
    noise = np.random.default_rng(seed).integers(0, 255, (height // 8 + 1, width // 8 + 1, 4), dtype=np.uint8)
    return Image.fromarray(noise).resize((width, height), Image.Resampling.BILINEAR)


def premultiplied(image: Image.Image, corner: tuple[int, int], opacity: float) -> np.ndarray:
    """Return a picture within a frame of 96 x 72, premultiplied, 0 to 1."""
    frame = Image.new("RGBA", (96, 72))
    frame.paste(image, corner)
    pixels = np.asarray(frame) / 255 * [1, 1, 1, opacity]
    return pixels * np.concatenate([pixels[..., 3:]] * 3 + [np.ones((72, 96, 1))], axis=-1)


class MixingTest(unittest.TestCase):
    LOW, TOP = (cloudy(80, 60, 1), (4, 5)), (cloudy(50, 40, 2), (20, 16))

    def opened(self, mode: str) -> tuple[np.ndarray, np.ndarray]:
        """Return what another program merged of two soft pictures, and what is drawn here."""
        path = Path(self.enterContext(tempfile.TemporaryDirectory())) / "mixed.ora"
        file = pyora.Project.new(96, 72)
        file.add_layer(self.LOW[0], "/Low", offsets=self.LOW[1])
        file.add_layer(self.TOP[0], "/Top", offsets=self.TOP[1], opacity=0.7, composite_op=mode)
        file.save(str(path))
        with zipfile.ZipFile(path) as archive, Image.open(archive.open("mergedimage.png")) as merged:
            theirs = premultiplied(merged.convert("RGBA"), (0, 0), 1.0)
        layered = read_layers(path)
        self.assertEqual(layered.notes, ())
        sample, piece = as_composition(Project(), layered, str(path))
        return theirs, np.minimum(render_frame(sample, piece.id, 0), 1)

    def test_mixes_as_another_program_does(self) -> None:
        for mode, most in MIXES.items():
            with self.subTest(mode):
                theirs, ours = self.opened(mode)
                self.assertLess(np.abs(ours - theirs).max() * 255, most)
                self.assertLess(np.abs(ours - theirs).mean() * 255, 0.25)

    def test_mixes_as_the_standard_says(self) -> None:
        low, top = premultiplied(*self.LOW, 1.0), premultiplied(*self.TOP, 0.7)
        for mode, shares in OPERATORS.items():
            with self.subTest(mode):
                of_top, of_low = shares(top[..., 3:], low[..., 3:])
                np.testing.assert_allclose(
                    self.opened(mode)[1] * 255, np.minimum(top * of_top + low * of_low, 1) * 255, atol=1.0
                )

    def test_what_reaches_beyond_its_edge_in_a_group_that_mixes_and_in_one_that_does_not(self) -> None:
        square = png_bytes(np.full((6, 8, 4), 255, np.uint8))
        inside = '<layer src="data/a.png" x="4" y="4" composite-op="svg:dst-in"/>'
        files = {"data/a.png": square, "data/b.png": png_bytes(np.full((30, 40, 4), 255, np.uint8))}
        for isolation, left in (("auto", 48), ("isolate", 1200)):
            layers = f'<stack isolation="{isolation}">{inside}</stack><layer src="data/b.png"/>'
            sample, piece = as_composition(Project(), read_openraster(written(layers, files), "a.ora"), "a.ora")
            for _ in range(2):  # The second time from what was kept.
                self.assertAlmostEqual(float(render_frame(sample, piece.id, 0)[..., 3].sum()), left, delta=0.5)


class HostileTest(unittest.TestCase):
    def refused(self, data: bytes) -> str:
        with self.assertRaises(FileError) as caught:
            read_openraster(data, "bad.ora")
        self.assertIn("bad.ora", str(caught.exception))
        return str(caught.exception)

    def test_each_attack_is_one_sentence(self) -> None:
        self.assertIn("leads out", self.refused(written("", {"../../etc/x": b"1"})))
        self.assertIn("px", self.refused(written("", size='w="30000" h="30000"')))
        self.assertIn("nests", self.refused(written("<stack>" * 100 + "</stack>" * 100)))
        self.refused(b"not a zip")
        self.refused(written("")[:60])
        self.refused(written("<layer"))
        bomb = io.BytesIO()
        with zipfile.ZipFile(bomb, "w", zipfile.ZIP_DEFLATED) as archive:
            archive.writestr("stack.xml", b"<image w='9' h='9'><stack/></image>" + b" " * (40 << 20))
        self.assertIn("more layers than", self.refused(bomb.getvalue()))

    def test_what_is_wrong_with_one_layer_leaves_the_others(self) -> None:
        layers = (
            '<layer name="Good" src="data/a.png" opacity="nan" x="3"/><layer name="Gone" src="data/b.png"/>'
            '<layer name="Odd" src="data/a.png" composite-op="svg:dst-over"/><layer name="No" src="stack.xml"/>'
        )
        layered = read_openraster(written(layers), "a.ora")
        self.assertEqual([part.name for part in layered.parts], ["Good", "Odd"])
        self.assertEqual(len(layered.notes), 3)

    def test_groups_that_mix_with_what_lies_beneath_stay_groups(self) -> None:
        inside = '<layer name="Top" src="data/a.png" composite-op="svg:multiply"/>'
        kinds = {}
        for isolation in ("auto", "isolate"):
            layers = f'<stack name="G" isolation="{isolation}">{inside}</stack><layer name="Low" src="data/a.png"/>'
            piece = as_composition(Project(), read_openraster(written(layers), "a.ora"), "a.ora")[1]
            kinds[isolation] = [(y.name, y.kind, y.parent == piece.layers[0].id) for y in piece.layers]
        self.assertEqual(
            kinds["auto"], [("G", "group", False), ("Top", "picture", True), ("Low", "picture", False)]
        )
        self.assertEqual(kinds["isolate"], [("G", "nested", False), ("Low", "picture", False)])

    def test_empty_groups_long_names_and_no_names_stay(self) -> None:
        long = "Drachen " * 60
        layers = (
            f'<stack name="Empty"><stack name="In it"/></stack><layer name="{long}" src="data/a.png"/>'
            '<layer name="" src="data/a.png"/><layer name="" src="data/a.png"/>'
        )
        layered = read_openraster(written(layers), "a.ora")
        sample, piece = as_composition(Project(), layered, "a.ora")
        self.assertEqual([y.name for y in piece.layers], ["Empty", "In it", long, "", ""])
        self.assertEqual(piece.layers[1].parent, piece.layers[0].id)
        report = refresh_report(sample.with_composition(piece), layered, "a.ora")
        self.assertEqual({match.state for match in report.matches}, {"same"})
        again = apply_refresh(sample, report)
        self.assertEqual(again.composition(piece.id).layers, piece.layers)
        flat = as_composition(Project(), layered, "a.ora", nested=False)[1]
        self.assertEqual([y.name for y in flat.layers], [long, "", ""])

    @settings(max_examples=150, deadline=None)
    @given(st.integers(0, 100_000), st.binary(min_size=1, max_size=12))
    def test_any_damage_is_layers_or_a_sentence(self, place: int, noise: bytes) -> None:
        data = bytearray(written('<stack name="G"><layer name="A" src="data/a.png" x="2" y="3"/></stack>'))
        place %= len(data)
        data[place : place + len(noise)] = noise
        try:
            layered = read_openraster(bytes(data), "bad.ora")
        except FileError as error:
            self.assertNotIn("\n", str(error))
        else:
            as_composition(Project(), layered, "bad.ora")
