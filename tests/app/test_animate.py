"""Keys and pace in the real window: a swing made from nothing, copied, stretched, reshaped; time, markers, frames."""

from __future__ import annotations

import math
import os
from unittest import mock

import numpy as np
from attrs import evolve
from PIL import Image
from PyQt6.QtCore import QEvent, QPoint, QPointF, Qt
from PyQt6.QtGui import QWheelEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QInputDialog, QWidget

from spiralis.app.details.fixed_rows import SpanEditor
from spiralis.app.frames.onion import skin_frames
from spiralis.app.timeline.layout import heights
from spiralis.app.widgets.asking import LiveDialog
from spiralis.app.widgets.fields import NumberField
from spiralis.app.widgets.short_label import ShortLabel
from spiralis.core.animation.ease_tiles import bounce, soft
from spiralis.core.animation.easing import LINEAR, CubicBezier
from spiralis.core.animation.tracks import evaluate
from spiralis.core.editing.edits import with_length
from spiralis.core.editing.keys import KeyRef
from spiralis.core.editing.linking import with_wobble
from spiralis.core.editing.spreading import ORDERS
from spiralis.core.model import Key, Rule, Track
from spiralis.core.model.drivers import Wobble
from spiralis.core.model.track import Extend
from spiralis.core.render.contact import contact_sheet
from tests.app.harness import ALT, CONTROL, LEFT, NONE, WindowTest


class AnimateTest(WindowTest):
    def frames(self, layer: str, name: str) -> list[int]:
        return [key.frame for key in self.layer(layer).track(name).keys]

    def keys(self, layer: str, name: str) -> set[KeyRef]:
        return {KeyRef(layer, name, frame) for frame in self.frames(layer, name)}

    def go(self, frame: int) -> None:
        self.click(self.editor.timeline.ruler, QPointF(self.editor.timeline.axis().x(frame), 24))
        self.assertEqual(self.session.frame, frame)

    def number(self, name: str, text: str) -> None:
        self.settle(0.08)
        self.enter_number(self.editor.details.editors[name].field, text)

    def live(self, values: dict[str, float | str]):  # type: ignore[no-untyped-def]
        """Stand in for a person at a live dialog: set values, then accept."""

        def run(dialog: LiveDialog) -> int:
            for name, value in values.items():
                field = dialog.fields[name]
                if isinstance(value, str):
                    field.setCurrentIndex(ORDERS.index(value))
                else:
                    field.show_value(value)
            dialog.apply()
            dialog.accept()
            return 1

        return mock.patch.object(LiveDialog, "exec", run)


