"""Sources: link, collect, move, lose, find again, replace, count."""

from __future__ import annotations

import shutil
import tempfile
import unittest
from fractions import Fraction
from pathlib import Path

import numpy as np
from attrs import evolve

from spiralis.core.editing.effecting import with_effect
from spiralis.core.editing.importing import Gathered, brought_in, files_under, gather, new_project
from spiralis.core.editing.recolouring import colours_of, recoloured
from spiralis.core.editing.slots import OpenSlot, Place, source_for
from spiralis.core.editing.sources import (
    artwork_place,
    collected,
    linked,
    relinked,
    replaced,
    unused_removed,
    without_composition,
)
from spiralis.core.editing.uses import missing_source, use_counts
from spiralis.core.errors import FileError, ModelError, SpiralisError
from spiralis.core.media.sources import read_source
from spiralis.core.model import Composition, Key, Layer, Project, Track
from spiralis.core.model.slots import Slot
from spiralis.core.raster.fonts import FONT_FOLDER
from spiralis.core.render import render_frame
from spiralis.core.storage import load, save
from tests.core.clips import encode
from tests.core.drawings import DRAWINGS, svg
from tests.core.samples import png_bytes, project


def picture(width: int, height: int, shade: int = 200) -> bytes:
    return png_bytes(np.full((height, width, 4), (shade, 30, 60, 255), np.uint8))

