"""Slots are filled, tables are read, rows become files; what is wrong is said before anything is drawn."""

from __future__ import annotations

import gc
import tempfile
import tracemalloc
import unittest
from fractions import Fraction
from pathlib import Path

import numpy as np
from attrs import evolve
from click.testing import CliRunner
from PIL import Image

from spiralis.cli import cli
from spiralis.core.editing.duplicating import duplicated
from spiralis.core.editing.filling_notes import filling_notes
from spiralis.core.editing.linking import with_driver
from spiralis.core.editing.reformat import reformatted
from spiralis.core.editing.reframing import add_format
from spiralis.core.editing.slots import filled, open_slots, with_slot
from spiralis.core.editing.sources import renamed, replaced, unused_removed
from spiralis.core.editing.table_pictures import tables_naming
from spiralis.core.errors import FileError, ModelError, SpiralisError, UnknownName
from spiralis.core.media.exporters import exporter
from spiralis.core.media.pictures import picture_source
from spiralis.core.model import Composition, EdgePin, Key, Layer, Project, Source, Track
from spiralis.core.model.art import Bundle, Contour, Figure
from spiralis.core.model.drivers import Follow
from spiralis.core.model.slots import MOST_VARIANTS, Slot, Variant
from spiralis.core.render.frame import render_frame
from spiralis.core.render.layers import Evaluated
from spiralis.core.storage import load, save
from spiralis.core.variants.cells import as_cell, filled_by
from spiralis.core.variants.naming import file_name, unlike
from spiralis.core.variants.orders import Batch
from spiralis.core.variants.problems import contrast_problem, row_problems
from spiralis.core.variants.table import as_copied, read_table, with_cells, write_table
from tests.core.samples import backdrop, png_bytes, square_source

WHITE = (1.0, 1.0, 1.0, 1.0)


def picture(width: int, height: int, name: str = "wide.png", colour: tuple[int, ...] = (0, 0, 255, 255)) -> Source:
    return picture_source(png_bytes(np.full((height, width, 4), colour, dtype=np.uint8)), name)


def sample(**slots: Slot) -> Project:
    """A 400 x 300 piece: words, a picture of 100 x 100 px at 50 %, a ground."""
    source = square_source(100)
    words = Layer("Words", "text", 0, 10, id="words").with_values(text="WIND", size=60.0, position=(200.0, 80.0))
    photo = Layer("Photo", "picture", 0, 10, id="photo").with_values(
        source=source.id, position=(200.0, 200.0), scale=(50.0, 50.0)
    )
    ground = evolve(backdrop(400, 300, (0.0, 0.0, 0.0, 1.0)), last=10, id="ground")
    piece = Composition("Piece", 400, 300, Fraction(25), 10, id="piece", layers=(words, photo, ground))
    project = Project("Sample", (piece,), (source,))
    made = {
        "words": Slot("Headline", "text", fit="shrink", longest=12), "photo": Slot("Product", "source", fit="contain"),
        "ground": Slot("Ground", "colour"), **slots,
    }  # fmt: skip
    for layer, slot in made.items():
        project = with_slot(project, project.compositions[0], layer, slot)
    return project


def box(project: Project, layer: str) -> tuple[float, ...]:
    piece = project.compositions[0]
    at = Evaluated(project, piece, 0)
    return tuple(round(v, 2) for v in at.matrix(piece.layer(layer)).box(at.box(piece.layer(layer))))