class SwingTest(AnimateTest):
    def test_a_swing_from_nothing_copied_stretched_reshaped_and_undone(self) -> None:
        start = self.session.project
        self.session.select(["words"])
        self.editor.details.editors["pivot"].row.itemAt(0).widget()
        nine = self.editor.details.editors["pivot"].row.itemAt(0).widget()
        self.click(nine, QPointF(13, 24))
        self.assertEqual(self.value("words", "pivot"), (50.0, 100.0))
        self.go(20)
        self.click(self.editor.details.beads["rotation"])
        self.go(0)
        self.number("rotation", "90")
        self.assertEqual(self.frames("words", "rotation"), [0, 20])
        # Copied to the second layer: pasted at the playhead, by property.
        self.session.select(["words"], self.keys("words", "rotation"))
        self.act("Copy")
        self.session.select(["square"])
        self.go(5)
        self.act("Paste")
        self.assertEqual(self.frames("square", "rotation"), [5, 25])
        # Stretched by the end of the chosen keys' bar.
        ruler, axis = self.editor.timeline.ruler, self.editor.timeline.axis()
        self.drag(ruler, QPointF(axis.x(25), 38), QPointF(axis.x(45), 38))
        self.assertEqual(self.frames("square", "rotation"), [5, 45])
        # Reshaped in Pace: a tile, then the handle.
        self.click(self.editor.pace.tiles.tiles["overshoot"])
        curves = self.editor.pace.curves
        self.drag(curves, QPointF(curves.width() * 0.7, 40), QPointF(curves.width() * 0.5, 20))
        easing = self.layer("square").track("rotation").keys[0].easing
        self.assertIsInstance(easing, CubicBezier)
        self.assertNotEqual(easing, self.editor.pace.tiles.tiles["overshoot"].tile.easing)
        while self.session.history.undo_name:
            self.act("Undo")
        self.assertIs(self.session.project, start)

    def test_settle_stagger_and_vary_are_seen_before_they_are_taken(self) -> None:
        self.session.set_property("rotation", 0.0, ["words"])
        self.session.go_to(0)
        self.session.select(["square"], {KeyRef("square", "position", 20)})
        with self.live({"amount": 10.0, "count": 2.0, "time": 12.0}):
            self.act("Settle…")
        self.assertEqual(self.frames("square", "position"), [0, 20, 24, 32])
        value = self.layer("square").track("position").keys[1].value
        self.assertEqual(value, (424.0, 240.0))
        self.session.select(["square", "words"])
        with self.live({"step": 4.0, "order": "bottom up"}):
            self.act("Stagger…")
        self.assertEqual((self.layer("square").first, self.layer("words").first), (4, 0))
        self.assertEqual(self.session.history.undo_name, "Stagger")
        self.session.select(["square"])
        with self.live({"frames": 1.0, "seed": 5.0}):
            self.act("Vary…")
        varied = self.layer("square").track("position")
        self.act("Undo")
        self.assertNotEqual(self.layer("square").track("position"), varied)

    def test_fewer_keys_keep_the_motion_and_say_how_many_stay(self) -> None:
        way = [(160.0 + 5 * n, 240.0 - 100 * math.sin(math.pi * n / 40)) for n in range(41)]
        dense = Track(way[0], tuple(Key(n, place) for n, place in enumerate(way)))
        self.session.edit_layers("Trace", lambda y: y.with_track("position", dense), ["square"])
        before, said = self.session.project, list[str]()
        self.session.said.connect(said.append)
        self.session.select(["square"])
        with self.live({"off": 0.5}):
            self.act("Fewer keys…")
        made = self.layer("square").track("position")
        self.assertLess(len(made.keys), 8)
        at = np.arange(41)
        parameter = self.layer("square").parameter("position")
        off = np.linalg.norm(evaluate(made, parameter, at) - np.array(way), axis=1).max()
        self.assertLessEqual(off, 0.5)
        self.assertGreater(off, 1e-4)
        self.assertEqual({KeyRef("square", "position", key.frame) for key in made.keys}, self.session.keys)
        self.assertEqual(f"{len(made.keys)} of 41 keys stay; undo brings back the others.", said[-1])
        self.assertEqual("Fewer keys", self.session.history.undo_name)
        self.act("Undo")
        self.assertIs(before, self.session.project)
        # Keys alone that are chosen, and a motion of which none can go.
        self.session.select(["square"], {KeyRef("square", "position", n) for n in (10, 11)})
        with self.live({"off": 0.5}):
            self.act("Fewer keys…")
        self.assertIs(before, self.session.project)
        self.assertIn("all of them stay", said[-1])
        self.session.select(["square"])
        with mock.patch.object(LiveDialog, "exec", lambda dialog: dialog.reject()):
            self.act("Fewer keys…")
        self.assertIs(before, self.session.project)

    def test_a_cancelled_dialog_leaves_nothing(self) -> None:
        before = self.session.project
        self.session.select(["square", "words"])
        with mock.patch.object(LiveDialog, "exec", lambda dialog: dialog.reject()):
            self.act("Stagger…")
        self.assertIs(self.session.project, before)


