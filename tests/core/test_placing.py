"""Files come whole or not at all: killed at any moment, full disks, what killed processes left."""

from __future__ import annotations

import json
import os
import signal
import subprocess
import sys
import tempfile
import time
import unittest
from pathlib import Path
from unittest import mock

from spiralis.core.errors import ExportError
from spiralis.core.media import placing
from spiralis.core.media.exporters import ExportJob, export, exporter, exporters
from spiralis.core.media.placing import hidden_beside, put_folder, sweep
from spiralis.core.model import Layer, Project
from spiralis.core.storage import load, save
from spiralis.core.storage.recovery import Journal, left_behind, stamp_of
from tests.core.samples import moving, project

LENGTH = 10
#: Writes a project's piece again and again, telling before each time; it never ends by itself.
_WRITER = """
import sys
from pathlib import Path
from spiralis.core.media.exporters import ExportJob, export, exporter
from spiralis.core.storage import load
project, kind, path = load(Path(sys.argv[1])), exporter(sys.argv[2]), Path(sys.argv[3])
while True:
    export(kind, ExportJob(project, project.compositions[0].id, path, 0, project.compositions[0].length, workers=1))
    print("written", flush=True)
"""


#: Keeps a journal of a project that is edited again and again, telling the number of each copy that is written.
_KEEPER = """
import sys
from itertools import count
from pathlib import Path
from attrs import evolve
from spiralis.core.storage import load, save
from spiralis.core.storage.recovery import Journal
project, journal, saved = load(Path(sys.argv[1])), Journal(), Path(sys.argv[2])
for number in count():
    named = evolve(project, name=f"copy {number}")
    journal.write(named, saved)
    save(named, saved)
    print(number, flush=True)
"""

PIECE = "piece"


def sample(length: int = LENGTH) -> Project:
    """Return a square that moves over a ground."""
    square = Layer("Square", "shape", 0, length).with_values(form="rectangle", size=(16.0, 16.0))
    ground = Layer("Ground", "backdrop", 0, length).with_values(position=(32.0, 24.0), style="linear")
    layers = (moving(square, (10.0, 20.0), (50.0, 20.0), length), ground)
    return project(*layers, width=64, height=48, length=length, id=PIECE)


