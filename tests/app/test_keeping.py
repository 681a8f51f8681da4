"""What is not saved is kept: the copy for after a crash, and the versions."""

from __future__ import annotations

import os
import tempfile
import time
import unittest
from collections.abc import Callable
from pathlib import Path
from unittest import mock

import numpy as np
from attrs import evolve
from PyQt6.QtCore import QObject

from spiralis.app.main import application
from spiralis.app.project import keeping as keeping_module
from spiralis.app.project.keeping import Keeping
from spiralis.app.session import Session
from spiralis.core.errors import ProjectFileError
from spiralis.core.model import Project
from spiralis.core.storage import load
from spiralis.core.storage.recovery import Journal, Recovered
from tests.app.harness import WindowTest, sample_project

#: How soon things are kept here, in ms; and a time, in s, in which whatever is to come has come.
_SOON, _LONG = 20, 0.3


class KeepingTest(unittest.TestCase):
    def setUp(self) -> None:
        self.app = application()
        self.session = Session(sample_project())
        #: Path, project and why of each version that was kept.
        self.versions: list[tuple[Path | None, Project, str]] = []
        keep = mock.patch.object(
            keeping_module, "keep_version", lambda path, project, why, seen: self.versions.append((path, project, why))
        )
        self.enterContext(keep)
        self.enterContext(mock.patch.object(keeping_module, "JOURNAL_DELAY", _SOON))
        self.enterContext(mock.patch.object(keeping_module, "preferred", lambda name: {"autosave": 2}[name]))
        self.owner = QObject()
        self.keeping = Keeping(self.owner, self.session, lambda: np.zeros((4, 4, 4), np.uint8))
        self.addCleanup(lambda: self.keeping.close())
        self.copy = self.keeping.journal.path

    def edit(self, opacity: float) -> None:
        self.session.set_property("opacity", opacity, ["words"])

    def rest(self, seconds: float = _LONG) -> None:
        ends = time.perf_counter() + seconds
        while time.perf_counter() < ends or self.keeping._later.isActive():
            self.app.processEvents()
            time.sleep(0.002)
        self.written()

    def written(self) -> None:
        """Wait until everything that was asked for is on the disk."""
        self.keeping._pool.submit(lambda: None).result()

    def kept(self) -> object:
        return load(self.copy).compositions[0].layer("words").track("opacity").value

    def test_the_newest_of_a_burst_of_changes_is_copied_once(self) -> None:
        with mock.patch.object(Journal, "write", autospec=True, side_effect=Journal.write) as write:
            for opacity in (10.0, 20.0, 30.0):
                self.edit(opacity)
            self.rest()
        self.assertEqual(1, write.call_count)
        self.assertEqual(30.0, self.kept())

    def test_what_is_saved_needs_no_copy_neither_an_old_one_nor_one_to_come(self) -> None:
        self.edit(10.0)
        self.rest()
        self.assertTrue(self.copy.exists())
        self.edit(20.0)
        self.session.history.mark_saved()
        self.keeping.saved()
        self.rest()
        self.assertFalse(self.copy.exists())
        # Nothing of what was saved comes after it, either.
        self.edit(30.0)
        self.keeping.saved()
        self.rest()
        self.assertFalse(self.copy.exists())
        self.edit(40.0)
        self.rest()
        self.assertEqual(40.0, self.kept())

    def test_a_copy_now_does_not_wait_and_is_not_made_again(self) -> None:
        self.keeping._later.setInterval(100)
        self.edit(10.0)
        with mock.patch.object(Journal, "write", autospec=True, side_effect=Journal.write) as write:
            self.keeping.write_copy_now()
            self.written()
            self.assertEqual(10.0, self.kept())
            self.rest()
        self.assertEqual(1, write.call_count)

    def test_where_a_copy_cannot_be_written_the_next_change_tries_again(self) -> None:
        with mock.patch.object(Journal, "write", side_effect=ProjectFileError("full")):
            self.edit(10.0)
            self.rest()
        self.assertFalse(self.copy.exists())
        self.edit(20.0)
        self.rest()
        self.assertEqual(20.0, self.kept())

    def _recovered(self) -> Recovered:
        left = Journal()
        left.write(self.session.project, None)
        self.addCleanup(left.discard)
        return Recovered(left, "left", None)

    def test_a_copy_that_was_found_goes_once_the_own_one_is_whole(self) -> None:
        found = self._recovered()
        with mock.patch.object(Journal, "write", side_effect=ProjectFileError("full")):
            self.keeping.take_over(found)
            self.written()
        self.assertTrue(found.journal.path.exists())
        self.keeping.take_over(found)
        self.written()
        self.assertFalse(found.journal.path.exists())
        self.assertTrue(self.copy.exists())

    def test_each_state_is_kept_once_among_the_versions(self) -> None:
        first = self.session.project
        for why in ("saved", "while working"):
            self.keeping.keep_now(why)
        self.edit(10.0)
        self.keeping.keep_now("saved")
        self.written()
        self.assertEqual([(None, first, "saved"), (None, self.session.project, "saved")], self.versions)

    def _by_itself(self, then: Callable[[], None] = lambda: None) -> list[str]:
        """Return why versions were kept after an edit, where one is due at once, and what happens ``then``."""
        with mock.patch.object(keeping_module, "MINUTE", _SOON):
            self.edit(10.0)
        then()
        self.rest()
        return [why for _, _, why in self.versions]

    def test_versions_are_kept_while_one_works(self) -> None:
        self.assertEqual(["while working"], self._by_itself())
        self.assertIs(self.session.project, self.versions[0][1])

    def test_what_takes_the_place_of_a_project_is_not_kept_in_its_stead(self) -> None:
        def other() -> None:
            self.keeping.begin_anew()
            self.session.replace_project(evolve(sample_project(), name="Other"), None)

        self.assertEqual([], self._by_itself(other))
        self.assertFalse(self.copy.exists())

    def test_the_copy_of_what_was_given_up_goes(self) -> None:
        self.edit(10.0)
        self.keeping.write_copy_now()
        self.written()
        self.assertTrue(self.copy.exists())
        self.keeping.begin_anew()
        self.written()
        self.assertFalse(self.copy.exists())

    def test_a_closed_window_leaves_no_copy_and_keeps_nothing_more(self) -> None:
        self.edit(10.0)
        self.keeping.write_copy_now()
        self.keeping.close()
        self.assertFalse(self.copy.exists())
        self.edit(20.0)
        self.keeping.keep_now()
        ends = time.perf_counter() + _LONG
        while time.perf_counter() < ends:
            self.app.processEvents()
        self.assertFalse(self.copy.exists())
        self.assertEqual([], self.versions)


