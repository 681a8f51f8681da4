"""Playing from processes beside the window, and pictures that follow the hand."""

from __future__ import annotations

import os
import threading
import time
import unittest
from collections.abc import Callable
from unittest import mock

import numpy as np
from attrs import evolve

from spiralis.app.work import making, renderers
from spiralis.app.work.background import Background
from spiralis.app.work.making import FrameRequest
from spiralis.app.work.renderers import Renderers
from spiralis.core.errors import Cancelled
from spiralis.core.model import Project
from spiralis.core.render.frame import render_rgba8
from spiralis.core.render.store import FrameKey
from tests.app.harness import WindowTest
from tests.core.long_work import dying, until_stopped, where


class RenderersTest(WindowTest):
    def setUp(self) -> None:
        self.renderers = Renderers(2)
        self.enterContext(mock.patch.object(making, "RENDERERS", self.renderers))
        super().setUp()
        self.addCleanup(self.renderers.end)

    def until(self, reached: object, seconds: float = 30.0) -> bool:
        ends = time.monotonic() + seconds
        while time.monotonic() < ends:
            self.app.processEvents()
            if reached():  # type: ignore[operator]
                return True
            time.sleep(0.002)
        return False

    def started(self) -> None:
        self.renderers.start()
        self.assertTrue(self.until(lambda: self.renderers.ready(0) and self.renderers.ready(1)))

    def test_playing_shows_what_threads_would_draw(self) -> None:
        self.started()
        player = self.window.player
        player.play()
        self.assertTrue(self.until(lambda: len(player.ready_frames()) == 50))
        # A busy machine may have played smaller pictures than the ones that are wanted at rest.
        scale, keys = player.scale, {frame: player.key(frame) for frame in (0, 7, 49)}
        player.stop()
        for frame, key in keys.items():
            wanted = render_rgba8(self.session.project, self.session.composition_id, frame, scale)
            np.testing.assert_array_equal(player.store.get(key), wanted)

    def test_an_edit_shows_through_a_process(self) -> None:
        self.started()
        player = self.window.player
        self.session.set_property("opacity", 30.0, ["square"])
        self.assertTrue(self.until(lambda: player.picture() is not None))
        wanted = render_rgba8(self.session.project, self.session.composition_id, self.session.frame, player.scale)
        np.testing.assert_array_equal(player.picture(), wanted)

    def test_one_is_started_after_the_other_and_draws_meanwhile(self) -> None:
        begun: list[Late] = []

        def late(greeted: Callable[[], None]) -> Late:
            begun.append(Late(greeted))
            return begun[-1]

        player = self.window.player
        with mock.patch.object(renderers, "Remote", late):
            self.renderers.start()
            self.renderers.start()
            self.assertEqual(len(begun), 1)
            begun[0].come()
            self.assertEqual(len(begun), 2)
            self.renderers.start()
            self.assertEqual(len(begun), 2)
            self.session.set_property("opacity", 31.0, ["square"])
            self.assertTrue(self.until(lambda: player.picture() is not None))
            player.play()
            self.assertTrue(self.until(lambda: len(player.ready_frames()) == 50))
            self.assertGreater(begun[0].drawn, 30)
            self.session.set_property("opacity", 32.0, ["square"])
            begun[1].come()
            self.assertEqual(len(begun), 2)
            self.assertTrue(self.until(lambda: len(player.ready_frames()) == 50))
            self.assertGreater(begun[1].drawn, 5)
            player.stop()
            # One that is lost before it was there is started again, but nothing is when the program ends.
            self.renderers._starts[1] = 1
            begun[1].lost, begun[1].ready = True, False
            self.renderers.start()
            self.assertEqual(len(begun), 3)
            begun[2].lost = True
            begun[2].greeted()
            self.assertEqual(len(begun), 4)
            self.renderers.end()
            begun[3].come()
            self.assertEqual(len(begun), 4)

    def test_a_process_that_dies_costs_nothing_but_time(self) -> None:
        self.started()
        player = self.window.player
        for remote in self.renderers._remotes:
            assert remote is not None
            remote._process.kill()
        self.session.set_property("opacity", 55.0, ["square"])
        self.assertTrue(self.until(lambda: player.picture() is not None))
        player.play()
        self.assertTrue(self.until(lambda: len(player.ready_frames()) == 50))
        player.stop()
        self.assertTrue(self.until(lambda: self.renderers.ready(0) and self.renderers.ready(1)), "started again")


    def test_long_work_is_done_beside_and_frames_do_not_wait_for_it(self) -> None:
        project, piece_id = self.session.project, self.session.composition_id
        # Without a process it is done here.
        self.assertEqual(self.renderers.work(where, project, piece_id, name="Here")[0], os.getpid())
        self.started()
        self.assertNotEqual(self.renderers.work(where, project, piece_id, name="Here")[0], os.getpid())
        stop = threading.Event()
        self.addCleanup(stop.set)
        done: list[object] = []
        background = Background(self.window)
        background.run(lambda: self.renderers.work(until_stopped, project, piece_id, stop.is_set), done.append)
        self.assertTrue(self.until(lambda: not self.renderers.free(1)))
        self.assertTrue(self.renderers.ready(1) and self.renderers.free(0))
        self.session.set_property("opacity", 56.0, ["square"])
        self.window.player.play()
        self.assertTrue(self.until(lambda: len(self.window.player.ready_frames()) == 50))
        self.assertFalse(done or self.renderers.free(1), "it goes on meanwhile")
        # Small pictures do not wait for it either.
        small = self.renderers.picture(self.session.project, piece_id, 3, 0.25)
        np.testing.assert_array_equal(small, render_rgba8(self.session.project, piece_id, 3, 0.25))
        self.assertFalse(done or self.renderers.free(1))
        stop.set()
        self.assertTrue(self.until(lambda: done))
        self.assertIsInstance(done[0], Cancelled)
        self.assertTrue(self.renderers.free(1))

    def test_small_pictures_are_drawn_beside_and_frames_do_not_count_them(self) -> None:
        project, piece_id = self.session.project, self.session.composition_id
        wanted = render_rgba8(project, piece_id, 7, 0.5)
        np.testing.assert_array_equal(self.renderers.picture(project, piece_id, 7, 0.5), wanted)
        self.started()
        asked: list[bool] = []
        remote = self.renderers._remotes[1]
        assert remote is not None
        answer = remote._answer

        def noting(*given: object) -> object:
            asked.append(self.renderers.free(1))
            return answer(*given)

        with mock.patch.object(remote, "_answer", noting):
            np.testing.assert_array_equal(self.renderers.picture(project, piece_id, 7, 0.5), wanted)
            remote.frame(project, piece_id, 7, 0.5)
        self.assertEqual(asked, [False, True])

    def test_work_is_done_here_where_its_process_dies(self) -> None:
        self.started()
        made = self.renderers.work(dying, self.session.project, self.session.composition_id, home=os.getpid())
        self.assertEqual(made, "done at home")
        self.assertTrue(self.until(lambda: self.renderers.ready(1)), "started again")

    def test_the_end_of_the_program_starts_nothing_for_work_that_was_lost(self) -> None:
        self.started()
        project, piece_id, done = self.session.project, self.session.composition_id, list[object]()
        background, stop = Background(self.window), threading.Event()
        background.run(lambda: self.renderers.work(until_stopped, project, piece_id, stop.is_set), done.append)
        self.assertTrue(self.until(lambda: not self.renderers.free(1)))
        self.renderers.end()
        # What was begun there is begun here, and ends as it was to.
        stop.set()
        self.assertTrue(self.until(lambda: done))
        self.assertIsInstance(done[0], Cancelled)
        self.assertEqual(self.renderers._remotes, [None, None])


