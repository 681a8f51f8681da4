"""Effects and finishes in Details, by mouse and keys: add, change, key, reorder, switch, copy, delete."""

from __future__ import annotations

import math
import unittest

import numpy as np
from attrs import evolve
from PyQt6.QtCore import QPointF
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QCheckBox, QMenu, QToolButton

from spiralis.app.details.editor import Editor
from spiralis.app.details.section import Section
from spiralis.app.widgets.fields import ListField, NumberField
from spiralis.core.editing.effecting import with_effect
from tests.app.harness import LEFT, NONE, SHIFT, WindowTest


class EffectsTest(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        self.session.select(["words"])
        self.settle()

    def tool(self, name: str) -> QToolButton:
        def found() -> list[QToolButton]:
            return [t for t in self.editor.details.findChildren(QToolButton) if t.accessibleName() == name]

        # Details builds its sections one after the other, whenever the window has time.
        self.until(lambda: bool(found()))
        return found()[0]

    def choose(self, menu: QMenu, *labels: str) -> None:
        """Choose an entry of a menu, through submenus."""
        menu.aboutToShow.emit()
        for label in labels:
            action = next(a for a in menu.actions() if a.text() == label)
            if action.menu() is None:
                action.trigger()
                self.settle()
                return
            menu = action.menu()

    def add(self, section: str, *labels: str) -> str:
        """Add an effect or a finish and return its block's id."""
        self.choose(self.tool(f"Add to {section}").menu(), *labels)
        return self.layer("words").blocks[-1].id

    def field(self, name: str, kind: type = NumberField) -> NumberField:
        return self.editor.details.editors[name].findChild(kind)

    def test_a_blur_is_added_changed_keyed_and_seen(self) -> None:
        sharp = self.picture().astype(int)
        block = self.add("effects", "Soften", "Gaussian blur")
        self.assertGreater(np.abs(self.picture().astype(int) - sharp).max(), 60)
        self.editor.details.area.ensureWidgetVisible(self.field(f"{block}.across"))
        self.enter_number(self.field(f"{block}.across"), "30")
        self.assertEqual(30.0, self.value("words", f"{block}.across"))
        self.click(self.editor.details.beads[f"{block}.across"])
        self.session.go_to(10)
        self.settle()
        self.enter_number(self.field(f"{block}.across"), "0")
        self.assertEqual([0, 10], [key.frame for key in self.layer("words").track(f"{block}.across").keys])
        rows = self.editor.timeline.rows.rows()
        self.assertIn(f"{block}.across", [row.name for row in rows])
        self.drag(self.editor.timeline.rows, self.bead("words", f"{block}.across", 10),
                  self.bead("words", f"{block}.across", 10) + (self.bead("square", "position", 20)
                                                              - self.bead("square", "position", 10)))  # fmt: skip
        self.assertEqual([0, 20], [key.frame for key in self.layer("words").track(f"{block}.across").keys])

    def bead(self, layer: str, name: str, frame: int):  # type: ignore[no-untyped-def]
        from PyQt6.QtCore import QPointF

        rows = self.editor.timeline.rows
        row = next(r for r in rows.rows() if r.layer.id == layer and r.name in (name, None))
        row = next((r for r in rows.rows() if r.layer.id == layer and r.name == name), row)
        return QPointF(rows.axis().x(frame), row.middle)

    def test_switch_order_copy_and_delete(self) -> None:
        plain = self.picture().astype(int)
        halo = self.add("finishes", "Halo")
        blur = self.add("effects", "Soften", "Gaussian blur")
        grade = self.add("effects", "Colour", "Grade")
        self.assertEqual([halo, blur, grade], [b.id for b in self.layer("words").blocks])
        self.click(self.tool("Earlier: Grade"))
        self.assertEqual([halo, grade, blur], [b.id for b in self.layer("words").blocks])
        self.choose(self.tool("More for Gaussian blur").menu(), "Delete")
        self.click(self.editor.details.editors[f"{halo}.on"].findChild(QCheckBox))
        self.assertFalse(self.value("words", f"{halo}.on"))
        self.assertLessEqual(np.abs(self.picture().astype(int) - plain).max(), 1)
        self.choose(self.tool("More for Grade").menu(), "Copy all of the layer")
        self.session.select(["square"])
        self.settle()
        self.act("Paste")
        self.assertEqual(["halo", "grade"], [b.kind for b in self.layer("square").blocks])
        self.assertFalse({b.id for b in self.layer("square").blocks} & {halo, grade})
        self.act("Undo")
        self.assertEqual((), self.layer("square").blocks)

    def sections(self) -> list[str]:
        """Return the titles of Details from the top."""
        page = self.editor.details.page
        found = [section for section in page.findChildren(Section) if section.parent() is page.widget()]
        return [section.head.text().capitalize() for section in sorted(found, key=lambda section: section.y())]

    def test_each_number_of_an_effect_has_one_row_beneath_its_effect(self) -> None:
        blur, halo = self.add("effects", "Soften", "Gaussian blur"), self.add("finishes", "Halo")
        for chosen in (["square"], ["words"]):
            self.session.select(chosen)
            self.settle(0.2)
        page = self.editor.details.page
        rows = [editor.parameter.name for editor in page.findChildren(Editor)]
        self.assertEqual(len(set(rows)), len(rows))
        self.assertLessEqual({f"{blur}.across", f"{halo}.size"}, set(rows))
        self.settle(0.2)
        titles = self.sections()
        self.assertLess(titles.index("Look"), titles.index("Finishes"))
        self.assertEqual(["Finishes", "Halo", "Effects", "Gaussian blur"], titles[titles.index("Finishes") :][:4])

    def test_a_layer_and_its_copies_share_the_rows_of_their_effects(self) -> None:
        blur = self.add("effects", "Soften", "Gaussian blur")
        self.act("Duplicate")
        copy = self.session.layers[0].id
        self.session.edit_layers("More", lambda y: with_effect(y, "halo"), [copy])
        self.session.select(["words", copy])
        self.settle(0.2)
        self.enter_number(self.field(f"{blur}.across"), "9")
        self.assertEqual([9.0, 9.0], [self.value(name, f"{blur}.across") for name in ("words", copy)])
        self.assertNotIn("Halo", self.sections())
        self.choose(self.tool("More for Gaussian blur").menu(), "Delete")
        self.assertEqual([[], ["halo"]], [[b.kind for b in self.layer(name).blocks] for name in ("words", copy)])

    def test_before_shows_it_without_effects_while_held_and_edits_nothing(self) -> None:
        plain = self.picture().astype(int)
        self.add("effects", "Soften", "Gaussian blur")
        soft = self.picture().astype(int)
        steps, before = self.session.history.undo_name, self.tool("Before: without effects while it is held")
        QTest.mousePress(before, LEFT, NONE, before.rect().center())
        np.testing.assert_array_equal(self.picture().astype(int), plain)
        self.assertEqual(len(self.layer("words").blocks), 1)
        QTest.mouseRelease(before, LEFT, NONE, before.rect().center())
        np.testing.assert_array_equal(self.picture().astype(int), soft)
        self.assertEqual((self.session.history.undo_name, self.session.history.redo_name), (steps, None))
        # An edit in between ends it.
        QTest.mousePress(before, LEFT, NONE, before.rect().center())
        self.session.set_property("opacity", 50.0, ["words"])
        self.assertEqual(self.session.pictured, (self.session.project, self.session.version))
        QTest.mouseRelease(before, LEFT, NONE, before.rect().center())

    def test_an_angle_is_turned_by_its_dial_over_whole_turns(self) -> None:
        block = self.add("effects", "Soften", "Directional blur")
        editor = self.editor.details.editors[f"{block}.angle"]
        dial = editor.dial
        middle = QPointF(12, 12)
        self.editor.details.area.ensureWidgetVisible(dial)
        self.session.set_property(f"{block}.angle", 0.0, ["words"])
        self.settle()
        self.drag(dial, middle + QPointF(8, 0), middle + QPointF(0, 8))
        self.assertAlmostEqual(self.value("words", f"{block}.angle"), 90.0, delta=2)
        names = self.session.history.undo_name
        QTest.mousePress(dial, LEFT, NONE, (middle + QPointF(0, 8)).toPoint())
        for degrees in range(90, 460, 30):
            way = QPointF(math.cos(math.radians(degrees)), math.sin(math.radians(degrees))) * 9
            self._move(dial, middle + way, NONE)
        QTest.mouseRelease(dial, LEFT, NONE, middle.toPoint())
        self.settle()
        self.assertAlmostEqual(self.value("words", f"{block}.angle"), 450.0, delta=8)
        self.assertEqual(self.session.history.undo_name, names)
        self.drag(dial, middle + QPointF(0, 8), middle + QPointF(-7, 3), SHIFT)
        self.assertEqual(self.value("words", f"{block}.angle") % 15, 0.0)

    def test_a_seed_is_thrown_and_all_numbers_are_reset(self) -> None:
        block = self.add("effects", "Break up", "Strips")
        dice = self.tool("Seed: throw the dice")
        seen = {self.value("words", f"{block}.seed")}
        for _ in range(4):
            dice.click()
            self.settle()
            seen.add(self.value("words", f"{block}.seed"))
        self.assertGreater(len(seen), 2)
        self.session.set_property(f"{block}.shift", 11.0, ["words"])
        self.session.set_property(f"{block}.on", False, ["words"])
        self.settle()
        self.choose(self.tool("More for Strips").menu(), "Reset all numbers")
        self.assertEqual((self.value("words", f"{block}.seed"), self.value("words", f"{block}.shift")), (1.0, 60.0))
        self.assertFalse(self.value("words", f"{block}.on"), "its switch is no number")
        self.assertEqual(self.session.history.undo_name, "Reset Strips")

    def test_buttons_mean_the_layer_that_is_chosen_now(self) -> None:
        halo = self.add("finishes", "Halo")
        self.add("effects", "Colour", "Grade")
        like = evolve(self.layer("words"), id="like", name="Like")
        piece = self.session.composition
        self.session.edit("Add", lambda old: evolve(old, layers=(like, *piece.layers)))
        self.session.select(["like"])
        self.settle()
        self.session.set_property(f"{halo}.size", 77.0)
        self.choose(self.tool("More for Halo").menu(), "Copy")
        self.choose(self.tool("More for Grade").menu(), "Delete")
        self.assertEqual(["halo"], [b.kind for b in self.layer("like").blocks])
        self.assertEqual(["halo", "grade"], [b.kind for b in self.layer("words").blocks])
        self.session.select(["square"])
        self.act("Paste")
        self.assertEqual(77.0, self.value("square", self.layer("square").blocks[0].named("size")))

    def test_the_switch_carries_hold_keys(self) -> None:
        halo = self.add("finishes", "Halo")
        self.click(self.editor.details.beads[f"{halo}.on"])
        self.session.go_to(5)
        self.settle()
        self.click(self.editor.details.editors[f"{halo}.on"].findChild(QCheckBox))
        self.assertEqual([True, False], [key.value for key in self.layer("words").track(f"{halo}.on").keys])

    def test_displaced_by_another_layer_and_never_by_itself_in_a_circle(self) -> None:
        block = self.add("effects", "Bend", "Displace")
        before = self.picture().astype(int)
        box = self.field(f"{block}.map", ListField)
        self.assertNotIn("words", [box.itemData(i) for i in range(box.count())])
        index = next(i for i in range(box.count()) if box.itemText(i) == "Ground")
        box.setCurrentIndex(index)
        box.activated.emit(index)
        self.settle()
        self.assertGreater(np.abs(self.picture().astype(int) - before).max(), 40)
        ground = box.itemData(index)
        self.session.select([ground])
        self.settle()
        self.choose(self.tool("Add to effects").menu(), "Bend", "Displace")
        own = self.layer(ground).blocks[0].named("map")
        self.session.set_property(own, "words")
        self.assertIn("circle", self.said[-1])
        self.assertEqual("", self.value(ground, own))

    def test_the_list_of_layers_shows_what_each_looks_like(self) -> None:
        block = self.add("effects", "Bend", "Displace")
        editor = self.editor.details.editors[f"{block}.map"]
        box = editor.box
        self.assertTrue(box.itemIcon(box.findData("square")).isNull(), "nothing is drawn before one looks")
        box.showPopup()
        self.until(lambda: not box.itemIcon(box.findData("square")).isNull())
        shown = box.itemIcon(box.findData("square")).pixmap(38, 38).toImage()
        self.assertGreater(shown.pixelColor(shown.width() // 2, shown.height() // 2).red(), 200)
        box.hidePopup()

    def test_a_number_of_an_effect_follows_another_layer(self) -> None:
        block = self.add("effects", "Soften", "Gaussian blur")
        from spiralis.app.commands.tying import tie

        tie(self.session, f"{block}.across", self.layer("square"), "opacity")
        self.assertEqual(100.0, self.value("words", f"{block}.across"))


class GroupsTest(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        self.session.select(["square", "words"])
        self.before = self.picture().astype(int)
        self.act("Group")
        self.group = self.session.layers[0].id

    def test_grouping_is_unseen_and_a_click_means_the_whole(self) -> None:
        self.assertLessEqual(np.abs(self.picture().astype(int) - self.before).max(), 1)
        self.assertEqual([self.group, "square", "words"], [y.id for y in self.session.composition.layers][:3])
        canvas = self.editor.canvas
        self.session.select([])
        self.click(canvas, self.on_canvas(480, 120))
        self.assertEqual((self.group,), self.session.selected)
        self.double_click(canvas, self.on_canvas(480, 120))
        self.assertEqual(("words",), self.session.selected)
        self.click(canvas, self.on_canvas(160, 240))
        self.assertEqual(("square",), self.session.selected, "inside, a click means a member")
        from PyQt6.QtCore import Qt

        self.press(canvas, Qt.Key.Key_Escape)
        self.assertEqual((self.group,), self.session.selected)

    def test_it_moves_fades_hides_and_is_deleted_as_one(self) -> None:
        canvas = self.editor.canvas
        self.drag(canvas, self.on_canvas(480, 120), self.on_canvas(440, 180))
        at = self.session.evaluated()
        self.assertAlmostEqual(440, at.matrix(self.layer("words")).apply(*self._middle("words"))[0], delta=6)
        self.session.set_property("opacity", 0.0)
        ground = self.picture()[5, 5].astype(int)
        self.assertLessEqual(np.abs(self.picture().astype(int) - ground).max(), 1)
        self.act("Undo")
        self.session.select([self.group])
        self.act("Delete")
        self.assertEqual(1, len(self.session.composition.layers))
        self.act("Undo")
        self.assertEqual((self.group,), self.session.selected, "undo brings the choice back")

    def _middle(self, layer: str) -> tuple[float, float]:
        left, top, right, bottom = self.session.evaluated().box(self.layer(layer))
        return (left + right) / 2, (top + bottom) / 2

    def test_parted_again_everything_is_where_it_was(self) -> None:
        self.act("Ungroup")
        self.assertIsNone(self.session.composition.find(self.group))
        self.assertEqual(("square", "words"), self.session.selected)
        self.assertLessEqual(np.abs(self.picture().astype(int) - self.before).max(), 1)

    def test_a_group_that_fades_says_why_it_cannot_be_parted(self) -> None:
        self.session.set_property("opacity", 50.0)
        self.act("Ungroup")
        self.assertIn("opacity", self.said[-1])
        self.assertIsNotNone(self.session.composition.find(self.group))

    def test_it_folds_and_moves_in_time_with_all_in_it(self) -> None:
        rows = self.editor.timeline.rows
        row = next(r for r in rows.rows() if r.layer.id == self.group)
        from PyQt6.QtCore import QPointF

        self.click(rows, QPointF(20, row.middle))
        self.assertNotIn("words", [r.layer.id for r in rows.rows()])
        self.click(rows, QPointF(20, row.middle))
        self.assertIn("words", [r.layer.id for r in rows.rows()])
        axis = rows.axis()
        self.drag(rows, QPointF(axis.x(30), row.middle), QPointF(axis.x(34), row.middle))
        self.assertEqual([4, 24], [key.frame for key in self.layer("square").track("position").keys])
        self.assertEqual(4, self.layer("words").first)

    def test_duplicated_and_pasted_with_all_in_it(self) -> None:
        self.session.select([self.group])
        self.act("Duplicate")
        copies = self.session.composition.members(self.session.selected[0])
        self.assertEqual(["Square 2", "Words 2"], [y.name for y in copies])
        self.act("Copy")
        self.act("Paste")
        pasted = [y for y in self.session.composition.layers if y.id in self.session.selected and y.gathers]
        self.assertEqual(2, len(self.session.composition.members(pasted[0].id)))


if __name__ == "__main__":
    unittest.main()
