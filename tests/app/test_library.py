"""The library in the window: formats, palettes, moves and what is kept of other sorts; one folder, shared as files."""

from __future__ import annotations

import unittest
from collections.abc import Callable
from fractions import Fraction
from pathlib import Path
from typing import Any
from unittest import mock

import numpy as np
from PyQt6.QtCore import QPointF
from PyQt6.QtWidgets import QFileDialog, QInputDialog, QPushButton

from spiralis.app.colours import ColourPanel
from spiralis.app.library.every import sorts
from spiralis.app.library.formats import OWN_FORMATS, OwnFormat
from spiralis.app.library.keeping import Keeper
from spiralis.app.library.moves import OWN_MOVES
from spiralis.app.library.own_list import MOST, library_folder
from spiralis.app.library.palettes import OWN_PALETTES, Palette
from spiralis.app.library.targets import Target
from spiralis.app.library.tiles import OWN_TILES, own_tile
from spiralis.app.library.window import LibraryWindow
from spiralis.app.moves import MovesChooser
from spiralis.app.moves.keeping import KeepMotion
from spiralis.app.widgets.preferences import store
from spiralis.core.animation.drivers import values_over
from spiralis.core.animation.easing import CubicBezier
from spiralis.core.editing.effecting import with_effect
from spiralis.core.editing.kept_moves import PREFIX, kept_move, offer_kept
from spiralis.core.editing.look_sets import look_of
from spiralis.core.model import Key, Layer, Track
from spiralis.core.moves import moves
from tests.app.harness import WindowTest


def with_keys(layer: Layer, by: int) -> Layer:
    """Return the layer fading in, with a turn of so many times ten degrees."""
    turn = Track(0.0, (Key(0, 10.0 * by), Key(20, 0.0)))
    return layer.with_track("position", Track((0.0, 0.0))).with_track("rotation", turn)