class SlotTest(unittest.TestCase):
    """What is filled takes the room of what was there."""

    def test_slots_are_listed_from_the_front_with_those_of_nests(self) -> None:
        project = sample()
        inner = project.compositions[0]
        nest = Layer("Nest", "nested", 0, 10).with_values(composition="piece")
        outer = Composition("Outer", 400, 300, Fraction(25), 10, id="outer", layers=(nest,))
        project = evolve(project, compositions=(inner, outer))
        self.assertEqual([slot.name for slot in open_slots(project, outer)], ["Headline", "Product", "Ground"])
        self.assertEqual([as_cell(project, s) for s in open_slots(project, outer)], ["WIND", "square.png", "#000000"])
        changed = filled(project, "outer", {"Headline": "UP"})
        self.assertEqual(changed.composition("piece").layer("words").track("text").value, "UP")

    def test_another_name_takes_the_cells_of_tables_along(self) -> None:
        rows = (Variant((("Headline", "UP"), ("Ground", "#ff0000"))), Variant((("Ground", "#00ff00"),)))
        project = sample()
        inner = evolve(project.compositions[0], variants=rows)
        nest = Layer("Nest", "nested", 0, 10).with_values(composition="piece")
        outer = Composition("Outer", 400, 300, Fraction(25), 10, id="outer", layers=(nest,), variants=rows)
        other = evolve(outer, id="other", layers=())
        project = evolve(project, compositions=(inner, outer, other))

        def named(project: Project, name: str, layer: str = "words") -> Project:
            piece = project.composition("piece")
            held = piece.layer(layer).slots[0]
            return with_slot(project, piece, layer, evolve(held, name=name))

        made = named(project, "Title")
        for piece in ("piece", "outer"):
            cells = [row.cells for row in made.composition(piece).variants]
            self.assertEqual([(("Title", "UP"), ("Ground", "#ff0000")), (("Ground", "#00ff00"),)], cells)
            slots, row = open_slots(made, made.composition(piece)), made.composition(piece).variants[0]
            done = filled_by(made, piece, slots, row, None)
            self.assertEqual("UP", done.composition("piece").layer("words").track("text").value)
        self.assertEqual(rows, made.composition("other").variants, "no slot of that name reaches it")
        self.assertEqual(project, named(made, "Headline"))
        # A name that others have still keeps its cells; one that is taken keeps those that are there.
        piece, (copy,) = duplicated(project.composition("piece"), ["words"])
        both = named(project.with_composition(piece), "Title", copy)
        for name in ("Headline", "Title"):
            self.assertEqual("UP", both.composition("outer").variants[0].cell(name))
        taken = named(project, "Ground")
        self.assertEqual(["#ff0000", "#00ff00"], [row.cell("Ground") for row in taken.composition("piece").variants])
        self.assertEqual("UP", taken.composition("piece").variants[0].cell("Headline"))

    def test_slots_of_one_name_are_filled_together(self) -> None:
        project = sample()
        piece, (copy,) = duplicated(project.compositions[0], ["words"])
        project = filled(project.with_composition(piece), "piece", {"Headline": "UP"})
        for layer in ("words", copy):
            self.assertEqual(project.compositions[0].layer(layer).track("text").value, "UP")

    def test_pictures_are_held_within_the_room_or_cover_it(self) -> None:
        for fit, wanted in (("contain", (175, 187.5, 225, 212.5)), ("width", (175, 187.5, 225, 212.5))):
            project = filled(sample(photo=Slot("Product", "source", fit=fit)), "piece", {"Product": picture(80, 40)})
            self.assertEqual(box(project, "photo"), wanted, fit)
        project = filled(sample(photo=Slot("Product", "source", fit="cover")), "piece", {"Product": picture(80, 40)})
        self.assertEqual(box(project, "photo"), (150, 175, 250, 225))
        layer = project.compositions[0].layer("photo")
        self.assertEqual((layer.track("crop_across").value, layer.track("crop_down").value), ((25, 25), (0, 0)))
        pixels = render_frame(project, "piece", 0)
        blue = np.argwhere(pixels[:, :, 2] > 0.9)
        blue = blue[blue[:, 0] > 150]
        self.assertEqual((blue.min(0).tolist(), blue.max(0).tolist()), ([175, 175], [224, 224]))

    def test_filling_again_does_not_drift(self) -> None:
        project = sample(photo=Slot("Product", "source", fit="cover"))
        for source in (picture(80, 40), picture(10, 300, "tall.png"), picture(40, 40, "small.png")):
            project = filled(project, "piece", {"Product": source})
        self.assertEqual(box(project, "photo"), (175, 175, 225, 225))
        self.assertEqual(project.compositions[0].layer("photo").track("crop_down").value, (0, 0))

    def larger_by_hand(self, project: Project, layer: str, **values: object) -> Project:
        piece = project.compositions[0]
        return project.with_composition(piece.with_layer(piece.layer(layer).with_values(**values)))

    def size(self, project: Project, layer: str) -> tuple[float, float]:
        left, top, right, bottom = box(project, layer)
        return round(right - left, 1), round(bottom - top, 1)

    def test_what_a_hand_made_larger_since_is_filled_as_large(self) -> None:
        project = self.larger_by_hand(sample(), "photo", scale=(100.0, 100.0))
        for width, height, seen in ((200, 50, (100.0, 25.0)), (80, 80, (100.0, 100.0)), (20, 40, (50.0, 100.0))):
            project = filled(project, "piece", {"Product": picture(width, height, f"{width}.png")})
            self.assertEqual(seen, self.size(project, "photo"))
        scale = project.compositions[0].layer("photo").track("scale").value
        halved = self.larger_by_hand(project, "photo", scale=(scale[0] / 2, scale[1] / 2))
        again = filled(halved, "piece", {"Product": picture(80, 80, "80.png")})
        self.assertEqual((50.0, 50.0), self.size(again, "photo"))

    def test_another_picture_without_the_slot_leaves_its_room(self) -> None:
        project = sample()
        project = replaced(project, project.sources[0].id, picture(400, 400, "new.png"))
        self.assertEqual((50.0, 50.0), self.size(project, "photo"))
        again = filled(project, "piece", {"Product": picture(80, 80, "80.png")})
        self.assertEqual((50.0, 50.0), self.size(again, "photo"))

    def test_what_comes_up_from_nothing_is_filled_as_large_as_it_comes_to_be(self) -> None:
        for slot_first in (True, False):
            with self.subTest(slot_first=slot_first):
                project = sample() if slot_first else self.larger_by_hand(sample(), "photo")
                piece = project.compositions[0]
                keys = (Key(0, (0.0, 0.0)), Key(4, (55.0, 55.0)), Key(6, (50.0, 50.0)))
                popped = piece.layer("photo").with_track("scale", Track((50.0, 50.0), keys))
                project = project.with_composition(piece.with_layer(popped))
                if not slot_first:
                    bare = evolve(popped, slots=())
                    project = project.with_composition(piece.with_layer(bare))
                    slot = Slot("Product", "source", fit="contain")
                    project = with_slot(project, project.compositions[0], "photo", slot)
                for width, last in ((200, 25.0), (50, 100.0)):
                    project = filled(project, "piece", {"Product": picture(width, width, f"{width}.png")})
                    done = project.compositions[0].layer("photo").track("scale").keys
                    self.assertEqual(((0.0, 0.0), (last, last)), (done[0].value, done[-1].value))

    def test_words_set_larger_by_hand_have_as_much_more_room(self) -> None:
        long = filled(sample(), "piece", {"Headline": "WINDWINDWIND"})
        size = long.compositions[0].layer("words").track("size").value
        self.assertLess(size, 60.0)
        larger = self.larger_by_hand(long, "words", size=2 * size)
        short = filled(larger, "piece", {"Headline": "WIND"})
        self.assertAlmostEqual(120.0, short.compositions[0].layer("words").track("size").value, places=2)
        back = filled(short, "piece", {"Headline": "WINDWINDWIND"})
        self.assertAlmostEqual(2 * size, back.compositions[0].layer("words").track("size").value, delta=0.1)

    def test_another_format_is_filled_in_its_own_size(self) -> None:
        project = sample()
        piece = project.compositions[0]
        larger = project.with_composition(reformatted(piece, 800, 600, piece.rate, piece.length, "fit"))
        filled_larger = filled(larger, "piece", {"Product": picture(200, 50), "Headline": "WINDWINDWIND"})
        plain = filled(project, "piece", {"Product": picture(200, 50), "Headline": "WINDWINDWIND"})
        for name in ("photo", "words"):
            once, twice = self.size(plain, name), self.size(filled_larger, name)
            np.testing.assert_allclose(2 * np.array(once), twice, atol=0.2)

    def test_keys_of_scale_go_along(self) -> None:
        project = sample()
        piece = project.compositions[0]
        grows = Track((50.0, 50.0), (Key(0, (50.0, 50.0)), Key(9, (100.0, 100.0))))
        project = project.with_composition(piece.with_layer(piece.layer("photo").with_track("scale", grows)))
        project = filled(project, "piece", {"Product": picture(200, 200)})
        keys = project.compositions[0].layer("photo").track("scale").keys
        self.assertEqual([key.value for key in keys], [(25, 25), (50, 50)])

    def test_words_shrink_or_wrap(self) -> None:
        left, _, right, _ = box(sample(), "words")
        project = filled(sample(), "piece", {"Headline": "A LONG HEADLINE"})
        wide = box(project, "words")
        self.assertAlmostEqual(wide[2] - wide[0], right - left, delta=1)
        self.assertEqual(box(filled(project, "piece", {"Headline": "WIND"}), "words"), box(sample(), "words"))
        wraps = filled(sample(words=Slot("Headline", "text", fit="wrap")), "piece", {"Headline": "A LONG HEADLINE"})
        self.assertEqual(wraps.compositions[0].layer("words").track("flow").value, "box")
        self.assertAlmostEqual(box(wraps, "words")[2] - box(wraps, "words")[0], right - left, delta=0.1)

    def test_what_cannot_be_a_slot(self) -> None:
        project = sample()
        piece = project.compositions[0]
        with self.assertRaisesRegex(ModelError, "cannot be a slot"):
            with_slot(project, piece, "words", Slot("Where", "position"))
        keyed = piece.with_layer(piece.layer("words").with_track("text", Track("A", (Key(0, "A"), Key(5, "B")))))
        with self.assertRaisesRegex(ModelError, "changes over time"):
            with_slot(project.with_composition(keyed), keyed, "words", Slot("Headline", "text"))
        with self.assertRaisesRegex(UnknownName, "“Headline”"):
            filled(project, "piece", {"Other": "x"})
        for broken in ({"name": " "}, {"fit": "somehow"}, {"ratio": float("nan")}):
            with self.assertRaises(ModelError):
                Slot(**{"name": "A", "property": "text", **broken})  # type: ignore[arg-type]

    def test_a_format_is_filled_along(self) -> None:
        project, made = add_format(sample(), "piece", 300, 300)
        batch = Batch(project, project.composition("piece"), (Variant((("Headline", "UP"), ("Product", "wide.png"))),))
        batch = evolve(batch, project=evolve(project, sources=(*project.sources, picture(80, 40))))
        done = batch.project_for(batch.rows[0])
        layer = done.composition(made).layer("words")
        self.assertEqual(layer.track("text").value, "UP")
        self.assertEqual(done.composition(made).layer("photo").track("scale").value[0], 62.5 * 0.75)


