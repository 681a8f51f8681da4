"""Drawings that are chosen together, or keys of one: each keeps its own outlines, whatever is done to all of them."""

from unittest import mock

from attrs import evolve
from PyQt6.QtCore import QPointF
from PyQt6.QtWidgets import QMenu

from spiralis.app.colours import ColourPanel
from spiralis.app.details.editors import DrawingsEditor
from spiralis.app.details.figures import ArtEditor
from spiralis.core.editing.keys import KeyRef
from spiralis.core.model import Key, Layer, Source, Track, Value
from spiralis.core.model.art import Bundle, Contour, Figure, Ramp, Stroke
from tests.app.harness import WindowTest

RED, GREEN, BLUE = (1.0, 0.0, 0.0, 1.0), (0.0, 1.0, 0.0, 1.0), (0.0, 0.0, 1.0, 1.0)


def drawing(side: float, *fills: tuple[float, float, float, float]) -> Bundle:
    """Return squares of a side, one a colour, each farther to the right."""

    def square(x: float) -> Contour:
        corners = ((x, 0.0), (x + side, 0.0), (x + side, side), (x, side))
        return Contour(tuple(corner * 3 for corner in corners), True)  # type: ignore[misc]

    return Bundle(tuple(Figure((square(2 * side * i),), fill) for i, fill in enumerate(fills)))


def outlines(art: Bundle) -> list[Value]:
    return [figure.contours for figure in art.items if isinstance(figure, Figure)]


def paints(art: Bundle) -> list[Value]:
    return [figure.fill for figure in art.items if isinstance(figure, Figure)]


def picked(*hexes: str, keep: bool = True):  # type: ignore[no-untyped-def]
    """Return what goes through colours in the panel and keeps the last one, or cancels."""

    def run(panel: ColourPanel) -> int:
        for text in hexes:
            panel.hex.setText(text)
            panel.hex.editingFinished.emit()
        return int(keep)

    return mock.patch.object(ColourPanel, "exec", run)


