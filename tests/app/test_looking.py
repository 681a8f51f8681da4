"""Looking at the piece beside the window: only what is about the piece as it is now is told."""

from __future__ import annotations

import time
from unittest import mock

from spiralis.app.checks.looking import Looking
from spiralis.app.work import unforeseen
from spiralis.core.model import Composition
from tests.app.harness import WindowTest
from tests.core.long_work import failing, until_stopped, where


class LookingTest(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        self.looking = Looking(self.session, self.window)
        self.found: list[tuple[str, object]] = []
        self.stopped = 0

    def take(self, piece: Composition, result: object) -> None:
        self.found.append((piece.id, result))

    def note_stop(self) -> None:
        self.stopped += 1

    def until(self, reached: object, seconds: float = 10.0) -> None:
        ends = time.monotonic() + seconds
        while not reached() and time.monotonic() < ends:  # type: ignore[operator]
            self.app.processEvents()
            time.sleep(0.002)
        self.assertTrue(reached())  # type: ignore[operator]

    def test_what_is_found_is_told_with_the_piece(self) -> None:
        self.looking.look(where, self.take, name="Look")
        self.until(lambda: self.found)
        piece, (_, words) = self.found[0]  # type: ignore[misc]
        self.assertEqual(piece, self.session.composition_id)
        self.assertEqual(words, f"Look {self.session.composition.name} {len(self.session.composition.layers)} False")
        self.assertEqual(self.stopped, 0)

    def test_an_edit_ends_it_and_nothing_old_is_told(self) -> None:
        self.looking.look(until_stopped, self.take, stopped=self.note_stop)
        self.settle()
        self.session.set_property("opacity", 33.0, ["square"])
        self.until(lambda: self.stopped == 1, 5.0)
        self.assertEqual(self.found, [])

    def test_it_ends_where_it_is_told_to(self) -> None:
        over: list[bool] = []
        self.looking.look(until_stopped, self.take, lambda: bool(over), self.note_stop)
        self.settle()
        self.assertEqual((self.found, self.stopped), ([], 0))
        over.append(True)
        self.until(lambda: self.stopped == 1, 5.0)

    def test_of_several_that_wait_only_the_newest_is_done(self) -> None:
        over: list[bool] = []
        self.looking.look(until_stopped, self.take, lambda: bool(over), self.note_stop)
        self.settle()
        for name in ("first", "second", "third"):
            self.looking.look(where, self.take, name=name)
        over.append(True)
        self.until(lambda: self.found)
        self.settle()
        self.assertEqual([str(words).split()[0] for _, (_, words) in self.found], ["third"])  # type: ignore[misc]

    def test_what_goes_wrong_is_said_and_the_next_look_comes(self) -> None:
        caught: list[BaseException] = []
        with mock.patch.object(unforeseen.sys, "excepthook", lambda kind, error, trace: caught.append(error)):
            self.looking.look(failing, self.take)
            self.until(lambda: caught)
        self.assertIn("by nothing", str(caught[0]))
        self.assertIn("by nothing", self.unforeseen.pop(), "it is in the log")
        self.looking.look(where, self.take, name="Next")
        self.until(lambda: self.found)