class OutlinesTest(unittest.TestCase):
    """Logos that are outlines, or a composition of their own: a file takes their place."""

    def piece(self, **logo: object) -> Project:
        """A drawing of 80 x 40 px from (20, 10) on, at 200 %, a dot that hangs on its edge; a nested badge."""
        corners = ((20.0, 10.0), (100.0, 10.0), (100.0, 50.0), (20.0, 50.0))
        art = Bundle((Figure((Contour(tuple(c * 3 for c in corners), True),), (1.0, 0.0, 0.0, 1.0)),))
        logo_ = Layer("Logo", "shape", 0, 10, id="logo").with_values(
            form="drawing", art=art, position=(200.0, 100.0), scale=(200.0, 200.0), **logo)  # fmt: skip
        logo_ = logo_.with_track("opacity", Track(100.0, (Key(0, 0.0), Key(5, 100.0))))
        logo_ = logo_.with_track("drawn_to", Track(100.0, (Key(0, 0.0), Key(5, 100.0))))
        dot = Layer("Dot", "shape", 0, 10, id="dot", parent="logo").with_values(
            form="ellipse", size=(6.0, 6.0), position=(100.0, 30.0))  # fmt: skip
        nested = Layer("Badge", "nested", 0, 10, id="badge").with_values(composition="inner", position=(200.0, 240.0))
        inner = Composition("Inner", 120, 60, Fraction(25), 10, id="inner", layers=(evolve(dot, parent=None),))
        piece = Composition("Piece", 400, 300, Fraction(25), 10, id="piece", layers=(dot, logo_, nested))
        return Project("Sample", (piece, inner))

    def slotted(self, project: Project, fit: str = "contain") -> Project:
        for layer, slot in (("logo", Slot("Logo", "art", fit=fit)), ("badge", Slot("Badge", "composition", fit=fit))):
            project = with_slot(project, project.compositions[0], layer, slot)
        return project

    def test_a_file_takes_the_room_of_outlines_and_of_a_composition(self) -> None:
        project = self.slotted(self.piece())
        before = {layer: box(project, layer) for layer in ("logo", "badge", "dot")}
        self.assertEqual((120.0, 60.0, 280.0, 140.0), before["logo"])
        for fit, logo, badge in (("contain", (160.0, 60.0, 240.0, 140.0), (170.0, 210.0, 230.0, 270.0)),
                                 ("width", (120.0, 20.0, 280.0, 180.0), (140.0, 180.0, 260.0, 300.0))):  # fmt: skip
            square = {"Logo": picture(50, 50, "a.png"), "Badge": picture(30, 30, "b.png")}
            done = filled(self.slotted(self.piece(), fit), "piece", square)
            self.assertEqual([logo, badge, before["dot"]], [box(done, name) for name in ("logo", "badge", "dot")], fit)
        made = done.compositions[0].layer("logo")
        self.assertEqual(("picture", "logo", "Logo"), (made.kind, made.id, made.slots[0].name))
        self.assertEqual(2, len(made.track("opacity").keys), "how it comes up is kept")
        pixels = render_frame(done, "piece", 9)
        self.assertGreater(pixels[100, 200, 2], 0.9)

    def test_one_file_after_another_and_back_to_what_was_there(self) -> None:
        project = self.slotted(self.piece())
        self.assertEqual(["", ""], [as_cell(project, slot) for slot in open_slots(project, project.compositions[0])])
        for size in ((50, 50), (400, 10), (160, 80)):
            project = filled(project, "piece", {"Logo": picture(*size, f"{size}.png")})
            self.assertEqual({"Logo", "Badge"}, {slot.name for slot in open_slots(project, project.compositions[0])})
        self.assertEqual((120.0, 60.0, 280.0, 140.0), box(project, "logo"))
        self.assertEqual("(160, 80).png", as_cell(project, open_slots(project, project.compositions[0])[0]))

    def test_it_is_said_what_went_with_the_outlines(self) -> None:
        project = self.slotted(self.piece())
        done = filled(project, "piece", {"Logo": picture(50, 50)})
        (told,) = filling_notes(project, done, project.compositions[0])
        self.assertIn("“Logo” shows the file in place of what it was, without what moved in it (Drawn to)", told)
        again = filled(done, "piece", {"Logo": picture(60, 50, "again.png")})
        self.assertEqual([], filling_notes(done, again, done.compositions[0]))

    def test_it_is_said_who_followed_the_outlines(self) -> None:
        project = self.piece()
        piece = project.compositions[0]
        words = Layer("Words", "text", 0, 10, id="words").with_values(text="Around it", path_layer="logo")
        dot = with_driver(piece.layer("dot"), "rotation", Follow("logo", "drawn_to"))
        stays = with_driver(piece.layer("badge"), "rotation", Follow("logo", "opacity"))
        along = Layer("Along", "shape", 0, 10, id="along", edge_pins=(EdgePin("middle", "drawn end", "logo"),))
        beside = Layer("Beside", "shape", 0, 10, id="beside", edge_pins=(EdgePin("middle", "right", "logo"),))
        piece = evolve(piece, layers=(words, along, beside, *piece.with_layer(dot).with_layer(stays).layers))
        project = self.slotted(project.with_composition(piece))
        done = filled(project, "piece", {"Logo": picture(50, 50)})
        (told,) = filling_notes(project, done, project.compositions[0])
        self.assertIn("(Drawn to); no longer followed by “Words”, “Along”, “Dot”. Undo brings that back.", told)
        render_frame(done, "piece", 5)

    def test_a_row_of_a_table_fills_it_in_every_format(self) -> None:
        project, made = add_format(self.slotted(self.piece()), "piece", 300, 300)
        project, _ = project.with_source(picture(40, 80, "tall.png"))
        batch = Batch(project, project.composition("piece"), (Variant((("Logo", "tall.png"),)), Variant(())))
        first, second = (batch.project_for(row) for row in batch.rows)
        for piece in ("piece", made):
            self.assertEqual("picture", first.composition(piece).layer("logo").kind)
            self.assertEqual("shape", second.composition(piece).layer("logo").kind, "an empty cell leaves it")
        own, whole = (first.composition(piece).layer("logo").track("scale").value for piece in (made, "piece"))
        self.assertAlmostEqual(0.75, own[0] / whole[0])

    def test_words_along_a_drawing_are_no_slot(self) -> None:
        project = self.piece()
        words = Layer("Words", "text", 0, 10, id="words").with_values(text="A")
        piece = project.compositions[0]
        piece = evolve(piece, layers=(words, *piece.layers))
        with self.assertRaisesRegex(ModelError, "cannot be a slot"):
            with_slot(project.with_composition(piece), piece, "words", Slot("Way", "path"))