class KeysMenuTest(AnimateTest):
    def test_reverse_mirror_align_and_close_the_gap(self) -> None:
        self.session.select(["square"], self.keys("square", "position"))
        self.act("Mirror keys: there and back")
        self.assertEqual(self.frames("square", "position"), [0, 20, 40])
        self.assertEqual(len(self.session.keys), 3)
        self.act("Reverse keys")
        self.session.select(["square"], {KeyRef("square", "position", 20)})
        self.act("Delete keys and close the gap")
        self.assertEqual(self.frames("square", "position"), [0, 20])
        self.session.go_to(10)
        self.session.select(["square"])
        self.act("Keys to the playhead")
        self.assertEqual(self.frames("square", "position"), [10, 30])

    def test_other_ways_to_paste(self) -> None:
        self.session.select(["square"], self.keys("square", "position"))
        self.act("Copy")
        self.session.select(["words"])
        self.session.go_to(7)
        self.act("Paste keys as differences")
        keys = self.layer("words").track("position").keys
        self.assertEqual([(k.frame, k.value) for k in keys], [(7, (480.0, 120.0)), (27, (720.0, 120.0))])
        self.act("Undo")
        self.act("Paste keys at their own frames")
        self.assertEqual(self.frames("words", "position"), [0, 20])
        self.session.select([])
        self.act("Paste pace alone")
        self.assertIn("Choose the layers", self.said[-1])

    def test_one_path_becomes_x_and_y_and_back(self) -> None:
        self.session.select(["square"])
        self.act("Position as one path or as x and y")
        self.assertEqual(self.layer("square").animated(), ["position_x", "position_y"])
        self.settle(0.1)
        self.number("position_y", "300")
        canvas = self.editor.canvas
        self.drag(canvas, self.on_canvas(160, 280), self.on_canvas(200, 280), CONTROL)
        self.assertAlmostEqual(self.value("square", "position")[0], 200.0, delta=2.0)
        self.act("Position as one path or as x and y")
        self.assertEqual(self.layer("square").animated(), ["position"])

    def test_the_switch_in_details_keeps_the_way(self) -> None:
        self.session.select(["square", "words"])
        before = {name: self.value(name, "position") for name in ("square", "words")}
        self.click(self.editor.details.editors["separate"].box)
        for name, place in before.items():
            self.assertTrue(self.layer(name).track("separate").value)
            self.assertEqual(place, (self.value(name, "position_x"), self.value(name, "position_y")))
        self.assertEqual(self.layer("square").animated(), ["position_x", "position_y"])
        self.session.select(["square"])
        self.settle(0.08)
        self.click(self.editor.details.editors["separate"].box)
        self.assertEqual(self.layer("square").animated(), ["position"])
        self.assertTrue(self.layer("words").track("separate").value)
        self.assertEqual(before["square"], self.value("square", "position"))
        self.session.edit_layers("Wobble", lambda y: with_wobble(y, "position", Wobble(5.0, 2.0)))
        self.settle(0.08)
        box = self.editor.details.editors["separate"].box
        self.click(box)
        self.settle(0.08)
        self.assertIn("is driven; bake it to keys first", self.said[-1])
        self.assertFalse(self.layer("square").track("separate").value)
        self.assertFalse(box.isChecked())

    def test_split_and_slip(self) -> None:
        self.session.select(["square"])
        self.go(12)
        self.act("Split at the playhead")
        self.assertEqual([(y.first, y.last) for y in self.session.composition.layers[:2]], [(12, 50), (0, 12)])
        self.assertEqual(len(self.session.layers), 1)


