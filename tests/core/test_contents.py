"""The contents of a project file, told without reading all of it: only where they are those of its project."""

from __future__ import annotations

import subprocess
import sys
import tempfile
import unittest
import zipfile
from collections.abc import Callable
from pathlib import Path

from attrs import evolve

from spiralis.core.contents import contents_lines, contents_of
from spiralis.core.errors import ProjectFileError
from spiralis.core.model import Key, Layer, Project, Track
from spiralis.core.storage import load, save
from spiralis.core.storage.summary import summary
from tests.core.samples import backdrop, piece, project, square_source

SQUARE = square_source()


def sample() -> Project:
    keyed = Track(5.0, (Key(0, 5.0), Key(3, 9.0)))
    kite = Layer("Kite, “red”", "picture", 0, 20, id="kite").with_values(source=SQUARE.id)
    other = evolve(SQUARE, id="spare", name="spare.png", digest="0" * 64, data=None)
    made = project(kite.with_track("opacity", keyed), sources=(SQUARE, other))
    return evolve(made, compositions=(*made.compositions, piece(backdrop(64, 48, (1, 0, 0, 1)))))


class ContentsTest(unittest.TestCase):
    def setUp(self) -> None:
        self.path = Path(self.enterContext(tempfile.TemporaryDirectory())) / "kites.spiralis"
        save(sample(), self.path)

    def packed_anew(self, change: Callable[[dict[str, bytes]], None]) -> None:
        """Write the file again with other entries."""
        with zipfile.ZipFile(self.path) as old:
            entries = {name: old.read(name) for name in old.namelist()}
        change(entries)
        with zipfile.ZipFile(self.path, "w") as new:
            for name, data in entries.items():
                new.writestr(name, data)

    def test_they_say_what_the_whole_project_says(self) -> None:
        found = contents_of(self.path)
        assert found is not None
        self.assertEqual(summary(load(self.path)), found)
        self.assertEqual([False, True], [source["missing"] for source in found["sources"]])
        lines = "\n".join(contents_lines(found))
        self.assertIn("Kite, “red” (picture): frames 0 to 19, 2 keys", lines)
        self.assertIn("used 1 ×)\n", lines)
        self.assertIn("spare.png", lines)
        self.assertEqual(1, lines.count("MISSING"))

    def test_a_medium_that_is_gone_or_another_one_is_missing(self) -> None:
        medium = SQUARE.path
        for change in (lambda held: held.pop(medium), lambda held: held.update({medium: b"other"})):
            save(sample(), self.path)
            self.packed_anew(change)  # type: ignore[arg-type]
            found = contents_of(self.path)
            assert found is not None
            self.assertTrue(found["sources"][0]["missing"])
            self.assertEqual(summary(load(self.path)), found)

    def test_those_of_another_project_do_not_count(self) -> None:
        self.packed_anew(lambda held: held.update({"project.json": held["project.json"].replace(b"Kite", b"Gull")}))
        self.assertIsNone(contents_of(self.path))
        self.assertIn("Gull", summary(load(self.path))["compositions"][0]["layers"][0]["name"])

    def test_what_is_unusual_is_left_to_the_whole_reader(self) -> None:
        for change in (
            lambda held: held.pop("contents.json"), lambda held: held.update({"contents.json": b"[]"}),
            lambda held: held.update({"contents.json": b"{"}), lambda held: held.update({"contents.json": b'{"a": 1}'}),
            lambda held: held.pop("project.json"), lambda held: held.update({"../up": b"x"}),
            lambda held: held.update({"media/../../up": b"x"}),
        ):  # fmt: skip
            save(sample(), self.path)
            self.packed_anew(change)  # type: ignore[arg-type]
            self.assertIsNone(contents_of(self.path))
        with self.assertRaises(ProjectFileError):
            load(self.path)
        self.path.write_bytes(b"no archive")
        self.assertIsNone(contents_of(self.path))
        self.assertIsNone(contents_of(self.path.parent / "nowhere.spiralis"))

    def test_files_outside_are_looked_for(self) -> None:
        outside = self.path.parent / "square.png"
        outside.write_bytes(SQUARE.data or b"")
        linked = evolve(SQUARE, linked=True, place=outside, file=str(outside))
        save(evolve(sample(), sources=(linked,)), self.path)
        self.assertIsNone(contents_of(self.path))

    def test_they_are_told_without_the_model(self) -> None:
        code = (
            "import sys, pathlib\nfrom spiralis.core.contents import contents_of\n"
            "assert contents_of(pathlib.Path(sys.argv[1])) is not None\n"
            "print(sorted({'numpy', 'attrs', 'PIL', 'spiralis.core.model'} & set(sys.modules)))"
        )
        told = subprocess.run(
            [sys.executable, "-c", code, str(self.path)], check=True, capture_output=True, text=True
        ).stdout
        self.assertEqual("[]", told.strip())


if __name__ == "__main__":
    unittest.main()