class KilledTest(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))

    def files(self) -> dict[str, bytes]:
        """Return the files that a person sees, by their way from the folder."""
        paths = (path for path in sorted(self.folder.rglob("*")) if path.is_file())
        names = {str(path.relative_to(self.folder)): path for path in paths}
        return {name: path.read_bytes() for name, path in names.items() if not name.startswith(".")}

    def test_killed_at_any_moment_every_kind_of_file_is_whole_or_not_there(self) -> None:
        save(sample(), self.folder / "p.spiralis")
        random = iter((0.003, 0.02, 0.007, 0.05, 0.012, 0.03) * 20)
        for kind in exporters():
            path = self.folder / f"out{kind.suffix}"
            export(kind, ExportJob(sample(), PIECE, path, 0, LENGTH, workers=1))
            whole = self.files()
            process = subprocess.Popen([sys.executable, "-c", _WRITER, str(self.folder / "p.spiralis"), kind.name,
                                        str(path)], stdout=subprocess.PIPE)  # fmt: skip
            assert process.stdout is not None
            self.assertEqual(process.stdout.readline(), b"written\n", kind.name)
            time.sleep(next(random))
            process.send_signal(signal.SIGKILL)
            process.wait()
            process.stdout.close()
            self.assertEqual(self.files().keys(), whole.keys(), kind.name)
            self.assertEqual(self.files(), whole, kind.name)
            for left in self.folder.glob(".*"):
                placing.remove(left)
            for made in self.folder.glob("out*"):
                placing.remove(made)

    def test_killed_at_any_moment_the_last_copy_of_the_work_and_the_saved_file_are_whole(self) -> None:
        save(sample(), self.folder / "p.spiralis")
        saved = self.folder / "saved.spiralis"
        for round_, (copies, wait) in enumerate(((1, 0.0), (3, 0.004), (2, 0.009), (6, 0.002), (4, 0.013), (9, 0.006))):
            with tempfile.TemporaryDirectory() as state, mock.patch.dict(os.environ, {"XDG_STATE_HOME": state}):
                process = subprocess.Popen(
                    [sys.executable, "-c", _KEEPER, str(self.folder / "p.spiralis"), str(saved)], stdout=subprocess.PIPE
                )
                assert process.stdout is not None
                for _ in range(copies):
                    told = int(process.stdout.readline())
                time.sleep(wait)
                process.send_signal(signal.SIGKILL)
                told = max([told, *map(int, process.stdout.read().split())])
                process.wait()
                process.stdout.close()
                (found,) = left_behind()
                # What it was killed while writing may be there already, or the copy before.
                numbers = [int(name.removeprefix("copy ")) for name in (found.load().name, load(saved).name)]
                self.assertTrue(all(told <= number <= told + 1 for number in numbers), (round_, told, numbers))
                self.assertEqual(found.original, saved)

    def test_a_shorter_sequence_takes_the_place_of_a_longer_one_in_one_step(self) -> None:
        for exchanged in (placing._exchanged, lambda one, other: False):
            with mock.patch("spiralis.core.media.placing._exchanged", exchanged):
                folder = self.folder / "kites"
                for length in (LENGTH, 4):
                    job = ExportJob(sample(), PIECE, self.folder / "kites.png", 0, length)
                    result = export(exporter("png"), job)
                    self.assertEqual(result.path, folder / "kites-0000.png")
                    self.assertEqual(len(list(folder.iterdir())), length)
                self.assertEqual(list(self.folder.iterdir()), [folder])
                placing.remove(folder)

    def test_while_folders_change_places_one_of_them_is_always_there(self) -> None:
        seen = []
        real = os.rename
        old, new = self.folder / "kites", hidden_beside(self.folder / "kites")
        for folder, words in ((old, "old"), (new, "new")):
            folder.mkdir()
            (folder / "a").write_text(words)

        def rename(one: Path, other: Path) -> None:
            real(one, other)
            seen.append((self.folder / "kites" / "a").exists())

        with mock.patch("os.rename", rename):
            put_folder(new, old)
        self.assertEqual((old / "a").read_text(), "new")
        self.assertTrue(all(seen))

    def test_a_folder_with_other_files_is_left_as_it_is(self) -> None:
        folder = self.folder / "kites"
        folder.mkdir()
        (folder / "notes.txt").write_text("mine")
        job = ExportJob(sample(), PIECE, self.folder / "kites.png", 0, 3)
        with self.assertRaisesRegex(ExportError, "notes.txt"):
            export(exporter("png"), job)
        self.assertEqual(self.files(), {"kites/notes.txt": b"mine"})
        (folder / "notes.txt").unlink()
        folder.rmdir()
        folder.write_text("a file")
        with self.assertRaisesRegex(ExportError, "is a file"):
            export(exporter("png"), job)
        self.assertEqual(self.files(), {"kites": b"a file"})

    def test_a_full_disk_leaves_nothing_of_any_kind(self) -> None:
        for kind in exporters():
            job = ExportJob(sample(), PIECE, self.folder / f"out{kind.suffix}", 0, LENGTH)
            with mock.patch("os.fsync", side_effect=OSError(28, "No space left on device")), \
                    self.assertRaisesRegex(ExportError, "disk is full", msg=kind.name):  # fmt: skip
                export(kind, job)
            self.assertEqual(list(self.folder.iterdir()), [], kind.name)


class SweepTest(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))

    def left(self, process: int, name: str, hours: float, folder: bool = False) -> Path:
        path = self.folder / f".spiralis-{process}-0123abcd-{name}"
        if folder:
            path.mkdir()
            (path / "a.png").write_bytes(b"x")
        else:
            path.write_bytes(b"x")
        os.utime(path, (time.time() - hours * 3600,) * 2)
        return path

    def test_only_what_is_old_hidden_and_nobodys_goes(self) -> None:
        ended = subprocess.Popen([sys.executable, "-c", ""])
        ended.wait()
        gone = [self.left(ended.pid, "a.mp4", 2), self.left(ended.pid, "kites.png", 30, folder=True)]
        young, owned = self.left(ended.pid, "b.mp4", 0.5), self.left(os.getpid(), "c.mp4", 2)
        mine = self.folder / ".spiralis-notes"
        mine.write_text("mine")
        os.utime(mine, (0, 0))
        self.assertEqual(set(sweep([self.folder, self.folder / "nowhere", self.folder])), set(gone))
        self.assertEqual(set(self.folder.iterdir()), {young, owned, mine})


class StampTest(unittest.TestCase):
    def test_a_number_taken_by_another_process_does_not_hide_lost_work(self) -> None:
        with tempfile.TemporaryDirectory() as state, mock.patch.dict(os.environ, {"XDG_STATE_HOME": state}):
            journal = Journal()
            journal.write(sample(), None)
            self.assertEqual(left_behind(), [])
            note = json.loads(journal.note.read_text())
            self.assertEqual(note["stamp"], stamp_of(os.getpid()))
            for other in ("another-boot 17", note["stamp"] + "1"):
                journal.note.write_text(json.dumps({**note, "stamp": other}))
                self.assertEqual([found.journal.path for found in left_behind()], [journal.path])
            # A note of an earlier version tells no stamp: then only the number counts.
            del note["stamp"]
            journal.note.write_text(json.dumps(note))
            self.assertEqual(left_behind(), [])
