"""The chooser of effects: pictures of what is chosen under each, search by words, one click adds."""

from __future__ import annotations

import unittest
from unittest import mock

import numpy as np
from attrs import evolve
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QImage
from PyQt6.QtTest import QTest

from spiralis.app.effects import EffectsChooser
from spiralis.app.effects.offers import OWN
from spiralis.app.effects.tiles import picture_with
from spiralis.core.editing.effecting import with_effect
from spiralis.core.looks import shipped_looks
from spiralis.core.model import Layer
from spiralis.core.model.blocks import EFFECT, FINISH, effect_kind, effect_kinds
from tests.app.harness import WindowTest


class EffectsChooserTest(WindowTest):
    def choose(self, *ids: str) -> None:
        self.session.select(ids)
        self.settle()

    def open(self, *ids: str) -> EffectsChooser:
        self.choose(*ids)
        self.act("Effects and finishes…")
        return self.chooser()

    def chooser(self) -> EffectsChooser:
        self.until(lambda: any(c.isVisible() for c in self.window.findChildren(EffectsChooser)))
        return next(c for c in self.window.findChildren(EffectsChooser) if c.isVisible())

    def shown(self, chooser: EffectsChooser) -> set[str]:
        return {name for name, tile in chooser.tiles.items() if not tile.isHidden()}

    def test_every_tile_shows_the_layer_under_its_effect(self) -> None:
        chooser = self.open("square")
        looks = {f"look: {look.name}" for look in shipped_looks()}
        self.assertEqual(self.shown(chooser), {kind.name for kind in effect_kinds()} | looks)
        self.until(lambda: all(tile.picture is not None for tile in chooser.tiles.values()), 60)
        pictures = {name: tile.picture.toImage() for name, tile in chooser.tiles.items() if tile.picture is not None}
        self.assertFalse(any(image.isNull() for image in pictures.values()))
        inverted, tiled = pictures["invert"], pictures["tile"]
        self.assertNotEqual(inverted, tiled)
        self.assertEqual(inverted.size(), tiled.size())
        chooser.reject()
        self.assertEqual(self.layer("square").blocks, ())

    def test_a_picture_is_the_piece_as_it_would_be(self) -> None:
        piece, project = self.session.composition, self.session.project
        box = (110.0, 190.0, 210.0, 290.0)
        plain = picture_with(project, piece, ("square",), lambda layer: layer, 0, box).astype(int)
        same = picture_with(project, piece, ("square",), lambda y: with_effect(y, "displace"), 0, box).astype(int)
        other = picture_with(project, piece, ("square",), lambda y: with_effect(y, "invert"), 0, box).astype(int)
        np.testing.assert_array_equal(plain, same)
        self.assertGreater(int(np.abs(other - plain).max()), 100)
        self.assertEqual(plain.shape, (100, 100, 4))

    def test_words_find_by_name_help_and_purpose(self) -> None:
        chooser = self.open("square")
        QTest.keyClicks(chooser.search, "shadow soft")
        found = {name for name in self.shown(chooser) if ": " not in name}
        self.assertEqual(found, {"drop-shadow", "inset-shadow"})
        chooser.search.setText("repeat")
        self.assertLessEqual({"tile", "mirror-wheel"}, self.shown(chooser))
        chooser.search.setText("zzz")
        self.assertEqual((self.shown(chooser), chooser.none.isHidden()), (set(), False))
        chooser.reject()

    def test_enter_adds_what_fits_best_and_arrow_keys_walk_over_the_tiles(self) -> None:
        chooser = self.open("square")
        QTest.keyClicks(chooser.search, "tap")
        self.assertIs(chooser.tiles["taper"], chooser.best)
        QTest.keyClick(chooser.search, Qt.Key.Key_Return)
        self.assertEqual(["taper"], [block.kind for block in self.layer("square").blocks])
        chooser = self.open("square")
        # What is called so comes before what merely does so, wherever it stands.
        QTest.keyClicks(chooser.search, "blur")
        best = chooser.best
        self.assertIsNotNone(best)
        self.assertIn("blur", best.offer.label.lower())  # type: ignore[union-attr]
        chooser.search.clear()
        self.assertIsNone(chooser.best)
        QTest.keyClick(chooser.search, Qt.Key.Key_Return)
        self.assertTrue(chooser.isVisible(), "nothing typed, nothing added")
        chooser.search.setText("bend")
        self.settle()
        order = [tile for tile in chooser.tiles.values() if not tile.isHidden()]
        top = min(tile.y() for tile in order)
        row = sorted((tile for tile in order if tile.y() == top), key=lambda tile: tile.x())
        beneath = min((t for t in order if t.y() > top and t.x() == row[1].x()), key=lambda tile: tile.y())
        self.assertIs(row[0], chooser.best)
        walk = ((Qt.Key.Key_Down, row[0]), (Qt.Key.Key_Right, row[1]), (Qt.Key.Key_Down, beneath),
                (Qt.Key.Key_Up, row[1]), (Qt.Key.Key_Up, chooser.search), (Qt.Key.Key_Down, row[0]))  # fmt: skip
        for key, goal in walk:
            at = chooser.focusWidget()
            self.assertIsNotNone(at)
            QTest.keyClick(at, key)
            self.assertIs(goal, chooser.focusWidget())
        QTest.keyClick(row[0], Qt.Key.Key_Enter)
        self.assertEqual(["taper", row[0].offer.key], [block.kind for block in self.layer("square").blocks])

    def test_a_click_adds_to_all_chosen_layers_and_undo_takes_it_back(self) -> None:
        chooser = self.open("square", "words")
        self.click(chooser.tiles["twirl"])
        for name in ("square", "words"):
            self.assertEqual([block.kind for block in self.layer(name).blocks], ["twirl"])
        self.assertEqual(self.session.history.undo_name, "Add Twirl")
        self.session.undo()
        self.assertEqual(self.layer("square").blocks, ())

    def test_it_works_by_keys(self) -> None:
        chooser = self.open("words")
        QTest.keyClicks(chooser.search, "posterise")
        tile = chooser.tiles["posterise"]
        tile.setFocus()
        self.press(tile, Qt.Key.Key_Space)
        self.assertEqual([block.kind for block in self.layer("words").blocks], ["posterise"])

    def test_details_asks_for_it_and_finishes_come_first_there(self) -> None:
        self.choose("words")
        self.session.effectAsked.emit(FINISH)
        chooser = self.chooser()
        self.assertEqual(chooser._sections[0][0].text(), "FINISHES")
        chooser.reject()

    def test_an_effect_layer_is_offered_no_finishes(self) -> None:
        soft = Layer("Soft", "effect", 0, 50, id="soft").with_values(position=(320.0, 240.0))
        self.session.edit("Add", lambda piece: evolve(piece, layers=(soft, *piece.layers)))
        chooser = self.open("soft")
        self.assertEqual({effect_kind(name).role for name in chooser.tiles if ": " not in name}, {EFFECT})
        self.assertIn("look: Film", chooser.tiles)
        self.assertNotIn("look: Sticker", chooser.tiles)
        chooser.reject()

    def test_without_a_layer_it_says_what_to_do(self) -> None:
        self.choose()
        self.act("Effects and finishes…")
        self.assertIn("Choose the layer", self.said[-1])

    # -- favourites, movement, look sets -----------------------------------------------------------------

    def titles(self, chooser: EffectsChooser) -> list[str]:
        return [title.text() for title, _, _ in chooser._sections]

    def test_a_star_makes_a_favourite_that_comes_first_and_is_remembered(self) -> None:
        chooser = self.open("square")
        tile = chooser.tiles["twirl"]
        self.click(tile, tile.star_place().center())
        self.assertEqual(self.layer("square").blocks, (), "the star adds nothing")
        self.assertEqual(self.titles(chooser)[0], "FAVOURITES")
        chooser.reject()
        again = self.open("square")
        first = again._sections[0][2]
        self.assertEqual([t.offer.key for t in first], ["twirl"])
        self.press(first[0], Qt.Key.Key_S)
        self.assertNotIn("FAVOURITES", self.titles(again))
        again.reject()

    def test_a_tile_moves_while_one_points_at_it(self) -> None:
        chooser = self.open("square")
        self.until(lambda: all(tile.picture is not None for tile in chooser.tiles.values()), 60)
        tile, other = chooser.tiles["invert"], chooser.tiles["twirl"]
        still, others = tile.picture, other.picture
        assert still is not None
        tile.setFocus()
        seen = []
        self.until(lambda: seen.append(tile.picture.toImage()) or len(distinct(seen)) >= 4, 20)
        self.assertIs(other.picture, others)
        other.setFocus()
        self.until(lambda: tile.picture is still)
        self.assertEqual(len(set(chooser.frames())), 16)
        self.assertEqual(chooser.frames()[0], self.session.frame)
        chooser.reject()

    def test_the_layers_effects_become_a_look_set_that_is_shared_and_taken_along(self) -> None:
        self.session.edit_layers("Add", lambda y: with_effect(with_effect(y, "twirl"), "halo"), ["square"])
        chooser = self.open("square")
        chooser.own_looks.keep("Curly")
        self.assertIn("own look: Curly", chooser.tiles)
        path = self.folder / "mine.looks.json"
        OWN.share(path)
        with mock.patch("spiralis.app.library.keeping.sure", return_value=True):
            chooser.own_looks.drop("Curly")
        self.assertNotIn("own look: Curly", chooser.tiles)
        chooser.own_looks.read(path)
        self.click(chooser.tiles["own look: Curly"])
        self.assertEqual([block.kind for block in self.layer("square").blocks], ["twirl", "halo"] * 2)
        self.assertEqual(self.session.history.undo_name, "Add Curly")
        OWN.drop("Curly")

    def test_a_file_of_something_else_is_said_and_changes_nothing(self) -> None:
        path = self.folder / "other.looks.json"
        path.write_text("{}")
        chooser = self.open("square")
        chooser.own_looks.read(path)
        self.assertIn("other.looks.json", self.said[-1])
        self.assertNotIn("YOUR LOOK SETS", self.titles(chooser))
        chooser.reject()


def distinct(images: list[QImage]) -> list[QImage]:
    found: list[QImage] = []
    for image in images:
        if image not in found:
            found.append(image)
    return found


if __name__ == "__main__":
    unittest.main()
