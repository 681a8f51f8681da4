"""Panels come in turns: Details by sections, frames ahead only when the window is idle, lines when there is time."""

from __future__ import annotations

import time
from unittest import mock

from attrs import evolve
from PyQt6 import sip
from PyQt6.QtCore import QEvent, QObject, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QWidget

from spiralis.app.details.section import Section
from spiralis.app.work.background import SmallPictures
from spiralis.app.work.beside import hold_others
from spiralis.app.work.making import FrameMaker, FrameRequest
from spiralis.app.work.staged import Staged
from spiralis.core.render.store import FrameKey, FrameStore
from tests.app.harness import WindowTest


class InTurnsTest(WindowTest):
    def sections(self) -> int:
        area = self.editor.details.area
        assert area is not None
        return len(area.findChildren(Section))

    def test_details_follows_in_a_later_turn_and_is_out_of_reach_until_then(self) -> None:
        details = self.editor.details
        self.session.select(["words"])
        self.settle()
        size, old = details.editors["size"].field, details.area
        self.session.select(["square"])
        self.assertIs(details.area, old)
        self.assertTrue(details.building)
        # A hand that was faster changes nothing by rows that are of another layer.
        before = self.session.project
        self.assertFalse(size.isEnabled())
        QTest.keyClick(size, Qt.Key.Key_Up)
        QTest.mouseClick(size, Qt.MouseButton.LeftButton)
        self.assertIs(self.session.project, before)
        self._take_turn()
        self.assertIsNot(details.area, old)
        self.settle()
        self.session.select(["words"])
        # Whoever asks for the rows gets those of what is chosen, and at once.
        self.assertIs(details.page, old)
        self.assertTrue(size.isEnabled())
        self.settle()
        self.assertTrue(size.updatesEnabled())

    def test_rows_that_serve_the_next_choice_too_are_painted_and_act_again(self) -> None:
        other = evolve(self.session.composition.layer("words"), id="other", name="Other")
        other = other.with_values(size=33.0)
        self.session.edit("Other", lambda piece: evolve(piece, layers=(other, *piece.layers)))
        self.session.select(["words"])
        self.settle()
        details = self.editor.details
        size, page, seen = details.editors["size"].field, details.area, details.grab().toImage()
        self.session.select(["other"])
        self.settle()
        self.assertIs(details.area, page)
        self.assertNotEqual(details.grab().toImage(), seen)
        self.enter_number(size, "44")
        self.assertEqual(self.value("other", "size"), 44.0)
        self.assertEqual(self.value("words", "size"), 80.0)

    def test_what_is_half_typed_goes_with_the_choice_and_not_with_the_rows(self) -> None:
        self.session.select(["words"])
        self.settle()
        size = self.editor.details.editors["size"].field
        self.click(size)
        self.type_(size, "200")
        before = self.session.project
        self.session.select(["square"])
        self.assertFalse(size.hasFocus())
        self.settle()
        self.assertIs(self.session.project, before)

    def test_details_builds_a_section_at_a_time_and_all_of_them(self) -> None:
        self.session.select(["words"])
        self.assertTrue(self.editor.details.building)
        self._take_turn()
        counts = [self.sections()]
        while self.editor.details.building:
            self._take_turn()
            counts.append(self.sections())
        self.assertEqual(counts[0], 0)
        self.assertLessEqual(max(b - a for a, b in zip(counts, counts[1:], strict=False)), 2)
        titles = [s.head.text() for s in self.editor.details.page.findChildren(Section)]
        self.assertEqual(titles[:5], ["CONTENT", "PLACE", "EDGES", "LOOK", "FINISHES"])
        self.assertEqual(titles[5:], ["EFFECTS", "MATTE", "MOVES", "TIMING"])

    def test_another_choice_meanwhile_leaves_no_wrong_rows(self) -> None:
        self.session.select(["words"])
        self._take_turn()
        self.session.select(["square"])
        self._take_turn()
        self.session.select(["words"])
        self.settle()
        self.assertIn("text", self.editor.details.editors)
        self.session.select(["square"])
        self.settle()
        self.assertNotIn("text", self.editor.details.editors)
        self.assertIn("source", self.editor.details.editors)
        self.assertFalse(self.editor.details.building)

    def test_an_undo_meanwhile_builds_the_rows_of_what_is_there(self) -> None:
        self.session.select(["words"])
        self.act("Words to outlines")
        self.session.select(["words"])
        self._take_turn()
        self.session.undo()
        self.settle()
        self.assertIn("text", self.editor.details.editors)
        self.assertNotIn("art", self.editor.details.editors)

    def test_sections_wait_for_an_awaited_picture_and_what_draws_it_rests_no_longer_but_not_for_ever(self) -> None:
        player, details = self.window.player, self.editor.details
        with mock.patch.object(player, "unseen", return_value=True):
            for chosen, row in (("words", "text"), ("square", "source")):
                # Another choice waits anew.
                kept = details.area
                self.session.select([chosen])
                ends = time.perf_counter() + 0.2
                while time.perf_counter() < ends:
                    self._take_turn()
                    self.assertTrue(details.area is kept or not self.sections())
                self.assertFalse(player.maker._resting)
                self.until(lambda: not details.building)
                self.assertIn(row, details.editors)
        self.until(lambda: not self.editor.details.building)
        self.session.select([])
        self.settle()
        self.session.select(["square"])
        with mock.patch.object(player, "unseen", return_value=True):
            self._take_turn()
        self.until(lambda: not self.editor.details.building)
        self.assertIn("source", self.editor.details.editors)

    def test_every_row_shows_its_value_as_soon_as_it_is_there(self) -> None:
        self.session.select(["words"])
        field = self.editor.details.editors["size"].field
        self.assertEqual(field.value, 80.0)


