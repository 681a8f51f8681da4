"""At home on the desktop: what `install` writes and `uninstall` takes away, small pictures, one window a person."""

import configparser
import os
import subprocess
import sys
import tempfile
import time
import unittest
from pathlib import Path
from unittest import mock
from xml.etree import ElementTree

from PIL import Image
from PyQt6.QtCore import QCoreApplication

from spiralis import desktop
from spiralis.app.main import application, come_forward
from spiralis.app.work.doorbell import Doorbell, ring
from spiralis.core.storage import save
from tests.app.harness import WindowTest, sample_project
from tests.core.samples import backdrop, project


class InstallTest(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        self.enterContext(mock.patch.dict(os.environ, {"XDG_DATA_HOME": str(self.folder / "data")}))

    def run_(self, *words: object) -> subprocess.CompletedProcess[str]:
        command = [sys.executable, "-m", "spiralis", *map(str, words)]
        return subprocess.run(command, capture_output=True, text=True, check=False)

    def test_everything_is_written_and_taken_away_again(self) -> None:
        written = desktop.install()
        self.assertEqual(len(written), 4)
        entry = configparser.ConfigParser(interpolation=None, strict=True)
        entry.optionxform = str  # type: ignore[assignment,method-assign]
        entry.read(self.folder / "data/applications/spiralis.desktop")
        held = entry["Desktop Entry"]
        self.assertEqual(held["Type"], "Application")
        self.assertTrue(held["Exec"].endswith("open %f"))
        self.assertIn(desktop.MIME, held["MimeType"])
        kinds = ElementTree.parse(self.folder / "data/mime/packages/spiralis.xml").getroot()
        self.assertEqual([e.get("pattern") for e in kinds.iter() if e.tag.endswith("glob")], ["*.spiralis"])
        icon = self.folder / "data/icons/hicolor/scalable/apps/spiralis.svg"
        self.assertTrue(ElementTree.parse(icon).getroot().tag.endswith("svg"))
        self.assertEqual(sorted(desktop.uninstall()), sorted(written))
        self.assertEqual(desktop.uninstall(), [])

    def test_the_way_it_was_started_is_the_way_the_desktop_starts_it(self) -> None:
        with mock.patch.dict(os.environ, {"SPIRALIS_COMMAND": "/some where/run"}):
            self.assertIn("Exec='/some where/run' open %f\n", desktop.files()[Path("applications/spiralis.desktop")])

    def test_the_command_line_installs_and_makes_small_pictures(self) -> None:
        self.assertEqual(self.run_("install").returncode, 0)
        self.assertTrue((self.folder / "data/applications/spiralis.desktop").exists())
        self.assertIn("Removed", self.run_("uninstall").stdout)
        self.assertIn("nothing", self.run_("uninstall").stdout)
        piece, picture = self.folder / "a.spiralis", self.folder / "a.png"
        save(project(backdrop(64, 48, (1.0, 0.0, 0.0, 1.0)), length=10), piece)
        self.assertEqual(self.run_("thumbnail", piece, picture, "--size", 32).returncode, 0)
        with Image.open(picture) as image:
            self.assertEqual(image.size, (32, 24))
            self.assertEqual(image.convert("RGB").getpixel((5, 5)), (255, 0, 0))
        piece.write_bytes(b"no project")
        refused = self.run_("thumbnail", piece, self.folder / "b.png")
        self.assertEqual(refused.returncode, 1)
        self.assertNotIn("Traceback", refused.stderr)
        self.assertFalse((self.folder / "b.png").exists())


class DoorbellTest(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        self.bell = Doorbell()
        self.assertTrue(self.bell.listen())
        self.addCleanup(self.bell.close)

    def second_start(self, code: str) -> subprocess.Popen[str]:
        started = subprocess.Popen(
            [sys.executable, "-c", f"from pathlib import Path\nfrom spiralis.app.work.doorbell import ring\n{code}"],
            stdout=subprocess.PIPE, text=True,
        )  # fmt: skip
        ends = time.monotonic() + 20
        while started.poll() is None and time.monotonic() < ends:
            application().processEvents()
            time.sleep(0.01)
        return started

    def test_a_second_start_opens_its_file_in_the_first_window(self) -> None:
        path = self.saved(sample_project(), "second.spiralis")
        self.bell.rung.connect(lambda file, demo: come_forward(self.window, Path(file) if file else None, demo))
        self.session.history.mark_saved()
        started = self.second_start(f"print(ring(Path({str(path)!r})))")
        self.assertEqual(started.communicate()[0], "True\n")
        self.until(lambda: self.session.path is not None)
        self.assertEqual(self.session.path, path.resolve())

    def test_what_is_no_question_is_not_answered(self) -> None:
        heard: list[str] = []
        self.bell.rung.connect(lambda file, demo: heard.append(file))
        started = self.second_start(
            "from PyQt6.QtNetwork import QLocalSocket\nfrom spiralis.app.work.doorbell import _name\n"
            "for words in (b'[]\\n', b'{}\\n', b'\\xff\\n'):\n"
            "    s = QLocalSocket(); s.connectToServer(_name()); s.waitForConnected(1000); s.write(words); s.flush()\n"
            "    print(s.waitForReadyRead(500))"
        )
        self.assertEqual(started.communicate()[0], "False\nFalse\nFalse\n")
        self.assertEqual(heard, [])

    def test_where_no_window_is_open_nobody_answers(self) -> None:
        self.bell.close()
        self.assertFalse(ring(None))
        self.assertIsNotNone(QCoreApplication.instance())


if __name__ == "__main__":
    unittest.main()