class NamedPicturesTest(unittest.TestCase):
    """What rows name is theirs: it stays where it is unused, and they follow another name of it."""

    def setUp(self) -> None:
        cells = ("wide.png", " wide ", "square.png", "")
        rows = tuple(Variant((("Headline", "wide"), ("Product", cell))) for cell in cells)
        made = sample()
        piece = evolve(made.compositions[0], variants=rows)
        self.project = evolve(made, sources=(*made.sources, picture(80, 40))).with_composition(piece)
        self.wide = self.project.sources[-1]

    def cells(self, project: Project) -> list[str | None]:
        self.assertEqual({row.cell("Headline") for row in project.compositions[0].variants}, {"wide"})
        return [row.cell("Product") for row in project.compositions[0].variants]

    def test_unused_files_that_rows_name_stay(self) -> None:
        self.assertEqual(unused_removed(self.project), self.project)
        self.assertEqual(tables_naming(self.project, self.wide), ("Piece",))
        fewer = evolve(self.project.compositions[0], variants=self.project.compositions[0].variants[2:])
        project = self.project.with_composition(fewer)
        self.assertEqual(tables_naming(project, self.wide), ())
        self.assertEqual(unused_removed(project).sources, self.project.sources[:1])

    def test_rows_follow_another_name_and_another_file(self) -> None:
        again = renamed(self.project, self.wide.id, "broad.png")
        self.assertEqual(self.cells(again), ["broad.png", "broad.png", "square.png", ""])
        other = replaced(self.project, self.wide.id, picture(30, 30, "round.png"))
        self.assertEqual(self.cells(other), ["round.png", "round.png", "square.png", ""])
        batch = Batch(other, other.compositions[0], other.compositions[0].variants)
        shown = batch.project_for(batch.rows[1]).compositions[0].layer("photo").track("source").value
        self.assertEqual(shown, self.wide.id)
        self.assertEqual(self.cells(renamed(self.project, "piece", "Other")), self.cells(self.project))

    def test_where_two_have_a_name_nobody_knows_which_is_meant(self) -> None:
        twin = evolve(picture(10, 10, "wide.jpg"), id="twin")
        project = evolve(self.project, sources=(*self.project.sources, twin))
        self.assertEqual(self.cells(renamed(project, self.wide.id, "broad.png"))[0], "wide.png")