class TimeTest(AnimateTest):
    def wheel(self, x: float, keys: Qt.KeyboardModifier, steps: int) -> None:
        rows = self.editor.timeline.rows
        place = QPointF(x, 20)
        event = QWheelEvent(place, QPointF(rows.mapToGlobal(QPoint(0, 0))) + place, QPoint(), QPoint(0, 120 * steps),
                            Qt.MouseButton.NoButton, keys, Qt.ScrollPhase.NoScrollPhase, False)  # fmt: skip
        QApplication.sendEvent(self.editor.timeline, event)
        self.settle()

    def test_time_zooms_about_the_pointer_pans_and_follows(self) -> None:
        timeline = self.editor.timeline
        before = timeline.axis()
        self.wheel(before.x(25), CONTROL, 4)
        after = timeline.axis()
        self.assertGreater(after.per_frame, 2 * before.per_frame)
        self.assertAlmostEqual(after.x(25), before.x(25), delta=1.0)
        self.wheel(300, Qt.KeyboardModifier.ShiftModifier, -3)
        self.assertLess(timeline.axis().left, after.left)
        self.session.go_to(45)
        self.session.go_to(0)
        self.settle()
        self.assertGreaterEqual(timeline.axis().x(0), 184)
        self.act("Whole time")
        self.assertEqual(timeline.axis(), before)

    def test_dragged_keys_snap_to_playhead_and_markers(self) -> None:
        rows, axis = self.editor.timeline.rows, self.editor.timeline.axis()
        self.session.go_to(34)
        self.act("Marker here")
        self.session.go_to(3)
        bead = self.bead("square", "position", 20)
        near = QPointF(axis.x(34) - 4, bead.y())
        self.drag(rows, bead, near)
        self.assertEqual(self.frames("square", "position"), [0, 34])
        with mock.patch.object(QInputDialog, "getText", return_value=("turn", True)):
            self.double_click(self.editor.timeline.ruler, QPointF(axis.x(34), 24))
        self.assertEqual(self.session.composition.markers[0].name, "turn")
        self.drag(self.editor.timeline.ruler, QPointF(axis.x(34), 24), QPointF(axis.x(40), 24))
        self.assertEqual(self.session.composition.markers[0].frame, 40)
        self.act("Next marker")
        self.assertEqual(self.session.frame, 40)

    def test_counting_in_timecode(self) -> None:
        self.act("Count in timecode")
        self.assertEqual(self.session.view.unit, "timecode")
        self.editor.timeline.ruler.grab()

    def test_alt_on_a_threads_name_takes_that_property_everywhere(self) -> None:
        self.session.select(["words"])
        self.session.go_to(9)
        self.act("Key for position")
        row = next(r for r in self.editor.timeline.rows.rows() if r.name == "position" and r.layer.id == "square")
        self.click(self.editor.timeline.rows, QPointF(80, row.middle), ALT)
        self.assertEqual({ref.layer for ref in self.session.keys}, {"square", "words"})

    def test_a_mere_click_on_one_of_several_chosen_ones_chooses_it_alone(self) -> None:
        rows = self.editor.timeline.rows

        def label(layer: str) -> QPointF:
            return QPointF(90, next(r for r in rows.rows() if r.name is None and r.layer.id == layer).middle)

        keys = self.keys("square", "position")
        self.session.select(["square"], keys)
        self.drag(rows, self.bead("square", "position", 20), self.bead("square", "position", 20) + QPointF(30, 0))
        self.assertEqual(len(keys), len(self.session.keys), "what is dragged stays chosen")
        self.session.undo()
        self.session.select(["square"], keys)
        self.click(rows, self.bead("square", "position", 20))
        self.assertEqual({KeyRef("square", "position", 20)}, self.session.keys)
        order = [layer.id for layer in self.session.composition.layers]
        self.session.select(order)
        self.click(rows, label("square"))
        self.assertEqual(("square",), self.session.selected)
        self.session.select(["square", "words"])
        self.drag(rows, label(order[0]), label(order[-1]) + QPointF(0, 12))
        self.assertEqual({"square", "words"}, set(self.session.selected))
        self.assertNotEqual(order, [layer.id for layer in self.session.composition.layers])

    def test_a_key_set_on_a_later_round_leaves_what_is_seen(self) -> None:
        keys = (Key(0, 0.0, soft("soft-both")), Key(8, 40.0, soft("soft-both")), Key(16, 0.0, LINEAR))
        track = Track(0.0, keys, after=Extend(Rule.REPEAT))
        self.session.edit_layers("Rock", lambda y: y.with_track("rotation", track), ["square"])
        self.session.select(["square"])
        self.go(30)
        before = self.picture()
        self.click(self.editor.details.beads["rotation"])
        self.assertEqual([0, 8, 16, 24, 30, 32], self.frames("square", "rotation"))
        self.assertEqual(Rule.REPEAT, self.layer("square").track("rotation").after.rule)
        for frame in (12, 20, 28, 30, 41):
            self.go(frame)
            now = self.picture()
            self.act("Undo")
            np.testing.assert_allclose(self.picture().astype(int), now.astype(int), atol=2, err_msg=str(frame))
            self.act("Redo")
        self.go(30)
        np.testing.assert_allclose(self.picture().astype(int), before.astype(int), atol=2)
        self.enter_number(self.editor.details.editors["rotation"], "90")
        self.assertEqual([0, 8, 16, 24, 30, 32], self.frames("square", "rotation"))

    def test_a_key_set_on_the_way_changes_nothing_and_neither_does_its_removal(self) -> None:
        eased = Track(0.0, (Key(0, 0.0, soft("soft-both")), Key(20, 90.0)))
        self.session.edit_layers("Turn", lambda y: y.with_track("rotation", eased), ["square"])
        self.session.select(["square"])

        def values() -> list[float]:
            moments = [self.session.evaluated(frame) for frame in range(21)]
            return [float(at.values(self.layer("square"))["rotation"]) for at in moments]

        before = values()
        self.go(8)
        self.settle()
        self.click(self.editor.details.beads["rotation"])
        self.assertEqual([0, 8, 20], self.frames("square", "rotation"))
        np.testing.assert_allclose(values(), before, atol=1e-3)
        row = next(r for r in self.editor.timeline.rows.rows() if r.name == "rotation" and r.layer.id == "square")
        self.double_click(self.editor.timeline.rows, QPointF(self.editor.timeline.axis().x(13), row.middle))
        self.assertEqual([0, 8, 13, 20], self.frames("square", "rotation"))
        self.session.select(["square"], {KeyRef("square", "rotation", frame) for frame in (8, 13)})
        self.act("Delete")
        self.assertEqual([0, 20], self.frames("square", "rotation"))
        np.testing.assert_allclose(values(), before, atol=1e-2)

    def test_a_double_click_on_a_bead_goes_there_and_shift_chooses_from_the_first(self) -> None:
        rows = self.editor.timeline.rows
        self.double_click(rows, self.bead("square", "position", 20))
        self.assertEqual(20, self.session.frame)
        self.assertEqual([0, 20], self.frames("square", "position")[:2], "no key was added")
        self.session.select(())
        label = QPointF(90, next(r for r in rows.rows() if r.name is None and r.layer.id == "square").middle)
        self.click(rows, label, Qt.KeyboardModifier.ShiftModifier)
        self.assertEqual(("square",), self.session.selected)

    def test_a_click_between_two_keys_chooses_that_segment(self) -> None:
        turn = Track(0.0, (Key(0, 0.0), Key(10, 45.0), Key(20, 90.0)))
        self.session.edit_layers("Turn", lambda y: y.with_track("rotation", turn), ["square"])
        self.session.select(["words"])
        rows = self.editor.timeline.rows

        def press(name: str, frame: float, held: Qt.KeyboardModifier = NONE) -> set[KeyRef]:
            at = QPointF(rows.axis().x(frame), self.bead("square", name, 0).y())
            self.click(rows, at, held)
            self.settle()
            return set(self.session.keys)

        self.assertEqual({KeyRef("square", "rotation", 10)}, press("rotation", 15))
        self.assertEqual(("square",), self.session.selected)
        self.click(self.editor.pace.tiles.tiles["soft-start"])
        first, second, _ = self.layer("square").track("rotation").keys
        self.assertEqual((LINEAR, soft("soft-start")), (first.easing, second.easing))
        both = {KeyRef("square", "rotation", frame) for frame in (0, 10)}
        self.assertEqual(both, press("rotation", 5, CONTROL))
        self.assertEqual({KeyRef("square", "rotation", 10)}, press("rotation", 5, Qt.KeyboardModifier.ShiftModifier))
        self.assertEqual(both - {KeyRef("square", "rotation", 10)}, press("rotation", 5))
        self.assertEqual(set(), press("rotation", 30), "nothing runs after the last key")
        here, there = (QPointF(rows.axis().x(f), self.bead("square", "rotation", 0).y()) for f in (12, 24))
        self.drag(rows, here, there)
        self.assertEqual({KeyRef("square", "rotation", 20)}, self.session.keys, "a drag draws a box")

    def test_threads_are_chosen_beside_one_another_and_take_one_rule(self) -> None:
        turn = Track(0.0, (Key(0, 0.0), Key(20, 90.0)))
        self.session.edit_layers("Turn", lambda y: y.with_track("rotation", turn), ["square"])
        self.session.select(["square"])
        rows = self.editor.timeline.rows

        def press(name: str, held: Qt.KeyboardModifier) -> set[str]:
            row = next(r for r in rows.rows() if r.name == name and r.layer.id == "square")
            self.click(rows, QPointF(80, row.middle), held)
            self.settle()
            return {ref.name for ref in self.session.keys}

        for held in (CONTROL, Qt.KeyboardModifier.ShiftModifier):
            self.assertEqual({"position"}, press("position", Qt.KeyboardModifier.NoModifier))
            self.assertEqual({"position", "rotation"}, press("rotation", held))
            self.assertEqual({"position"}, press("rotation", held))
        press("rotation", CONTROL)
        box = self.editor.pace.rules["after"]
        box.setCurrentIndex(box.findText("Accumulate"))
        box.activated.emit(box.currentIndex())
        for name in ("position", "rotation"):
            self.assertIs(Rule.ACCUMULATE, self.layer("square").track(name).after.rule)
        self.assertEqual(("square",), self.session.selected)
        # A round that accumulates is drawn in its thread's row as the first one is.
        turning = self.layer("square")
        first, second = (
            heights(turning.track("rotation"), turning.parameter("rotation"), np.array([5.0, 15.0]) + add)
            for add in (0, 20)
        )
        np.testing.assert_allclose(first, second)
        self.session.select(["square"])
        box.setCurrentIndex(box.findText("Once"))
        box.activated.emit(box.currentIndex())
        rules = [self.layer("square").track(name).after.rule for name in ("position", "rotation")]
        self.assertEqual([Rule.ONCE, Rule.ACCUMULATE], rules)


