"""Drags at the pace of the pictures: moves wait for what the last one did, and none is lost.

Pictures that take too long are coarser while one drags, and sharp as soon as the hand rests.
"""

from __future__ import annotations

import math
import time
from unittest import mock

import numpy as np
from attrs import evolve
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtTest import QTest

from spiralis.app.canvas.handles import frame_of
from spiralis.app.work import paced
from tests.app.harness import LEFT, NONE, WindowTest


class PacedTest(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        self.settle()
        self.session.select(["square"])
        self.canvas = self.editor.canvas
        self.player = self.window.player
        left, top, right, bottom = self.session.evaluated().box(self.layer("square"))
        middle = self.session.evaluated().matrix(self.layer("square")).apply((left + right) / 2, (top + bottom) / 2)
        self.grip = self.on_canvas(*middle)
        longest = mock.patch.object(paced, "LONGEST", 400)
        longest.start()
        self.addCleanup(longest.stop)

    def place(self) -> tuple[float, float]:
        return self.session.evaluated().values(self.layer("square"))["position"]

    def unseen(self, unseen: bool) -> None:
        patch = mock.patch.object(self.player, "unseen", return_value=unseen)
        patch.start()
        self.addCleanup(patch.stop)

    def begin(self) -> tuple[float, float]:
        """Press on the square and drag it a first time; return where it is then."""
        before = self.place()
        QTest.mousePress(self.canvas, LEFT, NONE, self.grip.toPoint())
        self._move(self.canvas, self.grip + QPointF(9, 0), NONE)
        self.assertNotEqual(self.place(), before)
        return self.place()

    def test_a_move_waits_until_the_picture_of_the_last_one_is_seen(self) -> None:
        self.unseen(True)
        first = self.begin()
        self._move(self.canvas, self.grip + QPointF(20, 0), NONE)
        self._move(self.canvas, self.grip + QPointF(33, 0), NONE)
        self.assertEqual(self.place(), first)
        self.unseen(False)
        started = time.perf_counter()
        self.until(lambda: self.place() != first)
        self.assertLess(time.perf_counter() - started, 0.2)
        self.assertGreater(self.place()[0] - first[0], (29 - 9) / self.canvas.viewport.zoom)

    def test_a_move_that_waited_does_not_come_after_a_newer_one(self) -> None:
        self.unseen(True)
        self.begin()
        self._move(self.canvas, self.grip + QPointF(90, 0), NONE)
        self.unseen(False)
        self._move(self.canvas, self.grip + QPointF(33, 0), NONE)
        newest = self.place()
        self.settle(0.5)
        self.assertEqual(self.place(), newest)

    def test_where_no_picture_comes_the_hand_is_followed_all_the_same(self) -> None:
        self.unseen(True)
        first = self.begin()
        self._move(self.canvas, self.grip + QPointF(20, 0), NONE)
        self.until(lambda: self.place() != first, 2)
        self.assertNotEqual(self.place(), first)

    def test_the_last_move_comes_before_the_release(self) -> None:
        self.unseen(True)
        first = self.begin()
        self._move(self.canvas, self.grip + QPointF(40, 0), NONE)
        QTest.mouseRelease(self.canvas, LEFT, NONE, (self.grip + QPointF(40, 0)).toPoint())
        self.assertGreater(self.place()[0] - first[0], (36 - 9) / self.canvas.viewport.zoom)
        after = self.place()
        self.settle(0.6)
        self.assertEqual(self.place(), after)
        self.session.undo()
        self.assertNotEqual(self.place()[0], first[0])

    def test_a_key_comes_after_the_move_before_it(self) -> None:
        self.unseen(True)
        first = self.begin()
        self._move(self.canvas, self.grip + QPointF(40, 0), NONE)
        QTest.keyPress(self.canvas, Qt.Key.Key_Shift)
        self.assertNotEqual(self.place(), first)

    def test_moves_without_a_button_do_not_wait(self) -> None:
        self.unseen(True)
        with mock.patch.object(self.canvas.hand, "move", return_value=True) as moved:
            for step in range(4):
                QTest.mouseMove(self.canvas, (self.grip + QPointF(step, 0)).toPoint())
            self.settle()
        self.assertGreaterEqual(moved.call_count, 1)

    def test_whole_turns_count_although_moves_wait(self) -> None:
        frame = frame_of(self.session, self.canvas.viewport.to_widget)
        assert frame is not None
        grip, pivot = QPointF(*frame.handles()["turn"]), QPointF(*frame.pivot_place)
        away = grip - pivot
        self.unseen(True)
        QTest.mousePress(self.canvas, LEFT, NONE, grip.toPoint())
        for degrees in range(0, 761, 40):
            angle = math.radians(degrees)
            across, down = math.cos(angle), math.sin(angle)
            place = pivot + QPointF(away.x() * across - away.y() * down, away.x() * down + away.y() * across)
            self._move(self.canvas, place, NONE)
        QTest.mouseRelease(self.canvas, LEFT, NONE, place.toPoint())
        self.assertAlmostEqual(self.session.evaluated().values(self.layer("square"))["rotation"], 760, delta=3)

    def test_numbers_that_are_dragged_wait_too(self) -> None:
        self.settle()
        field = self.editor.details.editors["opacity"].field
        QTest.mousePress(field, LEFT, NONE, field.rect().center())
        start = QPointF(field.rect().center())
        self._move(field, start - QPointF(10, 0), NONE)
        self.unseen(True)
        first = self.session.evaluated().values(self.layer("square"))["opacity"]
        self._move(field, start - QPointF(20, 0), NONE)
        self._move(field, start - QPointF(40, 0), NONE)
        self.assertEqual(self.session.evaluated().values(self.layer("square"))["opacity"], first)
        QTest.mouseRelease(field, LEFT, NONE, field.rect().center())
        self.assertLess(self.session.evaluated().values(self.layer("square"))["opacity"], first)


class CoarserDragsTest(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        self.player = self.window.player
        self.until(lambda: self.player.picture() is not None)
        self.whole = self.player.scale
        self.turn = 0

    def edit(self, seconds: float) -> None:
        """Edit once, and let the picture of it be there after so long."""
        self.turn += 1
        self.session.set_property("opacity", 50.0 + self.turn, ["square"], merge="drag")
        key = self.player.key(self.session.frame)
        self.player._hurry._asked = (key, time.perf_counter() - seconds)
        self.player._on_ready(key)

    def test_two_slow_pictures_make_the_next_ones_of_a_drag_coarser(self) -> None:
        self.player.drag(True)
        self.edit(0.2)
        self.edit(0.2)
        self.assertEqual(self.player.scale, self.whole)
        self.edit(0.001)
        self.assertAlmostEqual(self.player.scale, 0.6 * self.whole)
        for _ in range(5):
            self.edit(0.1)
        self.assertAlmostEqual(self.player.scale, 0.6 * self.whole)
        self.player.drag(False)
        self.assertEqual(self.player.scale, self.whole)

    def test_where_coarser_is_hardly_quicker_it_stays_whole(self) -> None:
        self.player.drag(True)
        for seconds in (0.2, 0.2, *([0.19, 0.05, 0.05] * 9)):
            self.edit(seconds)
        self.assertAlmostEqual(self.player.scale, 0.6 * self.whole)
        for _ in range(8):
            self.edit(0.19)
        for _ in range(6):
            self.edit(0.2)
            self.assertEqual(self.player.scale, self.whole)
        self.session.compositionChanged.emit()
        for _ in range(3):
            self.edit(0.2)
        self.assertLess(self.player.scale, self.whole)

    def test_pictures_that_edits_overtake_count_as_slow(self) -> None:
        hurry = self.player._hurry
        self.player.drag(True)
        for turn in range(3):
            self.session.set_property("opacity", 40.0 + turn, ["square"], merge="drag")
            hurry._asked = (self.player.key(self.session.frame), time.perf_counter() - 0.2)
        self.session.set_property("opacity", 60.0, ["square"], merge="drag")
        self.assertLess(self.player.scale, self.whole)
        self.player.drag(False)
        self.assertEqual(self.player.scale, self.whole)

    def test_the_last_picture_is_shown_until_the_newest_is_there_whatever_its_size(self) -> None:
        with mock.patch.object(self.player.maker, "want"):
            self.session.set_property("opacity", 31.0, ["square"])
            now = self.player.key(self.session.frame)
            coarse = evolve(now, version=now.version - 1, scale=0.7 * now.scale)
            picture = np.zeros((4, 4, 4), dtype=np.uint8)
            self.player.store.put(coarse, picture)
            self.player._on_ready(coarse)
            self.assertIs(self.player.latest_picture(), picture)
            self.assertIsNone(self.player.picture())
            self.session.go_to(self.session.frame + 1)
            self.assertIsNone(self.player.latest_picture())

    def test_nothing_waits_for_a_canvas_that_is_out_of_sight(self) -> None:
        self.window.repaint()
        self.until(lambda: not self.player.unseen())
        with mock.patch.object(self.player.maker, "want"):
            self.session.set_property("opacity", 31.0, ["square"])
            self.assertTrue(self.player.unseen())
            self.player.store.put(self.player.key(self.session.frame), np.zeros((4, 4, 4), dtype=np.uint8))
            self.assertTrue(self.player.unseen())
            self.editor.canvas.hide()
            self.assertFalse(self.player.unseen())
            self.editor.canvas.show()
            self.assertTrue(self.player.unseen())
            self.player.pictureChanged.emit()
            self.until(lambda: not self.player.unseen(), 5)
            self.assertFalse(self.player.unseen())

    def test_a_picture_that_is_there_is_not_waited_for(self) -> None:
        self.until(lambda: self.player.picture() is not None)
        self.player.drag(True)
        self.session.set_property("opacity", 33.0, ["square"], merge="drag")
        self.until(lambda: self.player.picture() is not None and self.player._hurry._asked is None)
        for _ in range(3):
            self.player._ask_one()
            time.sleep(0.05)
            self.assertIsNone(self.player._hurry._asked)
        self.assertEqual(self.player.scale, self.whole)

    def test_one_slow_picture_or_edits_without_a_drag_change_nothing(self) -> None:
        for _ in range(5):
            self.edit(0.2)
        self.assertEqual(self.player.scale, self.whole)
        self.player.drag(True)
        for _ in range(5):
            self.edit(0.2)
            self.edit(0.001)
        self.assertEqual(self.player.scale, self.whole)

    def test_a_hand_that_rests_and_holds_sees_it_sharp(self) -> None:
        self.player.drag(True)
        for _ in range(4):
            self.edit(0.2)
        self.assertLess(self.player.scale, self.whole)
        self.until(lambda: self.player.scale == self.whole, 5)
        self.assertEqual(self.player.scale, self.whole)
        self.until(lambda: self.player.picture() is not None, 5)
        self.edit(0.001)
        self.assertLess(self.player.scale, self.whole)

    def test_a_hand_that_moves_on_is_not_taken_to_rest(self) -> None:
        self.player.drag(True)
        for _ in range(4):
            self.edit(0.2)
        self.player.store.put(self.player.key(self.session.frame), np.zeros((4, 4, 4), dtype=np.uint8))
        coarse = self.player.scale
        self.assertLess(coarse, self.whole)
        with mock.patch.object(self.player.maker, "want") as wanted:
            self.player.drag(True)
            self.player.ask_all()
            self.assertEqual(self.player.scale, coarse)
            self.assertEqual(wanted.call_count, 0)
            time.sleep(0.2)
            self.player.ask_all()
            self.assertEqual(self.player.scale, self.whole)
            self.assertGreater(wanted.call_count, 0)

    def test_the_next_drag_is_as_coarse_until_pictures_are_quick_again(self) -> None:
        self.player.drag(True)
        for _ in range(3):
            self.edit(0.2)
        self.player.drag(False)
        self.player.drag(True)
        self.edit(0.001)
        self.assertAlmostEqual(self.player.scale, 0.6 * self.whole)
        self.player.drag(False)
        self.player.drag(True)
        self.edit(0.001)
        self.assertAlmostEqual(self.player.scale, self.whole)

    def test_a_chosen_resolution_and_another_piece_are_not_touched(self) -> None:
        self.player.share = 0.5
        self.player.drag(True)
        for _ in range(4):
            self.edit(0.2)
        self.assertEqual(self.player.scale, 0.5)
        self.player.share = None
        self.session.compositionChanged.emit()
        self.assertEqual(self.player.scale, self.whole)

    def test_a_drag_in_the_window_tells_and_its_end_too(self) -> None:
        canvas, start = self.editor.canvas, self.on_canvas(200, 200)
        with mock.patch.object(self.player, "drag") as told:
            self.drag(canvas, start, start + QPointF(30, 10))
        self.assertEqual(told.call_args_list[0].args, (True,))
        self.assertEqual(told.call_args_list[-1].args, (False,))