class FilesTest(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        self.art = self.folder / "art"
        self.art.mkdir()
        (self.art / "kite.png").write_bytes(picture(20, 20))
        (self.art / "clip.mp4").write_bytes(encode("libx264", "mp4", "yuv420p", count=5))

    def sample(self) -> Project:
        sources = tuple(read_source(self.art / name) for name in ("kite.png", "clip.mp4"))
        layers = (
            Layer("Kite", "picture", 0, 20).with_values(source=sources[0].id, position=(20.0, 20.0)),
            Layer("Clip", "footage", 0, 20).with_values(
                source=sources[1].id, position=(40.0, 24.0), scale=(20.0, 20.0)
            ),
        )
        return project(*layers, sources=sources)


class LinkingTest(FilesTest):
    def test_linked_and_embedded_look_the_same_and_survive_a_move(self) -> None:
        home = self.folder / "home"
        shutil.copytree(self.art, home / "art")
        self.art = home / "art"
        sample = self.sample()
        before = render_frame(sample, "Piece", 3)
        apart = linked(sample, home / "more")
        self.assertTrue(all(source.linked for source in apart.sources))
        save(apart, home / "piece.spiralis")
        self.assertLess((home / "piece.spiralis").stat().st_size, 20_000)
        home.rename(self.folder / "moved")
        opened = load(self.folder / "moved" / "piece.spiralis")
        self.assertFalse(any(source.missing for source in opened.sources))
        np.testing.assert_array_equal(render_frame(opened, "Piece", 3), before)
        whole = collected(opened)
        save(whole, self.folder / "whole.spiralis")
        shutil.rmtree(self.folder / "moved")
        alone = load(self.folder / "whole.spiralis")
        np.testing.assert_array_equal(render_frame(alone, "Piece", 3), before)

    def test_what_came_from_nowhere_is_written_beside(self) -> None:
        sample = evolve(self.sample(), sources=tuple(evolve(s, file=None) for s in self.sample().sources))
        apart = linked(sample, self.folder / "out")
        self.assertEqual(len(list((self.folder / "out").iterdir())), 2)
        self.assertFalse(any(source.missing for source in apart.sources))

    def test_fonts_stay_in_the_project(self) -> None:
        font = read_source(next(FONT_FOLDER.glob("*.ttf")))
        sample = self.sample()
        apart = linked(evolve(sample, sources=(*sample.sources, font)), self.folder / "out")
        self.assertEqual([True, True, False], [source.linked for source in apart.sources])
        self.assertEqual(font, apart.sources[-1])

    def test_lost_files_open_marked_and_all_are_found_at_once(self) -> None:
        save(linked(self.sample(), self.folder), self.folder / "piece.spiralis")
        self.art.rename(self.folder / "elsewhere")
        lost = load(self.folder / "piece.spiralis")
        self.assertTrue(all(source.missing for source in lost.sources))
        names = [missing_source(lost, layer) for layer in lost.compositions[0].layers]
        self.assertEqual(names, ["kite.png", "clip.mp4"])
        self.assertEqual(float(render_frame(lost, "Piece", 0).sum()), 0.0)
        found, followed = relinked(lost, lost.sources[0].id, self.folder / "elsewhere" / "kite.png")
        self.assertEqual((followed, any(s.missing for s in found.sources)), (1, False))
        # As it was before it was lost: pictures are held, footage is read where it lies, neither is in the file.
        self.assertEqual([True, True], [source.linked for source in found.sources])
        self.assertEqual([True, False], [source.data is not None for source in found.sources])
        self.assertGreater(float(render_frame(found, "Piece", 0).sum()), 0.0)
        with self.assertRaises(FileError):
            relinked(lost, lost.sources[0].id, self.folder / "elsewhere" / "clip.mp4")

    def test_a_picture_is_taken_by_its_name_where_it_is_there_and_shows(self) -> None:
        kite, clip = self.sample().sources
        gone = evolve(kite, id="gone", data=None)
        font = evolve(read_source(next(FONT_FOLDER.glob("*.ttf"))), name="kite.ttf")
        sample = evolve(self.sample(), sources=(font, gone, kite, clip))
        piece = sample.compositions[0]
        slot = OpenSlot("Kite", (Place(piece.id, piece.layers[0].id, Slot("Kite", "source")),))
        for name, wanted in (("kite.png", kite), (" kite ", kite), (kite.id, kite), ("clip", clip)):
            self.assertIs(source_for(sample, slot, name, None), wanted)
        (self.folder / "font.ttf").write_bytes(font.data or b"")
        self.assertEqual((20, 20), (source_for(sample, slot, "kite.png", self.art).width,) * 2)
        (self.art / "wide.png").write_bytes(picture(80, 40))
        self.assertEqual(80, source_for(sample, slot, "wide.png", self.art).width)
        for name, folder in (("wide.png", None), ("gone", None), ("../font.ttf", self.art)):
            with self.assertRaises(SpiralisError, msg=name):
                source_for(sample, slot, name, folder)
        with self.assertRaisesRegex(ModelError, "footage or picture is wanted|picture or footage is wanted"):
            source_for(sample, slot, "font.ttf", self.folder)


class ReplaceTest(FilesTest):
    def test_placement_and_motion_stay_and_the_size_is_met_as_asked(self) -> None:
        sample = self.sample()
        piece = sample.compositions[0]
        grow = Track((100.0, 100.0), (Key(0, (100.0, 100.0)), Key(9, (50.0, 50.0))))
        sample = sample.with_composition(piece.with_layer(piece.layers[0].with_track("scale", grow)))
        (self.art / "wide.png").write_bytes(picture(80, 40))
        wide = read_source(self.art / "wide.png")
        for how, share in (("fit", 0.25), ("fill", 0.5), ("keep", 1.0)):
            done = replaced(sample, sample.sources[0].id, wide, how)
            layer = done.compositions[0].layers[0]
            self.assertEqual(layer.track("scale").keys[1].value, (50 * share, 50 * share), how)
            self.assertEqual(layer.track("position").value, (20.0, 20.0))
            self.assertEqual(done.sources[0].width, 80)

    def test_a_picture_may_become_footage(self) -> None:
        sample = self.sample()
        done = replaced(sample, sample.sources[0].id, read_source(self.art / "clip.mp4"), "keep")
        self.assertEqual([layer.kind for layer in done.compositions[0].layers], ["footage", "footage"])

    def test_effects_keep_their_numbers_when_the_kind_of_source_changes(self) -> None:
        sample = self.sample()
        kite = with_effect(sample.compositions[0].layers[0], "gaussian-blur")
        name, blurred = f"{kite.blocks[0].id}.across", Track(3.0, (Key(0, 3.0), Key(9, 8.0)))
        kite = kite.with_track(name, blurred).with_values(opacity=40.0)
        sample = sample.with_composition(sample.compositions[0].with_layer(kite))
        done = replaced(sample, sample.sources[0].id, read_source(self.art / "clip.mp4"), "keep")
        changed = done.compositions[0].layers[0]
        self.assertEqual((changed.kind, changed.track("opacity").value), ("footage", 40.0))
        self.assertEqual(changed.track(name), blurred)


class TidyTest(FilesTest):
    def test_counts_unused_files_and_shown_compositions(self) -> None:
        sample = self.sample()
        extra = read_source(self.art / "kite.png")
        grown = evolve(sample, sources=(*sample.sources, evolve(extra, id="spare", digest="0" * 64)))
        self.assertEqual(use_counts(grown).get("spare", 0), 0)
        self.assertEqual(unused_removed(grown), sample)
        nested = Layer("N", "nested", 0, 9).with_values(composition=sample.compositions[0].id)
        outer = evolve(sample.compositions[0], id="outer", name="Outer", layers=(nested,))
        for times in (1, 2):
            shown = evolve(outer, layers=tuple(evolve(nested, id=f"n{i}") for i in range(times)))
            self.assertEqual(use_counts(sample.with_composition(shown))[sample.compositions[0].id], times)
        with self.assertRaises(FileError) as caught:
            without_composition(sample.with_composition(outer), sample.compositions[0].id)
        self.assertIn("Outer", str(caught.exception))

    def test_a_colour_of_a_drawing_changes_everywhere(self) -> None:
        (self.art / "a.svg").write_bytes(DRAWINGS["basic shapes"])
        made, _ = new_project(gather([self.art / "a.svg"], Project()), "a")
        art = made.compositions[0].layers[-1].track("art").value
        old = colours_of(art)[0]
        done = recoloured(art, old, (0.0, 1.0, 0.0, 1.0))
        self.assertNotIn(old, colours_of(done))
        self.assertIn((0.0, 1.0, 0.0, 1.0), colours_of(done))


class ImportTest(FilesTest):
    def test_a_project_of_artwork_opens_with_the_whole_of_it(self) -> None:
        (self.art / "a.svg").write_bytes(svg('<g id="Words"><rect width="9" height="9"/><circle r="4"/></g>'))
        made, _ = new_project(gather([self.art / "a.svg", self.art / "kite.png"], Project()), "a")
        first, second, inner = made.compositions
        self.assertEqual((["nested"], ["picture"]), tuple([y.kind for y in piece.layers] for piece in (first, second)))
        self.assertEqual(inner.id, first.layers[0].track("composition").value)

    def test_a_folder_of_everything_comes_in_and_failures_are_named(self) -> None:
        (self.art / "badge.svg").write_bytes(DRAWINGS["transforms"])
        (self.art / "broken.png").write_bytes(b"no")
        (self.art / "notes.txt").write_text("not artwork")
        for number in range(3):
            (self.art / f"ink_{number:02d}.png").write_bytes(picture(10, 10, number))
        self.assertEqual(len(files_under([self.art])), 7)
        found = gather([self.art], Project())
        self.assertEqual(sorted(s.name for s in found.sources), ["clip.mp4", "ink_00–02.png", "kite.png"])
        self.assertEqual((len(found.layered), len(found.problems)), (1, 1))
        self.assertIn("broken.png", found.problems[0])
        base = project()
        done = brought_in(base, base.compositions[0].id, found)
        kinds = sorted(layer.kind for layer in done.project.compositions[0].layers)
        self.assertEqual(kinds, ["footage", "footage", "nested", "picture"])
        flat = brought_in(base, base.compositions[0].id, found, layering="flat")
        self.assertIn("shape", {layer.kind for layer in flat.project.compositions[0].layers})

    def test_pictures_as_a_flipbook_in_the_order_of_their_names(self) -> None:
        paths = []
        for name in ("c", "a", "b"):
            (self.art / f"{name}.png").write_bytes(picture(10, 10, ord(name)))
            paths.append(self.art / f"{name}.png")
        base = project()
        done = brought_in(base, base.compositions[0].id, gather(paths, Project()), as_flipbook=True)
        drawings = done.project.compositions[0].layers[0].track("drawings").value
        names = [source.name for drawing in drawings if (source := done.project.source(drawing[0])) is not None]
        self.assertEqual(names, ["a.png", "b.png", "c.png"])
        (self.art / "b.png").write_bytes(picture(4, 10 * base.compositions[0].height, 1))
        found = gather(paths, Project())
        fitted = brought_in(base, base.compositions[0].id, found, at=(7.0, 8.0), as_flipbook=True)
        layer = fitted.project.compositions[0].layers[0]
        self.assertEqual(((7.0, 8.0), (8.0, 8.0)), (layer.track("position").value, layer.track("scale").value))

    def test_what_is_made_for_the_frame_covers_it_and_all_else_is_fitted(self) -> None:
        piece = Composition("piece", 1080, 1350, Fraction(25), 50)
        middle, at = (540.0, 675.0), (100.0, 200.0)
        for size, how, place, scale in (
            ((1080, 1350), {}, middle, 100.0), ((2160, 2700), {}, at, 40.0), ((50, 50), {}, at, 100.0),
            ((2160, 2700), {"moves": True}, middle, 50.0), ((540, 675), {"moves": True}, at, 100.0),
            ((1920, 1080), {"moves": True}, at, 45.0),
            ((50, 50), {"grows": True}, at, 1728.0), ((1080, 1350), {"grows": True}, middle, 100.0),
        ):  # fmt: skip
            with self.subTest(size=size, **how):
                made = artwork_place(size, piece, at, **how)
                self.assertEqual({"position": place, "scale": (scale, scale)}, made)
        self.assertEqual(middle, artwork_place((50, 50), piece, None)["position"])
        # Beside the frame nobody would see it.
        self.assertEqual((1080.0, 0.0), artwork_place((50, 50), piece, (1500.0, -20.0))["position"])

    def test_nothing_makes_no_project(self) -> None:
        with self.assertRaises(SpiralisError):
            new_project(Gathered(), "empty")
