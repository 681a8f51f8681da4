"""The demo's pieces on the start page: which are shown, that they move under the pointer, and that they open."""

import unittest

from PyQt6.QtCore import QEvent, QPoint, QPointF
from PyQt6.QtGui import QEnterEvent
from PyQt6.QtWidgets import QApplication

from spiralis.app.project.start import FormatCard
from spiralis.app.project.studies import StudyTile, whole_pieces
from spiralis.core.model import Layer
from spiralis.demo.stored import stored_demo
from tests.app.harness import WindowTest
from tests.core.samples import piece, project


class WholePiecesTest(unittest.TestCase):
    def test_parts_of_others_are_not_shown(self) -> None:
        held = project()
        inner, outer = piece(), piece(Layer("Nest", "nested", 0, 20, id="n"))
        outer = outer.with_layer(outer.layer("n").with_values(composition=inner.id))
        held = held.with_composition(inner).with_composition(outer)
        names = [found.id for found in whole_pieces(held)]
        self.assertIn(outer.id, names)
        self.assertNotIn(inner.id, names)


class StudiesTest(WindowTest):
    sample = None

    def setUp(self) -> None:
        self.demo = stored_demo()
        super().setUp()
        self.studies = self.window.start.studies
        self.card = self.window.start.findChildren(FormatCard)[0]
        self.stood = self.card.mapTo(self.window, QPoint(0, 0))
        self.until(lambda: bool(self.studies.tiles), 30)

    def tile(self, name: str) -> StudyTile:
        return next(tile for tile in self.studies.tiles if tile.piece.name == name)

    def test_every_whole_piece_of_the_demo_has_a_picture(self) -> None:
        shown = [piece.name for piece in whole_pieces(self.demo) if piece.follows is None]
        self.assertEqual([tile.piece.name for tile in self.studies.tiles], shown)
        self.until(lambda: all(tile.picture() is not None for tile in self.studies.tiles), 60)
        picture = self.tile("Kite day").picture()
        assert picture is not None
        self.assertGreater(picture.width(), 60)

    def test_what_is_above_them_stays_where_it_was_as_they_come(self) -> None:
        self.settle()
        self.assertTrue(self.tile("Kite day").isVisible())
        self.assertEqual(self.card.mapTo(self.window, QPoint(0, 0)), self.stood)

    def test_one_moves_while_the_pointer_is_on_it(self) -> None:
        tile = self.tile("Tumbling box")
        middle = QPointF(tile.rect().center())
        QApplication.sendEvent(tile, QEnterEvent(middle, middle, middle))
        self.assertTrue(tile.moving)
        seen: set[int] = set()

        def moved() -> bool:
            shown = tile.picture()
            if shown is not None:
                seen.add(shown.cacheKey())
            return len(seen) > 3

        self.until(moved, 60)
        QApplication.sendEvent(tile, QEvent(QEvent.Type.Leave))
        self.assertFalse(tile.moving)

    def test_a_click_opens_the_demo_at_that_piece(self) -> None:
        self.click(self.tile("Bulb chase"))
        self.until(lambda: self.window.editing, 30)
        self.assertEqual(self.session.composition.name, "Bulb chase")


if __name__ == "__main__":
    unittest.main()