class TableTest(unittest.TestCase):
    """Files of others, good and bad."""

    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))

    def table(self, text: str | bytes, name: str = "table.csv") -> Path:
        path = self.folder / name
        path.write_bytes(text if isinstance(text, bytes) else text.encode())
        return path

    def read(self, text: str | bytes, name: str = "table.csv"):  # type: ignore[no-untyped-def]
        return read_table(self.table(text, name), ("Headline", "Product", "Ground"))

    def test_commas_semicolons_and_tabs(self) -> None:
        wanted = (Variant((("Headline", "UP, UP"), ("Ground", "#ff0000"))), Variant((("Headline", "two\nlines"),)))
        for text, name in (
            ('headline,Ground\r\n"UP, UP",#ff0000\r\n\r\n"two\nlines",\r\n', "a.csv"),
            ('Headline;GROUND\nUP, UP;#ff0000\n"two\nlines";\n', "b.csv"),
            ('Headline\tGround\nUP, UP\t#ff0000\n"two\nlines"\t\n', "c.tsv"),
        ):
            self.assertEqual(self.read("\ufeff" + text, name).rows, wanted, name)

    def test_unicode_text_of_programs_for_tables(self) -> None:
        path = self.folder / "a.txt"
        for encoding in ("utf-16-le", "utf-16-be"):
            path.write_bytes(("\ufeff" + "Headline\tGround\r\nÜber den Wolken – 凧\t#ff0000\r\n").encode(encoding))
            rows = read_table(path, ("Headline", "Product", "Ground")).rows
            self.assertEqual((Variant((("Headline", "Über den Wolken – 凧"), ("Ground", "#ff0000"))),), rows)
        path.write_bytes(b"\xff\xfeH")
        with self.assertRaisesRegex(FileError, "no text in UTF-8"):
            read_table(path, ("Headline",))

    def pasted(self, text: str, row: int = 0, column: int = 0, now: tuple[str, ...] = ("Hi", "a", "#fff")) -> list:
        rows = (Variant((("Headline", "One"), ("Product", "one"))), Variant((("Headline", "Two"),)))
        table = with_cells(rows, ("Headline", "Product", "Ground"), text, row, column, now)
        self.strange = table.strange
        return [tuple(made.cell(name) for name in ("Headline", "Product", "Ground")) for made in table.rows]

    def test_copied_cells_go_over_those_from_one_on_and_add_rows(self) -> None:
        one, two = ("One", "one", None), ("Two", None, None)
        self.assertEqual([one, ("A", "b", None), ("C\nD", None, None)], self.pasted('A\tb\n"C\nD"\t', 1))
        self.assertEqual([("One", "x", "y"), two], self.pasted("x\ty\r\n", 0, 1))
        self.assertEqual([one, two, (None, None, None), ("Z", None, None)], self.pasted("Z", 3))
        self.assertEqual((), self.strange)
        self.assertEqual([one, ("Two", None, "x")], self.pasted("x\tmore\tand", 1, 2))
        self.assertEqual(("column 2", "column 3"), self.strange)

    def test_a_first_line_that_names_slots_says_where_columns_go(self) -> None:
        self.assertEqual([("A", "one", "#111"), ("B", None, None)], self.pasted("ground\tHeadline\n#111\tA\n\tB\n"))
        self.assertEqual([("A", "one", None), ("Two", None, None)], self.pasted("Headline\tNotes\nA\tsoon\n"))
        self.assertEqual(("Notes",), self.strange)
        # What a slot holds may be called as it is.
        same = self.pasted("Headline\nFull price\n", now=("Headline", "a", "#fff"))
        self.assertEqual(["Headline", "Full price"], [row[0] for row in same])
        self.assertEqual(["Headline", "Two"], [row[0] for row in self.pasted("Headline")])

    def test_a_copied_row_is_the_row_where_it_is_pasted(self) -> None:
        row = Variant((("Headline", 'a "b"\tc\nd'), ("Ground", "#010203")))
        slots = ("Headline", "Product", "Ground")
        made = with_cells((), slots, as_copied(slots, row), 0, 0)
        self.assertEqual({"Headline": row.cell("Headline"), "Ground": "#010203"}, dict(made.rows[0].cells))

    def test_too_many_copied_rows_are_refused(self) -> None:
        with self.assertRaisesRegex(FileError, "rows"):
            self.pasted("x\n" * MOST_VARIANTS, 1)
        with self.assertRaisesRegex(FileError, "What was copied.*quote"):
            self.pasted('"open\n')

    def test_out_and_in_again(self) -> None:
        rows = (Variant((("Headline", 'a "b", c\nd'), ("Ground", "#010203"))), Variant((("Product", "x;y.png"),)))
        again = self.read(write_table(("Headline", "Product", "Ground"), rows))
        self.assertEqual(again.rows, rows)

    def test_columns_that_do_not_match_are_told(self) -> None:
        table = self.read("Headline,Price\nUP,3\n")
        self.assertEqual((table.strange, table.unfilled), (("Price",), ("Product", "Ground")))
        self.assertRegex(" ".join(table.notes()), "1 column matches no slot and is left out: “Price”.*No column fills")

    def test_bad_tables_are_one_sentence(self) -> None:
        for text, sentence in (
            ("", "is empty"), ("A,B\n1,2\n", "No column of “table.csv” is named like a slot"),
            ('Headline\n"never closed\n', "a quote is not closed"), ("Headline,Headline\na,b\n", "named alike"),
            (b"\xfa\xfb\x00H", "no text in UTF-8"), ("Headline\n" + "x\n" * 10_001, "more than 10000 rows"),
            (",".join(["x"] * 300), "300 columns"),
        ):  # fmt: skip
            with self.assertRaisesRegex(FileError, sentence):
                self.read(text)
        self.assertEqual(len(self.read("Headline\n" + "x\n" * 10_000).rows), 10_000)

    def test_what_is_wrong_with_rows(self) -> None:
        project = evolve(sample(), sources=(*sample().sources, picture(80, 40)))
        slots = open_slots(project, project.compositions[0])

        def wrong(**cells: str) -> dict[str, str]:
            return row_problems(project, slots, Variant(tuple(cells.items())), self.folder)

        self.assertEqual(wrong(Headline="UP", Ground="#fff", Product="wide.png"), {})
        self.assertEqual(wrong(Headline="A VERY LONG HEADLINE"), {"Headline": "too long by 8 letters"})
        self.assertRegex(wrong(Ground="greenish")["Ground"], "not a colour")
        self.assertRegex(wrong(Product="none.png")["Product"], "There is no picture “none.png”")
        self.assertRegex(wrong(Product="../../etc/passwd")["Product"], "There is no picture")
        self.assertEqual(wrong(Gone="x"), {"Gone": "there is no such slot any more"})
        (self.folder / "broken.png").write_bytes(b"no picture")
        self.assertRegex(wrong(Product="broken.png")["Product"], "broken.png")
        limited = sample(
            photo=Slot("Product", "source", ratio=1.0), ground=Slot("Ground", "colour", choices=("#000000", "#ff0000")),
            words=Slot("Headline", "text"),
        )  # fmt: skip
        limited = evolve(limited, sources=(*limited.sources, picture(80, 40)))
        slots = open_slots(limited, limited.compositions[0])
        row = Variant((("Product", "wide.png"), ("Ground", "#00ff00"), ("Headline", "WIND AND WAVES")))
        found = row_problems(limited, slots, row, None)
        self.assertEqual(found["Ground"], "one of #000000, #ff0000 is wanted")
        self.assertRegex(found["Product"], "80 × 40, and 1 : 1 is wanted")
        self.assertRegex(found["Headline"], "% larger than the words it stands for")

    def test_contrast_of_a_row(self) -> None:
        project = sample()
        piece, slots = project.compositions[0], open_slots(project, project.compositions[0])
        self.assertEqual(contrast_problem(project, piece, slots, Variant((("Ground", "#102040"),)), None), "")
        told = contrast_problem(project, piece, slots, Variant((("Ground", "#e8e8e8"),)), None)
        self.assertRegex(told, r"“WIND” stands out by 1\.2 : 1 only")

    def test_a_slot_whose_layer_was_deleted(self) -> None:
        project = sample()
        piece = evolve(project.compositions[0], layers=project.compositions[0].layers[1:])
        project = project.with_composition(piece)
        with self.assertRaisesRegex(ModelError, "no slot “Headline” in this piece any more"):
            filled_by(project, "piece", open_slots(project, piece), Variant((("Headline", "UP"),)), None)