class LibraryTest(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        store(library=str(self.folder / "kept"))
        self.addCleanup(store, library="")
        self.addCleanup(offer_kept, ())

    def library(self) -> LibraryWindow:
        self.act("Library…")
        return next(w for w in self.window.findChildren(LibraryWindow) if w.isVisible())

    def choose(self, window: LibraryWindow, label: str, name: str = "") -> None:
        for place in range(window.tree.topLevelItemCount()):
            head = window.tree.topLevelItem(place)
            if head.text(0).startswith(label):
                rows = {head.child(n).text(0): head.child(n) for n in range(head.childCount())}
                window.tree.setCurrentItem(rows[name] if name else head)

    def press(self, button: QPushButton) -> None:
        self.click(button, QPointF(10, 10))

    def test_each_sort_says_where_in_the_window_it_is_kept(self) -> None:
        window = self.library()
        said = set()
        for own in sorts():
            self.choose(window, own.label)
            self.assertTrue(window.origin.text().startswith(f"{own.label}: "))
            said.add(own.origin)
            # What it names is there: a menu's command, say.
            command = own.origin.split(" > ")[-1].partition("…")[0] + "…" if " > " in own.origin else None
            self.assertTrue(command is None or command in self.window.actions_, command)
        self.assertEqual(len(said), len(sorts()))

    def test_a_format_is_kept_on_the_start_page_and_taken_in_another_start(self) -> None:
        self.window.show_start()
        page = self.window.start
        self.assertFalse(page.own.isVisible())
        page.fields.show_format(600, 750, Fraction(30000, 1001), 3.5)
        with mock.patch.object(QInputDialog, "getText", return_value=("Shop banner", True)):
            self.press(page.keep)
        self.assertEqual([(f.name, f.width, f.height) for f in OWN_FORMATS.all()], [("Shop banner", 600, 750)])
        page.fields.show_format(100, 100, Fraction(25), 1.0)
        self.assertTrue(page.own.isVisible())
        page.own.activated.emit(page.own.findText("Shop banner"))
        self.press(page.begin)
        piece = self.session.composition
        self.assertEqual((piece.width, piece.height, piece.rate, piece.length), (600, 750, Fraction(30000, 1001), 105))

    def test_swatches_become_a_palette_and_come_back_in_another_project(self) -> None:
        panel = ColourPanel(self.window, "Fill", (1.0, 0.0, 0.0, 1.0), self.session)
        assert panel.grid is not None
        panel.grid.add((1.0, 0.0, 0.0, 1.0), (0.0, 1.0, 0.0, 0.5019607843137255))
        menu = panel.palettes.menu()
        menu.fill()
        with mock.patch.object(QInputDialog, "getText", return_value=("Kites", True)):
            menu.actions()[0].trigger()
        kept = self.session.project.swatches
        self.assertEqual(OWN_PALETTES.all()[0].colours, kept)
        self.session.undo()
        menu.fill()
        next(action for action in menu.actions() if action.text() == "Kites").trigger()
        self.assertEqual(self.session.project.swatches, kept)
        panel.close()

    def test_a_layers_motion_is_kept_as_a_move_and_taken_by_another_layer(self) -> None:
        ease = CubicBezier(0.2, 0.9, 0.4, 1.0)
        keys = (Key(5, (100.0, 240.0), ease), Key(15, (180.0, 200.0)), Key(25, (160.0, 240.0)))
        fading = Track(100.0, (Key(5, 0.0, ease), Key(15, 100.0)))
        self.session.edit_layers(
            "Keys", lambda y: y.with_track("position", Track((0.0, 0.0), keys)).with_track("opacity", fading),
            ["square"],
        )  # fmt: skip
        self.session.select(["square"])
        self.act("Keep the motion as a move…")
        dialog = self.window.findChild(KeepMotion)
        dialog.name.setText("Swoop in")
        dialog.accept()
        self.assertEqual([m.name for m in OWN_MOVES.all()], ["Swoop in"])
        self.session.select(["words"])
        chooser = MovesChooser(self.window, self.session, self.window.player)
        chooser.show()
        chooser.tiles[PREFIX + "Swoop in"].click()
        for name, number in (("first", 10.0), ("length", 20.0)):
            chooser.fields[name].show_value(number)
        chooser.apply()
        chooser.accept()
        words, piece, frames = self.layer("words"), self.session.composition, np.arange(0.0, 21.0)
        theirs = values_over(piece, self.layer("square"), "position", frames + 5) - (160.0, 240.0)
        ours = values_over(piece, words, "position", frames + 10) - (480.0, 120.0)
        np.testing.assert_allclose(ours, theirs, atol=1e-6)
        theirs = values_over(piece, self.layer("square"), "opacity", frames + 5)
        np.testing.assert_allclose(values_over(piece, words, "opacity", frames + 10), theirs, atol=1e-9)
        self.assertEqual(words.moves, ())  # Ordinary keys, which need no library.
        self.session.undo()
        self.assertEqual(self.layer("words").track("position").keys, ())

    def test_what_is_no_move_is_said(self) -> None:
        self.session.select(["words"])
        self.act("Keep the motion as a move…")
        dialog = self.window.findChild(KeepMotion)
        dialog.accept()
        self.assertIn("no two keys", dialog.problem.text())
        dialog.reject()
        self.session.select(["square"])
        self.act("Keep the motion as a move…")
        dialog = next(d for d in self.window.findChildren(KeepMotion) if d.isVisible())
        dialog.family.setCurrentIndex(1)
        dialog.accept()
        self.assertIn("does not come back", dialog.problem.text())
        dialog.reject()
        self.assertEqual(OWN_MOVES.all(), ())

    def test_everything_is_listed_written_taken_and_dropped(self) -> None:
        OWN_TILES.keep(own_tile("Gust", CubicBezier(0.1, 0.2, 0.3, 0.4)))
        OWN_TILES.keep(own_tile("Calm", CubicBezier(0.4, 0.2, 0.3, 1.0)))
        window = self.library()
        self.assertEqual(window.tree.topLevelItemCount(), len(sorts()))
        self.assertGreaterEqual({own.label for own in sorts()},
                                {"Eases", "Formats", "Look sets", "Moves", "Palettes", "Targets"})  # fmt: skip
        self.choose(window, "Eases", "Gust")
        shared = self.folder / "gust.eases.json"
        with mock.patch.object(QFileDialog, "getSaveFileName", return_value=(str(shared), "")):
            self.press(window.write)
        with mock.patch("spiralis.app.library.keeping.sure", return_value=False):
            self.press(window.drop)
        self.assertEqual([tile.label for tile in OWN_TILES.all()], ["Gust", "Calm"])
        with mock.patch("spiralis.app.library.keeping.sure", return_value=True):
            self.press(window.drop)
        self.assertEqual([tile.label for tile in OWN_TILES.all()], ["Calm"])
        self.assertNotIn("own-Gust", self.editor.pace.tiles.tiles)
        with mock.patch.object(QFileDialog, "getOpenFileName", return_value=(str(shared), "")):
            self.press(window.take)
        self.assertEqual([tile.label for tile in OWN_TILES.all()], ["Calm", "Gust"])
        self.assertIn("own-Gust", self.editor.pace.tiles.tiles, "the panel hears of it")
        self.choose(window, "Eases")
        self.assertFalse(window.drop.isEnabled())
        window.take_from(Path("kites.txt"))
        self.assertIn("no library file", self.said[-1])
        (self.folder / "bad.moves.json").write_text('{"format": "spiralis-moves", "moves": [{"name": "x"}]}')
        window.take_from(self.folder / "bad.moves.json")
        self.assertIn("bad.moves.json", self.said[-1])
        window.close()

    def test_another_folder_takes_along_what_it_lacks_and_keeps_what_it_has(self) -> None:
        OWN_TILES.keep(own_tile("Gust", CubicBezier(0.1, 0.2, 0.3, 0.4)))
        window, shared = self.library(), self.folder / "shared"
        shared.mkdir()
        with mock.patch.object(QFileDialog, "getExistingDirectory", return_value=str(shared)):
            self.press(window.other)
        self.assertEqual(library_folder(), shared)
        self.assertEqual([tile.label for tile in OWN_TILES.all()], ["Gust"])
        OWN_TILES.keep(own_tile("Calm", CubicBezier(0.4, 0.2, 0.3, 1.0)))
        told: list[str] = []
        self.session.said.connect(told.append)
        window.keep_in(self.folder / "kept")
        self.assertEqual([tile.label for tile in OWN_TILES.all()], ["Gust"])
        self.assertIn("“Calm” stay in", told[-1])
        window.keep_in(Path("/proc/none"))
        self.assertIn("may not be written", self.said[-1])
        self.assertEqual(library_folder(), self.folder / "kept")
        window.close()

    def test_a_file_that_cannot_be_read_is_put_aside_and_never_written_over(self) -> None:
        OWN_TILES.path.parent.mkdir(parents=True)
        OWN_TILES.path.write_text("of a newer version")
        OWN_TILES.keep(own_tile("Calm", CubicBezier(0.4, 0.2, 0.3, 1.0)))
        aside = OWN_TILES.path.with_name(f"{OWN_TILES.path.name}.unread")
        self.assertEqual(aside.read_text(), "of a newer version")
        self.assertEqual([tile.label for tile in OWN_TILES.all()], ["Calm"])
        OWN_TILES.path.write_text("of another one")
        OWN_TILES.keep(own_tile("Gust", CubicBezier(0.4, 0.2, 0.3, 1.0)))
        self.assertEqual(aside.read_text(), "of a newer version")
        self.assertEqual(aside.with_name(f"{aside.name}2").read_text(), "of another one")

    def things(self) -> dict[str, Callable[[str, int], Any]]:
        """Return what makes a thing of each sort: of a name, one or another."""
        square = self.layer("square")

        def move(name: str, by: int) -> Any:
            layer = with_keys(square, by)
            piece = self.session.composition.with_layer(layer)
            return kept_move(self.session.project.with_composition(piece), piece, layer, name, "entrance")

        return {
            "Eases": lambda name, by: own_tile(name, CubicBezier(0.1 * by, 0.2, 0.3, 0.4)),
            "Formats": lambda name, by: OwnFormat(name, 100 * by, 100, Fraction(25), 2.0),
            "Palettes": lambda name, by: Palette(name, ((0.0, float(by - 1), 0.0, 1.0),)),
            "Targets": lambda name, by: Target(name, "gif", {"colours": 8.0 * by}),
            "Moves": move,
            "Look sets": lambda name, by: look_of(with_effect(square, ("twirl", "halo")[by - 1]), name),
        }

    def test_nothing_of_the_same_name_goes_unasked_whatever_it_is(self) -> None:
        refused: list[str] = []
        things = self.things()
        self.assertEqual({own.label for own in sorts()}, set(things))
        for own in sorts():
            with self.subTest(own.label):
                make = things[own.label]
                keeper = Keeper(self.window, own, refused.append)
                with mock.patch("spiralis.app.library.keeping.sure", return_value=False) as asked:
                    self.assertTrue(keeper.keep(lambda make=make: make("Gust", 1)))
                    self.assertTrue(keeper.keep(lambda make=make: make("Calm", 1)))
                    mine = own.all()
                    self.assertFalse(asked.called)
                    self.assertFalse(keeper.keep(lambda make=make: make("Gust", 2)))
                    self.assertFalse(keeper.drop("Gust"))
                    self.assertEqual((asked.call_count, own.all()), (2, mine))
                shared, others = self.folder / f"a{own.suffix}", self.folder / f"b{own.suffix}"
                own.share(shared)
                own._write(others, [make("Gust", 2), make("Breeze", 1)])
                with mock.patch("spiralis.app.library.keeping.sure", return_value=False) as asked:
                    self.assertTrue(keeper.take_from(shared))
                    self.assertFalse(asked.called, "the same again is no question")
                    self.assertTrue(keeper.take_from(others))
                    self.assertIn("“Gust” is kept already", asked.call_args.args[2])
                    self.assertEqual(own.all()[:2], mine)
                    self.assertEqual(own.name(own.all()[2]), "Breeze")
                with mock.patch("spiralis.app.library.keeping.sure", return_value=True):
                    self.assertTrue(keeper.take_from(others))
                    self.assertEqual({own.name(each) for each in own.all()}, {"Gust", "Calm", "Breeze"})
                    self.assertNotIn(mine[0], own.all())
                    self.assertTrue(keeper.drop("Gust"))
                    self.assertEqual({own.name(each) for each in own.all()}, {"Calm", "Breeze"})
        self.assertEqual(refused, [])

    def test_of_one_name_the_last_is_kept(self) -> None:
        first, last = (own_tile("Gust", CubicBezier(0.1 * by, 0.2, 0.3, 0.4)) for by in (1, 2))
        self.assertEqual((last,), OWN_TILES.keep(first, last))
        self.assertEqual((last,), OWN_TILES.all())

    def test_where_the_library_is_full_a_sentence_says_so_and_nothing_goes(self) -> None:
        OWN_TILES.keep(*(own_tile(f"Ease {n}", CubicBezier(0.1, 0.2, 0.3, 0.4)) for n in range(MOST)))
        full, refused = OWN_TILES.all(), []
        keeper = Keeper(self.window, OWN_TILES, refused.append)
        self.assertFalse(keeper.keep(lambda: own_tile("One more", CubicBezier(0.1, 0.2, 0.3, 0.4))))
        self.assertIn("keeps 200 eases", refused[0])
        self.assertEqual((len(full), OWN_TILES.all()), (MOST, full))

    def test_a_dropped_move_is_offered_no_more(self) -> None:
        self.session.select(["square"])
        self.act("Keep the motion as a move…")
        self.window.findChild(KeepMotion).accept()
        chooser = MovesChooser(self.window, self.session, self.window.player)
        chooser.show()
        with mock.patch("spiralis.app.library.keeping.sure", return_value=False):
            chooser.tiles[PREFIX + "Square"].actions()[0].trigger()
        self.assertIn(PREFIX + "Square", chooser.tiles)
        with mock.patch("spiralis.app.library.keeping.sure", return_value=True):
            chooser.tiles[PREFIX + "Square"].actions()[0].trigger()
        self.assertNotIn(PREFIX + "Square", chooser.tiles)
        self.assertEqual(([m for m in moves() if m.name.startswith(PREFIX)], OWN_MOVES.all()), ([], ()))
        chooser.reject()


if __name__ == "__main__":
    unittest.main()