class IdleTest(WindowTest):
    """Frames that nobody waits for are begun only when the window has nothing else to do."""

    def request(self, frame: int, awaited: bool) -> FrameRequest:
        key = FrameKey(1, self.session.composition_id, frame, 0.1)
        return FrameRequest(self.session.project, key, awaited=awaited)

    def test_an_awaited_frame_is_made_at_once_and_one_ahead_is_not(self) -> None:
        store = FrameStore()
        maker = FrameMaker(store)
        try:
            ahead = self.request(3, awaited=False)
            maker.want([ahead])
            time.sleep(0.3)  # The window's thread answers nothing meanwhile.
            self.assertFalse(store.holds(ahead.key))
            awaited = self.request(4, awaited=True)
            maker.want([awaited])
            ends = time.perf_counter() + 5
            while not store.holds(awaited.key) and time.perf_counter() < ends:
                time.sleep(0.01)
            self.assertTrue(store.holds(awaited.key))
            maker.want([ahead])
            self.until(lambda: store.holds(ahead.key), 5)
        finally:
            maker.stop()

    def test_a_busy_window_keeps_them_waiting(self) -> None:
        store = FrameStore()
        maker = FrameMaker(store)
        try:
            wanted = [self.request(frame, awaited=False) for frame in range(6)]
            maker.want(wanted)
            for _ in range(20):  # Always something to do: posted events come before a timer of no length.
                self.app.sendPostedEvents(None, QEvent.Type.MetaCall.value)
                time.sleep(0.005)
            self.assertEqual(sum(store.holds(request.key) for request in wanted), 0)
            self.until(lambda: all(store.holds(request.key) for request in wanted), 10)
        finally:
            maker.stop()

    def test_what_is_chosen_comes_before_frames_ahead(self) -> None:
        self.picture()
        self.session.edit_layers("Turn", lambda layer: layer.with_values(rotation=5.0), ["square"])
        self.until(lambda: self.window.player.picture() is not None)
        made = len(self.window.player.ready_frames())
        self.session.select(["words"])
        QTest.qWait(100)
        self.assertLessEqual(len(self.window.player.ready_frames()), made + 2)
        self.until(lambda: len(self.window.player.ready_frames()) >= 40, 20)

    def test_ready_frames_are_told_as_runs(self) -> None:
        self.picture()
        player = self.window.player
        self.until(lambda: len(player.ready_frames()) == 50, 20)
        self.assertEqual(player.ready_runs(), [(0, 50)])
        player.ready_frames = lambda: {1, 2, 3, 7, 9, 10}  # type: ignore[method-assign]
        self.assertEqual(player.ready_runs(), [(1, 4), (7, 8), (9, 11)])


