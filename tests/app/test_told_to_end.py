"""Ctrl+C, the end of a session: nothing is lost, and nothing half written stays."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path

from attrs import evolve

from spiralis.core.storage import load, save
from tests.app.harness import sample_project

#: Opens a project, changes it, begins to write a video, and sends itself a signal a moment later.
_PROGRAM = """
import os, signal, sys
signal.signal(signal.SIGINT, signal.default_int_handler)  # What starts in the background may ignore Ctrl+C.
from pathlib import Path
from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QApplication
from spiralis.app.main import application, open_window
from spiralis.app.window import Window

file, out, number, writes = Path(sys.argv[1]), Path(sys.argv[2]), int(sys.argv[3]), sys.argv[4] == "writes"
app = application()
open_window(app, file, False, True)
window = next(each for each in app.topLevelWidgets() if isinstance(each, Window))

def change():
    if window.session.path != file:
        QTimer.singleShot(20, change)
        return
    if writes:
        window.session.set_property("opacity", 37.0, ["words"])
        window.windows.show_export()
        window.windows.export.kind = next(kind for kind in window.windows.export.kinds if kind.name == "mp4")
        window.windows.export.start(out)
        end_while_writing()
    else:
        os.kill(os.getpid(), number)

def end_while_writing():
    if any(each.stat().st_size > 0 for each in out.parent.iterdir()):
        os.kill(os.getpid(), number)
    else:
        QTimer.singleShot(5, end_while_writing)

change()
QTimer.singleShot(60000, lambda: os._exit(7))
sys.exit(app.exec())
"""


class ToldToEndTest(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        self.file, self.out = self.folder / "piece.spiralis", self.folder / "out" / "piece.mp4"
        self.out.parent.mkdir()
        project = sample_project()
        # So large that the video is never there before the signal.
        piece = evolve(project.compositions[0], width=2560, height=1920, length=450)
        save(project.with_composition(piece), self.file)

    def ended(self, number: int, what: str) -> list[Path]:
        """Return the copies of unsaved work that are there after the program was told to end."""
        env = {**os.environ, "XDG_STATE_HOME": str(self.folder / f"state {number}"), "QT_QPA_PLATFORM": "offscreen"}
        command = [sys.executable, "-c", _PROGRAM, str(self.file), str(self.out), str(number), what]
        done = subprocess.run(command, env=env, capture_output=True, text=True, timeout=120, check=False)
        self.assertEqual(128 + number, done.returncode, done.stderr)
        self.assertNotIn("Traceback", done.stderr)
        return sorted((self.folder / f"state {number}").rglob("*.spiralis"))

    def test_unsaved_work_stays_as_a_copy_and_what_is_half_written_goes(self) -> None:
        for number in (signal.SIGINT, signal.SIGTERM):
            with self.subTest(number):
                copies = [path for path in self.ended(number, "writes") if "recovery" in path.parts]
                self.assertEqual(1, len(copies))
                words = load(copies[0]).compositions[0].layer("words")
                self.assertEqual(37.0, words.track("opacity").value)
                self.assertEqual([], list(self.out.parent.iterdir()))

    def test_where_all_is_saved_no_copy_is_left(self) -> None:
        self.assertEqual([], [path for path in self.ended(signal.SIGTERM, "nothing") if "recovery" in path.parts])


if __name__ == "__main__":
    unittest.main()