class PaceModesTest(AnimateTest):
    def test_handles_over_time_and_the_speed_itself_bend_a_segment(self) -> None:
        self.session.select(["square"])
        pace = self.editor.pace
        self.click(pace.modes.button(1))
        self.settle(0.1)
        grip = next(g for g in pace.threads.grips() if g.number == 1)
        axis = pace.threads.axis()
        self.drag(pace.threads, grip.place, QPointF(axis.x(10), grip.place.y()))
        easing = self.layer("square").track("position").keys[0].easing
        self.assertAlmostEqual(easing.x1, 0.5, delta=0.06)
        self.click(pace.modes.button(0))
        area = pace.curves.areas()[1]
        self.drag(pace.curves, area.center(), QPointF(area.right() - 30, area.top() + 6))
        late = self.layer("square").track("position").keys[0].easing
        self.assertGreater(late.x1, 0.7)
        self.assertEqual((late.y1, late.y2), (0.0, 1.0))
        self.click(pace.modes.button(2))
        self.assertEqual(len(pace.compare.groups()), 1)

    def test_strengths_numbers_and_own_tiles(self) -> None:
        self.session.select(["square"])
        pace = self.editor.pace
        with mock.patch.dict(os.environ, {"XDG_CONFIG_HOME": str(self.folder)}):
            self.click(pace.tiles.strengths["strong"])
            self.click(pace.tiles.tiles["soft-both"])
            self.assertEqual(self.layer("square").track("position").keys[0].easing, soft("soft-both", "strong"))
            pace.tiles.keep("Heavy door")
            self.assertIn("own-Heavy door", pace.tiles.tiles)
            self.click(pace.tiles.tiles["bounce"])
            self.assertEqual(pace.labels[0].text(), "Bounces")
            self.enter_number(pace.start, "5")
            self.assertEqual(self.layer("square").track("position").keys[0].easing, bounce(5))
            self.click(pace.tiles.tiles["own-Heavy door"])
            self.assertEqual(self.layer("square").track("position").keys[0].easing, soft("soft-both", "strong"))
            (self.folder / "bad.eases.json").write_text("{}")
            pace.tiles.read(self.folder / "bad.eases.json")
            self.assertIn("holds no eases", self.said[-1])
        self.act("Straighten segments")
        self.assertEqual(self.layer("square").track("position").keys[0].easing, LINEAR)

    def test_hovering_a_tile_plays_it_on_the_canvas(self) -> None:
        self.session.select(["square"])
        preview = self.editor.canvas.ease_preview
        self.editor.pace.tiles.tiles["bounce"].entered.emit(bounce())
        self.settle(0.1)
        self.assertTrue(preview.playing)
        self.assertTrue(0 <= preview.frame() <= 20)
        before = self.session.project
        self.editor.canvas.grab()
        self.editor.pace.tiles.tiles["bounce"].entered.emit(None)
        self.assertFalse(preview.playing)
        self.assertIs(self.session.project, before)