if __name__ == "__main__":
    unittest.main()


class NoHomeTest(WindowTest):
    """A home in which nothing can be written: one works all the same, and hears that a crash would lose what is new."""

    def setUp(self) -> None:
        homeless = Path(self.enterContext(tempfile.TemporaryDirectory())) / "home"
        homeless.write_text("a file where folders should be")
        homes = {f"XDG_{kind}_HOME": str(homeless) for kind in ("STATE", "CACHE", "CONFIG", "DATA")}
        self.enterContext(mock.patch.dict(os.environ, homes))
        super().setUp()

    def test_it_is_said_once_that_no_copy_can_be_kept(self) -> None:
        for opacity in (50.0, 60.0):
            self.session.set_property("opacity", opacity, ["words"])
            self.window.files.keeping.write_copy_now()
            self.window.files.keeping._pool.submit(lambda: None).result()
            self.settle()
        self.assertEqual(1, len(self.said), self.said)
        self.assertRegex(self.said[0], "Unsaved work cannot be copied into “.*recovery” .*; save now and then")
        # What is copied is not kept beyond the program, which nobody hears of; nothing else goes wrong as it closes.
        self.session.select(["words"])
        self.act("Copy")
        self.act("Paste")
        self.assertEqual(4, len(self.session.composition.layers))
