"""The part of a project file that one composition needs: drawn as from all of it, and no more is read."""

import tempfile
import unittest
import zipfile
from pathlib import Path
from unittest import mock

import numpy as np
from attrs import evolve

from spiralis.core.checks.piece import check_piece
from spiralis.core.checks.seam import check
from spiralis.core.errors import ProjectFileError, UnknownName
from spiralis.core.media.exporters import ExportJob, exporter
from spiralis.core.media.sources import read_source
from spiralis.core.model import Composition, Layer, Project
from spiralis.core.render.frame import render_rgba8
from spiralis.core.storage import load, save
from spiralis.core.storage.excerpt import excerpt
from spiralis.core.storage.parts import parts_for
from spiralis.demo.stored import stored_demo
from tests.core.samples import backdrop, piece, png_bytes, square_source
from tests.core.zoo import zoo

FONTS = Path(__file__).parents[2] / "spiralis" / "assets" / "fonts"


def named(name: str, *layers: Layer, id: str) -> Composition:
    return evolve(piece(*layers, id=id), name=name)


def picture(source_id: str) -> Layer:
    return Layer("Picture", "picture", 0, 20).with_values(source=source_id, position=(32.0, 24.0))


class ExcerptTest(unittest.TestCase):
    def setUp(self) -> None:
        self.path = Path(self.enterContext(tempfile.TemporaryDirectory())) / "a.spiralis"

    def same(self, project: Project, pieces: tuple[Composition, ...]) -> None:
        save(project, self.path, b"")
        for one in pieces:
            with self.subTest(one.name):
                part = load(self.path, one.id)
                frame = one.length // 3
                drawn = render_rgba8(part, one.id, frame, 0.2)
                np.testing.assert_array_equal(drawn, render_rgba8(project, one.id, frame, 0.2))
                self.assertEqual(part.composition(one.id), one)

    def test_every_piece_of_the_demo_is_drawn_as_from_the_whole_file(self) -> None:
        demo = stored_demo()
        self.same(demo, demo.compositions)

    def test_checks_find_in_it_what_they_find_in_the_whole_file(self) -> None:
        demo = stored_demo()
        save(demo, self.path, b"")
        for name in ("kite-day", "squeeze-pair", "catalogue-scroll", "ribbon-title"):
            part, whole = load(self.path, name), demo.composition(name)
            self.assertEqual(check(part, part.composition(name)), check(demo, whole))
            found = (check_piece(project, piece, drawn=False) for project, piece in (
                (part, part.composition(name)), (demo, whole)
            ))  # fmt: skip
            self.assertEqual(next(found), next(found))

    def test_layers_of_all_kinds_find_all_that_they_use(self) -> None:
        for seed in range(3):
            project = zoo(seed)
            self.same(project, project.compositions)

    def test_only_what_a_piece_leads_to_is_made(self) -> None:
        used, nested_in, other = (square_source(side) for side in (20, 24, 28))
        inner = named("Inner", picture(nested_in.id), id="inner")
        nest = Layer("Nest", "nested", 0, 20).with_values(composition="inner")
        whole = named("Whole", picture(used.id), nest, id="whole")
        project = Project("A", (piece(picture(other.id), id="other"), whole, inner), (used, nested_in, other))
        save(project, self.path, b"")
        for name in ("whole", "Whole"):
            part = load(self.path, name)
            self.assertEqual([c.id for c in part.compositions], ["whole", "inner"])
            self.assertEqual({s.id for s in part.sources}, {used.id, nested_in.id})
            self.assertFalse(any(s.missing for s in part.sources))
        self.assertEqual([c.id for c in load(self.path, "inner").compositions], ["inner"])

    def test_an_id_is_looked_for_before_a_name_and_the_first_of_two_names_counts(self) -> None:
        one = named("a", backdrop(64, 48, (1, 0, 0, 1)), id="b")
        project = Project("A", (one, named("b", id="a"), named("a", id="c")))
        save(project, self.path, b"")
        for name in ("a", "b", "c"):
            self.assertEqual(load(self.path, name).composition(name).id, project.composition(name).id)
        project = evolve(project, compositions=(one, named("a", id="c")))
        save(project, self.path, b"")
        self.assertEqual(load(self.path, "a").composition("a").id, "b")

    def test_files_that_set_words_come_along(self) -> None:
        font = read_source(next(FONTS.rglob("*.ttf")))
        save(Project("A", (piece(id="a"),), (font, square_source())), self.path, b"")
        self.assertEqual([s.id for s in load(self.path, "a").sources], [font.id])

    def test_an_unknown_name_is_told_with_the_names_of_all(self) -> None:
        save(Project("A", (named("One", id="a"), named("Two", id="b"))), self.path, b"")
        with self.assertRaisesRegex(UnknownName, "“One”, “Two”"):
            load(self.path, "three").composition("three")

    def test_json_that_is_not_as_it_should_be_is_left_to_the_whole_check(self) -> None:
        good = {"id": "a", "name": "A"}
        for odd in ({"compositions": None}, {"compositions": [good, 3]}, {"compositions": [good], "sources": {}},
                    {"compositions": [good, {"id": 3}]}, {"compositions": [good], "sources": [{}]}, {}):  # fmt: skip
            self.assertIs(excerpt(odd, "a"), odd)
        save(Project("A", (piece(id="a"),)), self.path, b"")
        with zipfile.ZipFile(self.path) as archive:
            text = archive.read("project.json").decode()
        with zipfile.ZipFile(self.path, "w") as archive:
            archive.writestr("project.json", text.replace('"width":64', '"width":-4'))
        with self.assertRaisesRegex(ProjectFileError, "damaged"):
            load(self.path, "a")

    def test_a_linked_file_that_another_piece_shows_is_not_even_looked_for(self) -> None:
        file = self.path.with_name("far.png")
        file.write_bytes(png_bytes(np.full((9, 9, 4), 200, np.uint8)))
        far = evolve(read_source(file), linked=True, file=str(file))
        project = Project("A", (piece(id="a"), piece(picture(far.id), id="b")), (far,))
        save(project, self.path, b"")
        with mock.patch("spiralis.core.storage.project_file._linked_to", side_effect=AssertionError):
            load(self.path, "a")
            with self.assertRaises(AssertionError):
                load(self.path, "b")

    def test_parts_of_an_export_are_found_again_whatever_becomes_of_other_pieces(self) -> None:
        ground = backdrop(64, 48, (1, 0, 0, 1))
        project = Project("A", (piece(ground, id="a"), piece(id="b")))
        mp4 = exporter("mp4")

        def folder(made: Project) -> Path:
            return parts_for(mp4, ExportJob(made, "a", Path("a.mp4"), 0, 9))

        save(project, self.path, b"")
        self.assertEqual(folder(project), folder(load(self.path, "a")))
        self.assertEqual(folder(project), folder(project.with_composition(piece(ground, id="b"))))
        self.assertNotEqual(folder(project), folder(project.with_composition(piece(id="a"))))


if __name__ == "__main__":
    unittest.main()