class SeeTest(AnimateTest):
    def test_onion_skins_lie_around_the_playhead(self) -> None:
        self.assertEqual([f for f, _, _ in skin_frames(10, 2, 3, 50)], [4, 16, 7, 13])
        self.assertEqual([f for f, _, _ in skin_frames(1, 2, 3, 6)], [4])
        self.session.select(["square"])
        self.session.go_to(10)
        plain = self.editor.canvas.grab().toImage()
        self.act("Onion skin")
        onion = self.editor.canvas.onion
        self.until(lambda: len(onion._images) > 0)
        self.settle()
        skinned = self.editor.canvas.grab().toImage()
        place = self.on_canvas(215, 240).toPoint()
        self.assertNotEqual(plain.pixelColor(place), skinned.pixelColor(place))

    def test_a_contact_sheet_is_shown_and_written(self) -> None:
        self.act("Contact sheet and two frames…")
        window = self.window.windows.frames
        self.until(lambda: window.sheet.pixels is not None)
        window.sheet.write(self.folder / "sheet.png")
        with Image.open(self.folder / "sheet.png") as sheet:
            self.assertEqual(sheet.width, 4 * (112 + 8) + 8)
        window.sheet.write(self.folder / "nowhere" / "sheet.png")
        self.assertIn("may not be written", self.said[-1])
        before = (self.folder / "sheet.png").read_bytes()
        with mock.patch("os.fsync", side_effect=OSError(28, "No space left on device")):
            window.sheet.write(self.folder / "sheet.png")
        self.assertIn("The disk is full", self.said[-1])
        self.assertEqual(before, (self.folder / "sheet.png").read_bytes())
        self.assertEqual(["sheet.png"], [path.name for path in self.folder.iterdir()])
        with mock.patch("spiralis.app.frames.window.contact_sheet", side_effect=contact_sheet) as drawn:
            for opacity in range(30):
                self.session.set_property("opacity", float(opacity), ["words"], merge="drag")
                self._take_turn()
                self.assertFalse(window.sheet.writes.isEnabled(), "it is not the piece any more")
            self.until(lambda: window.sheet.pixels is not None)
            self.assertTrue(window.sheet.writes.isEnabled())
        self.assertLessEqual(drawn.call_count, 3)
        self.act("Contact sheet and two frames…")
        self.assertIs(window, self.window.windows.frames)
        self.until(lambda: len(window.pair.view.frames) == 2)
        first, last = (pixels for _, pixels in window.pair.view.frames)
        self.assertGreater(int(np.abs(first.astype(int) - last.astype(int)).max()), 100)
        self.click(window.pair.flick)
        window.pair.view.turn()
        window.close()

    def test_relative_changes_keep_differences(self) -> None:
        self.session.go_to(0)
        self.session.select(["square", "words"])
        self.settle(0.1)
        self.click(self.editor.details.relative)
        field = self.editor.details.editors["position"].fields[0]
        self.enter_number(field, str((field.value or 0) + 50))
        self.assertEqual((self.value("square", "position")[0], self.value("words", "position")[0]), (210.0, 530.0))

    def unlike(self, *names: str) -> list[bool]:
        """Return which of these rows of Details say that not all that is chosen has what they show."""
        self.settle(0.1)
        labels = {label.text(): label.note for label in self.editor.details.page.findChildren(ShortLabel)}
        return [bool(labels[name]) for name in names]

    def test_rows_say_where_the_chosen_layers_differ(self) -> None:
        rows = ("Position", "Opacity", "Span", "Parent", "Rotation")
        self.session.select(["square"])
        self.assertEqual([False] * 5, self.unlike(*rows))
        self.session.edit_layers("Span", lambda y: evolve(y, last=y.last - 3, parent="square"), ["words"])
        self.session.select(["square", "words"])
        self.assertEqual([True, False, True, True, False], self.unlike(*rows))
        # Two with the same keys are alike; one that wobbles besides is not.
        turning = Track(0.0, (Key(0, 0.0), Key(40, 90.0)))
        self.session.edit_layers("Turn", lambda y: y.with_track("rotation", turning))
        self.assertEqual([False], self.unlike("Rotation"))
        wandering = evolve(turning, wobble=Wobble(9.0))
        self.session.edit_layers("Turn", lambda y: y.with_track("rotation", wandering), ["words"])
        self.assertEqual([True], self.unlike("Rotation"))
        self.session.edit_layers("Turn", lambda y: y.with_track("rotation", Track(5.0)))
        self.enter_number(self.editor.details.editors["position"].fields[0], "80")
        self.enter_number(self.editor.details.editors["position"].fields[1], "60")
        self.assertEqual([False, False], self.unlike("Position", "Rotation"))

    def test_rows_say_where_the_chosen_keys_differ(self) -> None:
        self.session.select(["square"])
        keys = Track(0.0, (Key(0, 10.0), Key(20, 10.0), Key(40, 90.0)))
        self.session.edit_layers("Turn", lambda y: y.with_track("rotation", keys))
        self.session.select(["square"], [KeyRef("square", "rotation", frame) for frame in (0, 20)])
        self.assertEqual([False], self.unlike("Rotation"))
        self.session.select(["square"], [KeyRef("square", "rotation", frame) for frame in (20, 40)])
        self.assertEqual([True, False], self.unlike("Rotation", "Opacity"))

    def there_and_back(self, field: QWidget, far: float) -> None:
        """Drag a number far to one side, and on to 10 beside where it began, in one gesture."""
        middle = QPointF(field.rect().center())
        QTest.mousePress(field, LEFT, NONE, middle.toPoint())
        for way in (far / 4, far / 2, far, far / 2, 10.0):
            self._move(field, middle + QPointF(way, 0), NONE)
            self.settle()
        QTest.mouseRelease(field, LEFT, NONE, (middle + QPointF(10, 0)).toPoint())
        self.settle()

    def test_a_length_dragged_there_and_back_cuts_nothing_on_the_way(self) -> None:
        self.session.edit("Span", lambda piece: evolve(piece, play_span=(5, 40)))
        self.session.edit_layers("Span", lambda y: evolve(y, last=30), ["words"])
        self.session.select([])
        before = self.session.composition
        field = next(f for f in self.editor.details.page.findChildren(NumberField) if f.label == "Length")
        self.there_and_back(field, -45.0)
        self.assertEqual(with_length(before, before.length + 10), self.session.composition)
        self.act("Undo")
        self.assertEqual(before, self.session.composition)

    def test_what_else_changes_while_a_length_is_dragged_stays(self) -> None:
        self.session.select([])
        field = next(f for f in self.editor.details.page.findChildren(NumberField) if f.label == "Length")
        field.changed.emit(60.0)
        self.session.edit("Name", lambda piece: evolve(piece, name="Kite"))
        field.changed.emit(70.0)
        field.finished.emit()
        self.assertEqual(("Kite", 70), (self.session.composition.name, self.session.composition.length))

    def test_linked_scale_keeps_its_ratio_through_0(self) -> None:
        self.session.select(["words"])
        self.session.edit_layers("Scale", lambda y: evolve(y.with_values(scale=(100.0, 50.0)), linked_scale=True))
        self.settle(0.1)
        editor = self.editor.details.editors["scale"]
        self.there_and_back(editor.fields[0], -100.0)
        self.assertEqual((110.0, 55.0), self.value("words", "scale"))
        self.enter_number(editor.fields[1], "11")
        self.assertEqual((22.0, 11.0), self.value("words", "scale"))

    def test_an_end_of_the_span_of_several_layers_leaves_the_other_ends(self) -> None:
        spans = {"square": (4, 30), "words": (10, 44)}
        for name, (first, last) in spans.items():
            self.session.edit_layers("Span", lambda y, a=first, b=last: evolve(y, first=a, last=b), [name])
        self.session.select(["square", "words"])
        self.settle(0.1)
        first, last = self.editor.details.page.findChildren(SpanEditor)[0].fields

        def now() -> list[tuple[int, int]]:
            return [(self.layer(name).first, self.layer(name).last) for name in spans]

        self.assertEqual((4.0, 29.0), (first.value, last.value))
        self.enter_number(first, "7")
        self.assertEqual([(7, 30), (7, 44)], now())
        self.enter_number(last, "24")
        self.assertEqual([(7, 25), (7, 25)], now())
        self.act("Undo")
        self.assertEqual([(7, 30), (7, 44)], now())
        self.settle(0.1)
        self.click(self.editor.details.relative)
        self.enter_number(last, "31")
        self.assertEqual([(7, 32), (7, 46)], now())
        self.enter_number(first, "90")
        self.assertEqual([(7, 32), (7, 46)], now())
        self.assertIn("frame", self.said[-1])
        self.settle(0.1)
        self.assertEqual(7.0, first.value)

    def test_playing_goes_on_while_values_change(self) -> None:
        self.window.player.play()
        self.settle(0.2)
        self.session.edit_layers("Turn", lambda y: evolve(y.with_values(rotation=30.0)), ["words"])
        self.settle(0.2)
        self.assertTrue(self.window.player.playing)
        self.press(self.editor.canvas, Qt.Key.Key_Space)
        QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)

    def playing_from(self, frame: int) -> int:
        """Play, and return the frame under the playhead once it is past another one."""
        self.session.select(["square"])
        self.session.go_to(frame)
        self.settle()
        self.window.player.play()
        self.until(lambda: frame < self.session.frame < frame + 12)
        return self.session.frame

    def frames(self, name: str) -> list[int]:
        return [key.frame for key in self.session.composition.layer("square").track(name).keys]

    def test_a_drag_on_the_canvas_stops_playing_where_it_began(self) -> None:
        canvas = self.editor.canvas
        self.assertEqual([0, 20], self.frames("position"))
        frame = self.playing_from(3)
        x, y = self.value("square", "position")
        place = self.on_canvas(x, y + 20)
        QTest.mousePress(canvas, LEFT, NONE, place.toPoint())
        self.settle(0.2)
        self.assertTrue(self.window.player.playing)  # It may be a click, which only chooses.
        for step in range(1, 6):
            self._move(canvas, place + QPointF(0, 4 * step), CONTROL)
            self.settle(0.05)
        QTest.mouseRelease(canvas, LEFT, NONE, (place + QPointF(0, 20)).toPoint())
        self.settle()
        self.assertFalse(self.window.player.playing)
        self.assertEqual((frame, [0, frame, 20]), (self.session.frame, self.frames("position")))
        moved = self.value("square", "position")
        self.assertAlmostEqual(x, moved[0], delta=0.6)
        self.assertAlmostEqual(y + 20 / self.editor.canvas.viewport.zoom, moved[1], delta=0.6)

    def test_a_value_dragged_in_details_stops_playing_on_its_key_and_others_do_not(self) -> None:
        self.playing_from(3)
        for name, plays in (("rotation", True), ("position", False)):
            field = self.editor.details.editors[name].findChildren(NumberField)[0]
            middle = QPointF(field.rect().center())
            QTest.mousePress(field, LEFT, NONE, middle.toPoint())
            for step in range(1, 8):
                self._move(field, middle + QPointF(6 * step, 0), NONE)
                self.settle(0.05)
            QTest.mouseRelease(field, LEFT, NONE, (middle + QPointF(42, 0)).toPoint())
            self.settle()
            self.assertEqual(plays, self.window.player.playing, name)
        self.assertNotEqual(0.0, self.value("square", "rotation"))
        self.assertEqual({0, 20, self.session.frame}, set(self.frames("position")))

    def test_where_the_playhead_is_put_while_it_plays_it_stays(self) -> None:
        ways = [("Last frame", 49), ("First frame", 0)]
        for label, frame in ways:
            self.playing_from(3)
            self.act(label)
            self.settle(0.2)
            self.assertEqual((False, frame), (self.window.player.playing, self.session.frame), label)
        self.playing_from(3)
        self.double_click(self.editor.timeline.rows, self.bead("square", "position", 20))
        self.settle(0.2)
        self.assertEqual((False, 20), (self.window.player.playing, self.session.frame))
        # Undo, another choice and an edit of something else put it nowhere.
        self.session.edit_layers("Turn", lambda y: y.with_values(rotation=30.0), ["words"])
        self.playing_from(3)
        self.act("Undo")
        self.session.select(["words"])
        self.settle(0.2)
        self.assertTrue(self.window.player.playing)
