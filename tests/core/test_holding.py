"""Who has a file open, and whether it was changed meanwhile."""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path
from unittest import mock

from spiralis.core.model import Project
from spiralis.core.storage import save
from spiralis.core.storage.holding import Hold, state_of


class HoldingTest(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        self.enterContext(mock.patch.dict(os.environ, {"XDG_STATE_HOME": str(self.folder / "state")}))
        self.path = self.folder / "kites.spiralis"
        save(Project("Kites"), self.path)

    def test_a_second_window_learns_who_has_it_until_that_one_lets_go(self) -> None:
        first, second = Hold(), Hold()
        self.assertIsNone(first.take(self.path))
        owner = second.take(self.folder / "." / "kites.spiralis")
        assert owner is not None
        self.assertEqual(owner.process, os.getpid())
        first.release()
        self.assertIsNone(second.take(self.path))
        second.release()

    def test_taking_another_file_lets_go_of_the_first(self) -> None:
        first, second, other = Hold(), Hold(), self.folder / "other.spiralis"
        first.take(self.path)
        self.assertIsNone(first.take(other))
        self.assertIsNone(second.take(self.path))
        self.assertIsNotNone(Hold().take(other))
        first.release()
        second.release()

    def test_a_program_that_dies_holds_nothing(self) -> None:
        code = (
            "import sys; from pathlib import Path; from spiralis.core.storage.holding import Hold\n"
            "hold = Hold(); hold.take(Path(sys.argv[1])); print('held', flush=True); sys.stdin.read()"
        )
        with subprocess.Popen(
            [sys.executable, "-c", code, str(self.path)], stdin=subprocess.PIPE, stdout=subprocess.PIPE
        ) as other:
            assert other.stdout is not None
            other.stdout.readline()
            owner = Hold().take(self.path)
            assert owner is not None
            self.assertEqual(owner.process, other.pid)
            other.kill()
            other.wait()
            mine = Hold()
            self.assertIsNone(mine.take(self.path))
            mine.release()

    def test_nothing_is_left_beside_the_file_and_no_state_folder_is_needed(self) -> None:
        hold = Hold()
        hold.take(self.path)
        self.assertEqual({p.name for p in self.folder.iterdir()}, {"kites.spiralis", "state"})
        hold.release()
        with mock.patch.dict(os.environ, {"XDG_STATE_HOME": "/proc/no-such-place"}):
            self.assertIsNone(hold.take(self.path))

    def test_a_file_has_another_state_once_somebody_wrote_it(self) -> None:
        before = state_of(self.path)
        self.assertEqual(state_of(self.path), before)
        save(Project("Kites"), self.path)
        self.assertNotEqual(state_of(self.path), before, "the same bytes, written anew")
        self.path.unlink()
        self.assertIsNone(state_of(self.path))


if __name__ == "__main__":
    unittest.main()