class HoldingTest(WindowTest):
    """What nobody waits for rests while panels come in turns, and never for longer."""

    def test_small_pictures_begin_only_after_the_panels(self) -> None:
        pictures = SmallPictures(self.window)
        made: list[int] = []
        holder = QObject()
        hold_others(holder, True)
        pictures.of("a", lambda: made.append(1))
        for _ in range(30):
            self._take_turn()
        self.assertEqual(made, [])
        self.assertTrue(pictures.busy)
        hold_others(holder, False)
        self.until(lambda: not pictures.busy)
        self.assertEqual(made, [1])

    def test_what_is_in_sight_comes_first_and_frames_ahead_come_after_small_pictures(self) -> None:
        pictures, order, holder = SmallPictures(self.window), list[str](), QObject()
        hold_others(holder, True)
        for key in "abc":
            pictures.of(key, lambda key=key: order.append(key))
        pictures.of("c", lambda: None, first=True)
        self.assertTrue(SmallPictures.any_wanted())
        hold_others(holder, False)
        self.until(lambda: not pictures.busy)
        self.assertEqual(order, ["c", "a", "b"])
        self.until(lambda: not SmallPictures.any_wanted())
        gone = SmallPictures(self.window)
        hold_others(holder, True)
        gone.of("a", lambda: None)
        self.assertTrue(SmallPictures.any_wanted())
        sip.delete(gone)
        self.assertFalse(SmallPictures.any_wanted())
        hold_others(holder, False)

    def test_one_holder_of_two_is_enough_to_hold(self) -> None:
        pictures = SmallPictures(self.window)
        one, other = QObject(), QObject()
        hold_others(one, True)
        hold_others(other, True)
        hold_others(one, False)
        pictures.of("a", lambda: None)
        for _ in range(30):
            self._take_turn()
        self.assertTrue(pictures.busy)
        hold_others(other, False)
        self.until(lambda: not pictures.busy)

    def test_what_goes_while_it_holds_lets_go(self) -> None:
        parent = QObject()
        panel = QWidget()
        staged = Staged(parent, (panel,), holds=True, building=lambda: True)
        staged.begin()
        pictures = SmallPictures(self.window)
        pictures.of("a", lambda: None)
        for _ in range(30):
            self._take_turn()
        self.assertTrue(pictures.busy)
        sip.delete(parent)
        self.until(lambda: not pictures.busy)



