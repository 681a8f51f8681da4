"""The tone curve's editor and the colour lookup's list, as one uses them in Details."""

from __future__ import annotations

import unittest
from unittest import mock

import numpy as np
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtWidgets import QFileDialog

from spiralis.app.details.curve import CurveField
from spiralis.app.strips.add_strip import add_entries, add_kind
from spiralis.core.editing.effecting import moved_block, with_effect
from spiralis.core.model import Project, Source
from spiralis.core.render.acted_on import COLUMNS, histogram, picture_before
from tests.app.harness import WindowTest, sample_project
from tests.core.samples import cube


class CurveTest(WindowTest):
    def add(self, kind: str = "tone-curve", layer: str = "square") -> str:
        self.session.select([layer])
        self.session.edit_layers("Add", lambda y: with_effect(y, kind))
        self.settle()
        return self.layer(layer).blocks[-1].id

    def field(self, name: str = "all") -> CurveField:
        found = self.editor.details.editors[f"{self.block}.{name}"].field
        assert isinstance(found, CurveField)
        return found

    def points(self, name: str = "all") -> tuple[tuple[float, float], ...]:
        return tuple(self.value("square", f"{self.block}.{name}"))

    def red(self) -> int:
        """Return how red the middle of the square is."""
        picture = self.picture()
        return int(picture[picture.shape[0] // 2, picture.shape[1] // 4, 0])

    def test_a_point_is_made_moved_and_taken_off_and_the_picture_follows(self) -> None:
        before = self.red()
        self.block = self.add()
        field = self.field()
        self.drag(field, field.place(0.5, 0.5), field.place(0.5, 0.1))
        self.assertEqual(len(self.points()), 3)
        x, y = self.points()[1]
        self.assertAlmostEqual(x, 0.5, delta=0.03)
        self.assertAlmostEqual(y, 0.1, delta=0.03)
        self.assertEqual(self.red(), before, "pure red has no value in the middle")
        self.drag(field, field.place(1, 1), field.place(1, 0.5))
        self.assertAlmostEqual(self.red(), before / 2, delta=8)
        self.drag(field, field.place(*self.points()[1]), field.place(0.5, 2.5))
        self.assertEqual(len(self.points()), 2)
        self.session.undo()
        self.assertEqual(len(self.points()), 3)

    def test_points_do_not_pass_each_other_and_the_last_two_stay(self) -> None:
        self.block = self.add()
        field = self.field()
        self.drag(field, field.place(0, 0), field.place(1.5, 0.4))
        (x0, _), (x1, _) = self.points()
        self.assertLess(x0, x1)
        self.drag(field, field.place(*self.points()[1]), field.place(0.5, 3))
        self.assertEqual(len(self.points()), 2)

    def test_it_is_worked_with_the_keyboard(self) -> None:
        self.block = self.add()
        field = self.field()
        field.setFocus()
        self.press(field, Qt.Key.Key_Up)
        self.assertEqual(self.points()[0], (0.0, 0.01))
        self.press(field, Qt.Key.Key_PageUp)
        self.press(field, Qt.Key.Key_Down)
        self.assertEqual(self.points()[1], (1.0, 0.99))
        self.press(field, Qt.Key.Key_Delete)
        self.assertEqual(len(self.points()), 2)
        self.assertIsNotNone(self.session.composition.find("square"), "Delete in the field deletes no layer")

    def test_what_comes_in_is_counted_behind_the_curve(self) -> None:
        self.block = self.add()
        field = self.field()
        self.until(lambda: field.counts is not None)
        assert field.counts is not None
        self.assertEqual(field.counts.shape, (3, COLUMNS))
        # All is pure red: the last column of red, the first of green and blue.
        self.assertEqual([int(row.argmax()) for row in field.counts], [COLUMNS - 1, 0, 0])
        self.assertEqual(int((field.counts > 0.01).sum()), 3)
        first = field.counts
        self.session.edit_layers(
            "Change", lambda y: y.with_values(**{f"{self.block}.all": ((0.0, 0.2), (1.0, 1.0))}), ["square"]
        )
        editor = self.editor.details.editors[f"{self.block}.all"]
        self.until(lambda: editor.counted and not editor.counting)
        np.testing.assert_array_equal(self.field().counts, first)
        self.session.edit_layers("Invert", lambda y: with_effect(moved_block(y, self.block, 1), "invert"), ["square"])
        self.session.edit_layers("Move", lambda y: moved_block(y, self.block, 1), ["square"])
        self.settle()
        again = self.field()
        self.until(lambda: again.counts is not None)
        assert again.counts is not None
        self.assertEqual([int(row.argmax()) for row in again.counts], [0, COLUMNS - 1, COLUMNS - 1])

    def test_the_picture_before_is_what_lies_beneath_an_effect_layer(self) -> None:
        add_kind(self.session, "effect", dict(add_entries())["effect"])
        top = self.session.composition.layers[0]
        self.session.edit_layers("Add", lambda y: with_effect(y, "tone-curve"), [top.id])
        block = self.session.composition.layers[0].blocks[0].id
        seen = picture_before(self.session.project, self.session.composition, top.id, block, 0)
        counts = histogram(seen)
        # The backdrop of (0.1, 0.2, 0.3) fills most of the frame.
        self.assertEqual([int(row.argmax()) for row in counts], [int(v * COLUMNS) for v in (0.1, 0.2, 0.3)])

    def test_details_shows_an_effect_that_was_just_added(self) -> None:
        self.block = self.add()
        area = self.editor.details.page
        self.until(lambda: not self.editor.details.building)
        self.settle()
        top = self.field().mapTo(area.viewport(), QPointF(0, 0).toPoint()).y()
        self.assertTrue(0 <= top < area.viewport().height(), top)


def with_table() -> Project:
    table = Source("Evening.cube", "e" * 64, ".cube", 0, 0, "lookup", "look", data=cube())
    return sample_project().with_source(table)[0]


class LookupTest(WindowTest):
    sample = staticmethod(with_table)

    def test_a_table_is_chosen_and_seen(self) -> None:
        before = self.picture().copy()
        self.session.select(["square"])
        self.session.edit_layers("Add", lambda y: with_effect(y, "colour-lookup"))
        self.settle()
        block = self.layer("square").blocks[-1].id
        box = self.editor.details.editors[f"{block}.lookup"].box
        self.assertEqual([box.itemText(i) for i in range(box.count())], ["none", "Evening.cube", "Bring a file in…"])
        np.testing.assert_array_equal(self.picture(), before)
        box.setFocus()
        self.press(box, Qt.Key.Key_Down)
        self.assertEqual(self.value("square", f"{block}.lookup"), self.session.project.sources[-1].id)
        self.assertGreater(int(np.abs(self.picture().astype(int) - before).max()), 30)

    def test_a_file_that_is_brought_in_for_the_effect_is_its_table_in_one_step(self) -> None:
        self.session.select(["square"])
        self.session.edit_layers("Add", lambda y: with_effect(y, "colour-lookup"))
        self.settle()
        block = self.layer("square").blocks[-1].id
        path = self.folder / "Noon.cube"
        path.write_bytes(cube(seed=4))
        before = self.session.project
        box = self.editor.details.editors[f"{block}.lookup"].box
        with mock.patch.object(QFileDialog, "getOpenFileName", return_value=("", "")) as asked:
            box.activated.emit(box.count() - 1)
        self.assertIn("*.cube", asked.call_args.args[3])
        self.assertNotIn("*.png", asked.call_args.args[3])
        self.assertTrue(self.session.project is before and box.currentText() == "none")
        with mock.patch.object(QFileDialog, "getOpenFileName", return_value=(str(path), "")):
            box.activated.emit(box.count() - 1)
        self.until(lambda: self.session.project is not before)
        self.settle()
        held = self.session.project.source(str(self.value("square", f"{block}.lookup")))
        assert held is not None
        box = self.editor.details.editors[f"{block}.lookup"].box
        self.assertEqual(("Noon.cube", "Noon.cube"), (held.name, box.currentText()))
        self.act("Undo")
        self.assertTrue(self.session.project is before)

    def test_a_dropped_table_joins_the_project_and_adds_no_layer(self) -> None:
        path = self.folder / "Noon.cube"
        path.write_bytes(cube(seed=4))
        layers = len(self.session.composition.layers)
        told: list[str] = []
        self.session.said.connect(told.append)
        self.drop([path], self.on_canvas(100, 100))
        self.assertEqual(len(self.session.composition.layers), layers)
        self.assertIn("Noon.cube", [source.name for source in self.session.project.sources])
        self.assertIn("Colour lookup", " ".join(told))


if __name__ == "__main__":
    unittest.main()
