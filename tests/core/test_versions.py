"""Earlier states of a project: which stay, which go, what is left of one that was never finished."""

from __future__ import annotations

import json
import os
import tempfile
import time
import unittest
from pathlib import Path
from unittest import mock

from spiralis.core.storage import versions
from spiralis.core.storage.versions import MOST, Version, folder_for, keep_version
from tests.core.samples import backdrop, project

DAY = 86_400


class VersionsTest(unittest.TestCase):
    def setUp(self) -> None:
        state = self.enterContext(tempfile.TemporaryDirectory())
        self.enterContext(mock.patch.dict(os.environ, {"XDG_STATE_HOME": state}))
        self.project = project(backdrop(8, 8, (0.2, 0.4, 0.6, 1.0)))
        self.file = Path(state) / "a.spiralis"

    def keep(self, why: str, file: Path | None = None) -> Version:
        return keep_version(file or self.file, self.project, why, b"")

    def kept(self) -> list[str]:
        return [version.why for version in versions.versions(self.file, self.project)]

    def age(self, version: Version, days: float) -> None:
        """Have a version been kept so long ago."""
        note = {"when": time.time() - days * DAY, "why": version.why}
        version.path.with_suffix(".json").write_text(json.dumps(note), encoding="utf-8")

    def test_old_ones_go_and_the_newest_stays_however_old(self) -> None:
        for days, why in ((100, "spring"), (91, "summer"), (89, "autumn")):
            self.age(self.keep(why), days)
        only = self.keep("alone", self.file.with_name("b.spiralis"))
        self.age(only, 400)
        self.keep("now")
        self.assertEqual(self.kept(), ["now", "autumn"])
        versions._prune(only.path.parent)
        self.assertTrue(only.path.exists())

    def test_they_take_no_more_room_than_they_may_but_for_the_newest(self) -> None:
        size = self.keep("one").path.stat().st_size
        with mock.patch.object(versions, "_ROOM", 3 * size + size // 2):
            for why in ("two", "three", "four", "five"):
                self.keep(why)
            self.assertEqual(self.kept(), ["five", "four", "three"])
        with mock.patch.object(versions, "_ROOM", size // 2):
            self.keep("six")
        self.assertEqual(self.kept(), ["six"])

    def test_every_version_is_what_it_was_and_of_its_own_file(self) -> None:
        first = self.keep("first")
        self.keep("other", self.file.with_name("b.spiralis"))
        self.assertEqual(self.kept(), ["first"])
        self.assertEqual(first.load().compositions, self.project.compositions)
        self.assertLessEqual(abs(first.when - time.time()), 60)

    def test_a_version_whose_note_is_missing_or_broken_is_no_version(self) -> None:
        broken, noteless = self.keep("broken"), self.keep("noteless")
        broken.path.with_suffix(".json").write_text("{", encoding="utf-8")
        noteless.path.with_suffix(".json").unlink()
        self.keep("whole")
        self.assertEqual(self.kept(), ["whole"])
        self.assertTrue(noteless.path.exists(), "it may be another process that is still at it")
        os.utime(noteless.path, (0, 0))
        for number in range(MOST):
            self.keep(str(number))
        self.assertFalse(noteless.path.exists())
        self.assertEqual(len(self.kept()), MOST)
        self.assertEqual(folder_for(self.file, self.project), broken.path.parent)


if __name__ == "__main__":
    unittest.main()