class CoarserTest(WindowTest):
    """Playing drops resolution before time, also where that shows only once it plays."""

    def late_ticks(self, seconds: float, count: int) -> None:
        """Let frames be due one after the other, none of which is ready, at a cost that is known."""
        player = self.window.player
        with (
            mock.patch.object(player.store, "holds", return_value=False), mock.patch.object(player, "ask_all"),
            mock.patch.object(player, "frame_at", side_effect=range(1, count + 1)),
        ):  # fmt: skip
            for _ in range(count):
                player.maker._costs[player.session.composition_id, player.scale] = seconds
                player._tick()

    def test_frames_that_come_too_late_in_a_row_make_it_coarser_and_stopping_sharp_again(self) -> None:
        player = self.window.player
        whole = player.scale
        player.play()
        self.late_ticks(10.0, 1)
        self.assertEqual(player.scale, whole)
        self.late_ticks(10.0, 2)
        self.assertLess(player.scale, whole)
        self.late_ticks(10.0, 20)
        self.assertAlmostEqual(player.scale, whole / 4)
        player.stop()
        self.assertEqual(player.scale, whole)

    def played_coarse(self) -> float:
        """Play as a piece does that is too heavy; return the scale at which it rests."""
        self.picture()
        player = self.window.player
        whole = player.scale
        player.play()
        player.eased = 0.5
        player.ask_all()
        self.assertAlmostEqual(whole / 2, player.scale)
        return whole

    def test_it_grows_sharp_while_it_plays_on_once_all_frames_are_there(self) -> None:
        whole, player = self.played_coarse(), self.window.player
        said = self.window.editor.transport.coarse
        self.assertEqual("coarser", said.text())
        self.until(lambda: player.scale == whole, 60)
        self.until(lambda: not said.text(), 20)
        self.assertTrue(player.playing)
        piece = self.session.composition
        self.assertEqual(player.ready_frames(), set(range(piece.length)))
        self.assertEqual(set(range(piece.length)), player._ready_at(whole / 2), "the coarse ones came first")
        self.until(lambda: self.window.editor.canvas._pixels.shape[1] == round(piece.width * whole), 20)
        # An edit makes them anew, the coarse ones first, as they keep up.
        self.session.set_property("opacity", 60.0, ["words"])
        self.until(lambda: player.scale < whole, 20)
        self.assertTrue(player.playing)
        self.until(lambda: player.scale == whole, 60)
        player.stop()
        self.assertEqual((player.scale, player.eased), (whole, 1.0))

    def test_it_stays_coarse_where_there_is_no_room_for_the_whole_frames_as_well(self) -> None:
        piece, player = self.session.composition, self.window.player
        whole = self.played_coarse()
        both = 2 * piece.length * 4 * piece.width * piece.height * (whole**2 + (whole / 2) ** 2)
        with mock.patch.object(FrameStore, "limit", new_callable=mock.PropertyMock, return_value=0.95 * both):
            self.until(player.all_ready, 60)
            self.assertEqual([], player._sharper(list(range(piece.length))))
            began = player.gone
            self.until(lambda: player.gone > began + 0.5, 20)
            self.assertAlmostEqual(whole / 2, player.scale)
            self.assertLess(len(player._ready_at(whole)), piece.length // 2)
            # What was chosen is what one gets, whatever keeps up.
            player.share = 1.0
            self.assertEqual((1.0, 1.0), (player.scale, player.played_at))
            player.share = None
        with mock.patch.object(FrameStore, "limit", new_callable=mock.PropertyMock, return_value=1.05 * both):
            self.until(lambda: player.scale == whole, 60)
        player.stop()

    def test_frames_are_asked_for_as_play_is_pressed_and_the_clock_goes_with_their_turns(self) -> None:
        self.picture()
        player, asked = self.window.player, []
        with (
            mock.patch.object(player.maker, "want", side_effect=asked.append),
            mock.patch("spiralis.app.work.playback.time.perf_counter", return_value=100.0) as now,
        ):
            there = player.ready_frames()
            player.play()
            # The first one that is not there yet: a few came with the first picture.
            self.assertIn(asked[0][0].key.frame - player.session.frame, range(1, 6))
            self.assertNotIn(asked[0][0].key.frame, there)
            self.assertTrue(asked[0][0].due)
            for gone, left in ((0.0, 40), (0.001, 39), (0.039, 1), (0.0401, 40), (0.1, 20)):
                now.return_value = 100.0 + gone
                player._wind()
                self.assertAlmostEqual(player._clock.interval(), left, delta=1, msg=str(gone))
        player.stop()
        self.assertFalse(player._clock.isActive())

    def test_the_first_frames_say_how_far_ahead_to_begin(self) -> None:
        player = self.window.player
        maker, place = player.maker, (player.session.composition_id, player.scale)
        maker._costs.clear()
        maker._first.clear()
        maker._warm.clear()
        self.assertEqual((maker.expected(*place), player._lead()), (0.0, 1))
        key = player.key(3)
        maker._note_cost(0, key, 0.3)
        maker._note_cost(1, key, 0.13)
        # They find nothing that they need: that says nothing of what a frame takes, but of when the next may be there.
        self.assertEqual((maker.cost(*place), maker.expected(*place), player._lead()), (0.0, 0.13, 4))
        maker._note_cost(0, key, 0.05)
        self.assertEqual((maker.cost(*place), maker.expected(*place), player._lead()), (0.05, 0.05, 2))

    def test_a_hiccup_changes_nothing_where_frames_are_quick(self) -> None:
        player = self.window.player
        whole = player.scale
        player.play()
        self.late_ticks(0.001, 10)
        self.assertEqual(player.scale, whole)

    def test_a_resolution_that_was_chosen_stays(self) -> None:
        player = self.window.player
        player.share = 0.5
        player.play()
        self.late_ticks(10.0, 10)
        self.assertEqual(player.scale, 0.5)