class FollowingTest(WindowTest):
    """While edits come faster than pictures, the last one that was drawn is shown."""

    def test_pictures_of_versions_that_are_over_are_shown_until_the_newest_comes(self) -> None:
        player, canvas = self.window.player, self.editor.canvas
        player.wait_for_picture(20, self.app.processEvents)
        self.until(lambda: canvas._pixels is not None)
        slow = Slow()
        with mock.patch.object(making, "RENDERERS", slow):
            shown = set()
            ends = time.monotonic() + 1.2
            turn = 0
            while time.monotonic() < ends:
                turn += 1
                self.session.set_property("opacity", 10.0 + turn % 80, ["square"], merge="drag")
                self.app.processEvents()
                shown.add(id(canvas._pixels))
                self.assertIsNotNone(canvas._pixels)
                time.sleep(0.004)
            self.assertGreaterEqual(len(shown), 4, "a picture every 0.15 s, though none was of the newest version")
            self.assertLessEqual(slow.most, 1, "one at a time")
            self.assertTrue(player.wait_for_picture(10, self.app.processEvents))
        wanted = render_rgba8(self.session.project, self.session.composition_id, self.session.frame, player.scale)
        # The canvas hears of it in a turn of its own.
        self.until(lambda: np.array_equal(canvas._pixels, wanted), 5)
        np.testing.assert_array_equal(canvas._pixels, wanted)

    def test_no_picture_of_another_frame_or_piece_is_shown_for_one_that_is_late(self) -> None:
        player = self.window.player
        player.wait_for_picture(20, self.app.processEvents)
        with mock.patch.object(making, "RENDERERS", Slow()):
            self.session.set_property("opacity", 20.0, ["square"])
            self.session.go_to(20)
            self.assertIsNone(player.latest_picture())