class SeveralDrawingsTest(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        self.arts = {"small": drawing(20, RED, GREEN), "large": drawing(60, RED, BLUE, GREEN)}
        layers = tuple(
            Layer(name, "shape", 0, 40, id=name).with_values(form="drawing", art=art, position=(200.0, 200.0))
            for name, art in self.arts.items()
        )
        self.session.edit("Draw", lambda piece: evolve(piece, layers=(*layers, *piece.layers)))
        self.choose("small", "large")

    def choose(self, *ids: str) -> None:
        self.session.select(ids)
        self.settle()

    @property
    def art(self) -> ArtEditor:
        editor = self.editor.details.editors["art"]
        assert isinstance(editor, ArtEditor)
        return editor

    def drawn(self, name: str) -> Bundle:
        art = self.value(name, "art")
        assert isinstance(art, Bundle)
        return art

    def check_outlines(self) -> None:
        for name, art in self.arts.items():
            self.assertTrue(outlines(self.drawn(name)) == outlines(art), f"{name} has outlines of another")

    def test_a_fill_is_given_to_all_and_outlines_stay(self) -> None:
        before = self.session.project
        with picked("#ffffff"):
            self.click(self.art.fill)
        self.check_outlines()
        for name in self.arts:
            self.assertEqual({(1.0, 1.0, 1.0, 1.0)}, set(paints(self.drawn(name))))
        self.act("Undo")
        self.assertTrue(self.session.project is before, "it is one step")

    def test_strokes_and_styles_leave_outlines_too(self) -> None:
        self.enter_number(self.art.width_, "7")
        self.enter_number(self.art.dash[0], "5")
        self.enter_number(self.art.dash[1], "3")
        self.art.style_.activated.emit(self.art.style_.findData("linear"))
        self.settle()
        self.check_outlines()
        for name in self.arts:
            for figure in self.drawn(name).items:
                assert isinstance(figure, Figure) and isinstance(figure.stroke, Stroke)
                self.assertEqual((7.0, (5.0, 3.0)), (figure.stroke.width, figure.stroke.dash))
        # Each gradient spans its own figure.
        fills = [fill for name in self.arts for fill in paints(self.drawn(name))]
        spans = [fill.points[2] - fill.points[0] for fill in fills if isinstance(fill, Ramp)]
        self.assertEqual([20, 20, 60, 60, 60], [round(span) for span in spans])

    def test_a_colour_throughout_changes_where_it_is(self) -> None:
        index = next(i for i, field in enumerate(self.art.fields) if field.value == GREEN)
        with picked("#ff0000", "#ffff00"):
            self.click(self.art.fields[index])
        yellow = (1.0, 1.0, 0.0, 1.0)
        self.assertEqual([RED, yellow], paints(self.drawn("small")), "on its way it was like the red")
        self.assertEqual([RED, BLUE, yellow], paints(self.drawn("large")))
        self.assertEqual([RED, yellow], [field.value for field in self.art.fields if field.isVisibleTo(self.art)])
        # What is kept as another one joins it for good.
        with picked("#ffff00"):
            self.click(self.art.fields[0])
        self.assertEqual([yellow, yellow], paints(self.drawn("small")))
        self.assertFalse(any(field.isVisibleTo(self.art) for field in self.art.fields))

    def test_colours_that_change_order_on_the_way_are_not_mixed_up(self) -> None:
        self.choose("large")
        order = [field.value for field in self.art.fields if field.isVisibleTo(self.art)]
        self.assertEqual([RED, BLUE, GREEN], order)
        with picked("#ff0000", "#123456", "#00ff00", "#ffffff", keep=True):
            self.click(self.art.fields[1])
        self.assertEqual([RED, (1.0, 1.0, 1.0, 1.0), GREEN], paints(self.drawn("large")))

    def test_keys_of_a_drawing_keep_what_each_shows(self) -> None:
        later = drawing(33, RED, GREEN)
        keys = (Key(0, self.arts["small"]), Key(20, later))
        self.session.edit_layers("Keys", lambda y: y.with_track("art", Track(keys[0].value, keys)), ["small"])
        self.session.go_to(7)
        self.session.select(["small"], [KeyRef("small", "art", 0), KeyRef("small", "art", 20)])
        self.settle()
        with picked("#0000ff"):
            self.click(self.art.fill)
        track = self.layer("small").track("art")
        self.assertEqual([0, 20], [key.frame for key in track.keys])
        self.assertTrue(outlines(track.keys[0].value) == outlines(self.arts["small"]))
        self.assertTrue(outlines(track.keys[1].value) == outlines(later))
        self.assertEqual([[BLUE, BLUE]] * 2, [paints(key.value) for key in track.keys])

    def test_what_lacks_the_colour_gets_no_key(self) -> None:
        key = Key(0, drawing(60, RED, BLUE))
        self.session.edit_layers("Key", lambda y: y.with_track("art", Track(self.arts["large"], (key,))), ["large"])
        self.session.go_to(9)
        self.choose("small", "large")
        with picked("#ffffff"):
            self.click(self.art.fields[1])
        self.assertEqual([RED, (1.0, 1.0, 1.0, 1.0)], paints(self.drawn("small")))
        self.assertEqual([0], [key.frame for key in self.layer("large").track("art").keys])


class SeveralListsTest(WindowTest):
    def test_what_has_as_many_parts_as_a_pair_is_no_pair(self) -> None:
        two = ((0.0, *RED), (1.0, *BLUE))
        three = ((0.0, *RED), (0.5, *GREEN), (1.0, *BLUE))
        layers = tuple(
            Layer(name, "backdrop", 0, 40, id=name).with_values(style="linear", stops=stops)
            for name, stops in (("a", two), ("b", three))
        )
        self.session.edit("Shapes", lambda piece: evolve(piece, layers=(*layers, *piece.layers)))
        self.session.select(["a", "b"])
        self.settle()
        field = self.editor.details.editors["stops"].field  # type: ignore[attr-defined]
        self.double_click(field, QPointF(field.width() * 0.7, 10))
        self.assertEqual(3, len(self.value("a", "stops")))
        self.assertEqual(self.value("a", "stops"), self.value("b", "stops"))
        keys = (Key(0, two), Key(20, two))
        self.session.edit_layers("Keys", lambda y: y.with_track("stops", Track(two, keys)), ["a"])
        self.session.select(["a"], [KeyRef("a", "stops", 0), KeyRef("a", "stops", 20)])
        self.settle()
        field = self.editor.details.editors["stops"].field  # type: ignore[attr-defined]
        self.double_click(field, QPointF(field.width() * 0.7, 10))
        self.assertEqual([3, 3], [len(key.value) for key in self.layer("a").track("stops").keys])

    def test_a_picture_is_ticked_for_each_and_their_lists_stay(self) -> None:
        sources = tuple(Source(name, name * 10, ".png", 8, 8, id=name) for name in ("one", "two", "three"))
        lists = {"a": (("one", 2), ("two", 1)), "b": (("two", 3), ("one", 1))}
        layers = tuple(
            Layer(name, "flipbook", 0, 40, id=name).with_values(drawings=shown) for name, shown in lists.items()
        )
        project = evolve(self.session.project, sources=(*self.session.project.sources, *sources))
        self.session.edit_project("Sources", project)
        self.session.edit("Flip", lambda piece: evolve(piece, layers=(*layers, *piece.layers)))
        self.session.select(["a", "b"])
        self.settle()
        self.tick("three")
        self.assertEqual({n: (*shown, ("three", 1)) for n, shown in lists.items()},
                         {n: self.layer(n).track("drawings").value for n in lists})  # fmt: skip
        self.tick("one")
        self.assertEqual({"a": (("two", 1), ("three", 1)), "b": (("two", 3), ("three", 1))},
                         {n: self.layer(n).track("drawings").value for n in lists})  # fmt: skip

    def tick(self, name: str) -> None:
        editor = self.editor.details.editors["drawings"]
        assert isinstance(editor, DrawingsEditor)
        menu: QMenu = editor.menu
        menu.aboutToShow.emit()
        next(action for action in menu.actions() if action.text() == name).trigger()
        self.settle()
