"""The first start on a machine: the program waits for its drawing code, says how far it is, and then opens."""

import stat
import tempfile
from pathlib import Path
from unittest import TestCase
from unittest.mock import patch

from PyQt6.QtWidgets import QPushButton

from spiralis.app.project import getting_ready
from spiralis.core import warm
from tests.app.harness import WindowTest


class GettingReadyTest(WindowTest):
    def started(self, script: str) -> tuple[getting_ready.GettingReady, list[int]]:
        program = self.folder / "compiling"
        program.write_text(f"#!/bin/sh\n{script}\n")
        program.chmod(program.stat().st_mode | stat.S_IXUSR)
        opened: list[int] = []
        with (
            patch.object(getting_ready, "compiled", lambda: False),
            patch.object(getting_ready.sys, "executable", str(program)),
        ):
            getting_ready.when_ready(lambda: opened.append(1))
        self.addCleanup(getting_ready._windows.clear)
        return getting_ready._windows[-1], opened

    def test_it_says_how_far_it_is_and_opens_once_when_it_is_through(self) -> None:
        go = self.folder / "go"
        window, opened = self.started(f'echo "3 of 8"; while [ ! -e "{go}" ]; do sleep 0.05; done; echo "8 of 8"')
        self.assertTrue(window.isVisible())
        self.until(lambda: (window.bar.value(), window.bar.maximum()) == (3, 8))
        self.assertEqual(opened, [])
        go.touch()
        self.until(lambda: bool(opened))
        self.settle(0.2)
        self.assertEqual((opened, window.bar.value(), window.isVisible()), ([1], 8, False))

    def test_where_compiling_fails_the_window_opens_all_the_same(self) -> None:
        _, opened = self.started("exit 3")
        self.until(lambda: bool(opened))
        self.settle(0.2)
        self.assertEqual(opened, [1])

    def test_leaving_ends_the_process_and_opens_nothing(self) -> None:
        window, opened = self.started("exec sleep 60")
        self.settle(0.2)
        with patch.object(getting_ready.QApplication, "quit") as ended:
            self.click(next(b for b in window.findChildren(QPushButton) if b.text() == "Leave"))
            self.settle(0.3)
        self.assertEqual((opened, ended.called), ([], True))
        self.assertEqual(window._process.processId(), 0)

    def test_nothing_is_shown_where_it_was_done_before(self) -> None:
        opened: list[int] = []
        with patch.object(getting_ready, "compiled", lambda: True):
            getting_ready.when_ready(lambda: opened.append(1))
        self.assertEqual((opened, getting_ready._windows), ([1], []))


class StampTest(TestCase):
    def test_the_stamp_holds_for_these_kernels_alone(self) -> None:
        with tempfile.TemporaryDirectory() as name:
            file = Path(name) / "core" / "some" / "kernels" / "a.py"
            file.parent.mkdir(parents=True)
            file.write_text("1")
            with (
                patch.object(warm, "__file__", str(Path(name) / "core" / "warm.py")),
                patch.object(warm, "user_cache_path", lambda _: Path(name) / "cache"),
            ):
                self.assertFalse(warm.compiled())
                warm.set_stamp()
                self.assertTrue(warm.compiled())
                file.write_text("22")
                self.assertFalse(warm.compiled())