class WritingTest(unittest.TestCase):
    """Rows become files."""

    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))

    def test_names_from_columns(self) -> None:
        cells = {"Left": "UP / DOWN", "Right": "…"}
        self.assertEqual(file_name("{left}-{row}-{format}", cells, 4, "10x20", "P"), "UP _ DOWN-005-10x20")
        self.assertEqual(file_name("{Right}", cells, 4, "10x20", "P"), "005", "a name of nothing takes the number")
        self.assertEqual(file_name("../../{Left}", cells, 0, "", ""), "UP _ DOWN")
        with self.assertRaisesRegex(ModelError, "know no {Middle}; there are {Left}"):
            file_name("{Middle}", cells, 0, "", "")
        self.assertEqual(unlike(["a", "A", "b", "a"]), ["a", "A-2", "b", "a-3"])

    def test_the_command_writes_a_file_a_row_and_goes_on_where_one_fails(self) -> None:
        project, _ = add_format(sample(), "piece", 300, 300)
        path, table = self.folder / "p.spiralis", self.folder / "rows.csv"
        save(project, path)
        Image.new("RGB", (60, 60), (0, 255, 0)).save(self.folder / "green.png")
        table.write_text("Headline,Product,Price\nUP,green.png,1\nDOWN,missing.png,2\nOUT,,3\n")
        run = CliRunner().invoke(
            cli, ["variants", str(path), "--table", str(table), "-c", "Piece", "--target", "gif", "--formats",
                  "--names", "{Headline}-{format}", "-o", str(self.folder / "out")],
        )  # fmt: skip
        self.assertEqual(run.exit_code, 1, run.output)
        names = sorted(p.name for p in (self.folder / "out").iterdir())
        self.assertEqual(names, ["OUT-300x300.gif", "OUT-400x300.gif", "UP-300x300.gif", "UP-400x300.gif"])
        self.assertIn("Row 2: There is no picture “missing.png”", run.output)
        self.assertIn("“Price”", run.output)
        first = np.asarray(Image.open(self.folder / "out" / "UP-400x300.gif").convert("RGB"))
        self.assertGreater(first[200, 200, 1], 200)
        self.assertLess(first[200, 200, 0], 60)

    def test_checking_writes_nothing(self) -> None:
        project = sample()
        rows = (Variant((("Headline", "UP"),)), Variant((("Headline", "WAY TOO LONG A WORD"),)))
        project = project.with_composition(evolve(project.compositions[0], variants=rows))
        path = self.folder / "p.spiralis"
        save(project, path)
        self.assertEqual(load(path).compositions[0].variants, rows)
        run = CliRunner().invoke(cli, ["variants", str(path), "-c", "Piece", "--check", "-o", str(self.folder / "x")])
        self.assertEqual((run.exit_code, (self.folder / "x").exists()), (1, False))
        self.assertEqual(run.output.splitlines(), ["   1  ready", "   2  Headline: too long by 7 letters"])

    def test_two_hundred_rows_take_no_more_memory_than_one(self) -> None:
        pixels = np.random.default_rng(1).integers(0, 255, (300, 300, 3), dtype=np.uint8)
        for number in range(20):
            Image.fromarray(pixels + np.uint8(number)).save(self.folder / f"{number}.png")
        project = sample()
        rows = tuple(Variant((("Product", f"{n % 20}.png"), ("Headline", str(n % 20)))) for n in range(200))
        batch = Batch(project, project.compositions[0], rows, self.folder)
        orders = batch.orders((batch.piece,), self.folder, "{row}", exporter("png"))
        self.assertEqual(len({order.path for order in orders}), 200)

        def peak(some: tuple) -> int:  # type: ignore[type-arg]
            tracemalloc.start()
            for count, order in enumerate(some, 1):
                batch.job(order, {})
                if count % 20 == 0:
                    gc.collect()
            found = tracemalloc.get_traced_memory()[1]
            tracemalloc.stop()
            return found

        batch.job(orders[0], {})
        self.assertLess(peak(orders), 1.2 * peak(orders[:20]))

    def test_every_error_is_a_sentence(self) -> None:
        batch = Batch(sample(), sample().compositions[0], ())
        with self.assertRaisesRegex(SpiralisError, "has no rows"):
            batch.orders((batch.piece,), self.folder, "{row}", exporter("gif"))


if __name__ == "__main__":
    unittest.main()