class FirstOfAPieceTest(WindowTest):
    """A process reads what a piece needs while its first picture is drawn, as play may be pressed at once."""

    def wanted(self) -> list[list[tuple[int, bool]]]:
        calls = self.asked.call_args_list
        return [[(request.key.frame, request.awaited) for request in call.args[0]] for call in calls]

    def setUp(self) -> None:
        super().setUp()
        self.player = self.window.player
        self.player.wait_for_picture(20, self.app.processEvents)
        self.settle()
        other = evolve(self.session.composition, id="other", name="Other", length=3)
        project = self.session.project
        self.session.edit_project("Other", evolve(project, compositions=(*project.compositions, other)))
        self.settle()
        maker = self.player.maker
        self.asked = self.enterContext(mock.patch.object(maker, "want", wraps=maker.want))

    def test_the_frames_after_the_first_come_with_it(self) -> None:
        self.session.show_composition("other")
        self.assertEqual([(0, True), (1, False), (2, False)], self.wanted()[0])
        self.assertTrue(self.player.wait_for_picture(20, self.app.processEvents))
        self.settle()
        self.asked.reset_mock()
        self.session.set_property("opacity", 40.0, ["square"])
        self.assertEqual([[(0, True)]], self.wanted())

    def wait(self, reached: Callable[[], bool]) -> None:
        ends = time.perf_counter() + 20
        while not reached():
            self.assertLess(time.perf_counter(), ends)
            time.sleep(0.002)

    def test_another_thread_takes_what_stands_behind_what_is_awaited(self) -> None:
        began: list[tuple[int, int]] = []
        late = threading.Event()

        class Both(Slow):
            def free(self, place: int) -> bool:
                return True

            def frame(self, place: int, project: Project, key: FrameKey, threads: int) -> np.ndarray:
                began.append((place, key.frame))
                late.wait(30)
                return np.zeros((4, 4, 4), np.uint8)

        # A thread that looks again by itself looks too late.
        with mock.patch.object(making, "RENDERERS", Both()), mock.patch.object(making, "_LOOK", 60):
            for turn in range(12):
                # Whichever of the two threads wakes first.
                began.clear()
                late.clear()
                keys = [FrameKey(-1 - turn, "other", number, 1.0) for number in (0, 1)]
                self.player.maker.want([FrameRequest(self.session.project, keys[0], 2, awaited=True),
                                        FrameRequest(self.session.project, keys[1])])  # fmt: skip
                # Without the event loop, in which the player would ask for frames of its own instead.
                self.wait(lambda: len(began) == 2)
                self.assertEqual([(0, 0), (1, 1)], sorted(began))
                late.set()
                self.wait(lambda keys=keys: all(self.player.store.holds(key) for key in keys))


class Late:
    """A process that is there when the test says so, and draws as threads do."""

    def __init__(self, greeted: Callable[[], None]) -> None:
        self.greeted, self.ready, self.lost, self.drawn = greeted, False, False, 0
        self.aside = self.working = False

    def come(self) -> None:
        self.ready = True
        self.greeted()

    def frame(self, project: Project, piece: str, frame: float, scale: float, threads: int) -> np.ndarray:
        self.drawn += 1
        return render_rgba8(project, piece, frame, scale)

    def end(self) -> None:
        self.ready, self.lost = False, True


class Slow:
    """Draws as threads do, but takes its time; notes how many were at it at once."""

    def __init__(self) -> None:
        self.now = self.most = 0

    def start(self) -> None:
        pass

    def free(self, place: int) -> bool:
        return False

    def frame(self, place: int, project: Project, key: FrameKey, threads: int) -> np.ndarray:
        self.now += 1
        self.most = max(self.most, self.now)
        time.sleep(0.15)
        made = render_rgba8(project, key.composition, key.frame, key.scale)
        self.now -= 1
        return made


if __name__ == "__main__":
    unittest.main()
