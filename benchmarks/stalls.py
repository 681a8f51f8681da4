"""How long the window does not answer while it works: the longest gap between ticks of a timer, over 50 ms.

Each figure is the median of windows in processes of their own, as other work on the machine stalls any of them now and
then. ``python -m benchmarks.stalls`` prints the seconds of one.
"""

from __future__ import annotations

import json
import os
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from itertools import pairwise
from pathlib import Path

import numpy as np
from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtGui import QImage
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from benchmarks.many_layers import crowd
from benchmarks.measure import figure
from spiralis.app.main import application, new_window
from spiralis.app.moves import MovesChooser
from spiralis.app.window import Window
from spiralis.app.work.renderers import RENDERERS

#: What may hold the window, in s; reading a project may take longer.
_MOST, _OPENING = 0.05, 0.15
_WINDOWS = 3


class _Stalls:
    """Times the gaps in the event loop while something is done and for some seconds after."""

    def __init__(self, app: QApplication) -> None:
        self.app = app
        self.ticks: list[float] = []
        self.timer = QTimer()
        self.timer.setInterval(2)
        self.timer.timeout.connect(lambda: self.ticks.append(time.perf_counter()))
        self.timer.start()

    def rest(self, seconds: float) -> None:
        ends = time.perf_counter() + seconds
        while time.perf_counter() < ends:
            self.app.processEvents()
            time.sleep(0.001)

    def longest(self, work: Callable[[], object], seconds: float = 2.0) -> float:
        """Return the longest gap in seconds."""
        self.rest(0.5)
        self.ticks[:] = [time.perf_counter()]
        work()
        self.rest(seconds)
        self.ticks.append(time.perf_counter())
        return max(later - earlier for earlier, later in pairwise(self.ticks))


def _large_picture() -> QImage:
    pixels = np.random.default_rng(1).integers(0, 255, (5000, 4000, 3), dtype=np.uint8)
    return QImage(pixels.data, 4000, 5000, 12000, QImage.Format.Format_RGB888).copy()


def run() -> Iterator[str]:
    """Yield the figures."""
    runs = [
        json.loads(
            subprocess.run(
                [sys.executable, "-m", "benchmarks.stalls"], capture_output=True, check=True
            ).stdout.splitlines()[0]
        )
        for _ in range(_WINDOWS)
    ]
    for what in runs[0]:
        most = _OPENING if what == "opening the demo" else _MOST
        longest = statistics.median(each[what] for each in runs)
        yield figure(f"longest stall, {what} / {1000 * most:g} ms", longest / most, 1.0)


def _beginning_to_type(window: Window, stalls: _Stalls) -> Iterator[tuple[str, float]]:
    """Put two texts on the canvas, each with a caret in it; what the first needs is built while one types."""
    for which in ("a first", "another"):
        yield f"beginning to type {which} text", stalls.longest(window.editor.add_strip.add_text)
        for letter in "kites":
            QTest.keyClick(QApplication.focusWidget(), letter)
            stalls.rest(0.08)
        QTest.keyClick(QApplication.focusWidget(), Qt.Key.Key_Escape)


def _stalls_of_one_window() -> Iterator[tuple[str, float]]:
    app = application()
    window = new_window()
    window.resize(1280, 800)
    window.show()
    stalls = _Stalls(app)

    yield "opening the demo", stalls.longest(window.files.open_demo, 4.0)
    # The program starts them by itself soon after it is there.
    RENDERERS.start()
    while not (RENDERERS.ready(0) and RENDERERS.ready(1)):
        stalls.rest(0.2)
    with tempfile.TemporaryDirectory() as folder:
        yield "saving it", stalls.longest(lambda: window.files.save_to(Path(folder) / "demo.spiralis"))
    yield from _beginning_to_type(window, stalls)
    yield "choosing a layer", stalls.longest(lambda: window.session.select(["kite"]))
    made: list[MovesChooser] = []

    def choose() -> None:
        made.append(MovesChooser(window, window.session, window.player))
        made[0].show()
        stalls.rest(0.5)
        made[0].tiles["spring-in"].click()

    yield "choosing a move", stalls.longest(choose)
    yield "taking it", stalls.longest(made[0].accept)
    yield "opening export", stalls.longest(window.windows.show_export, 3.0)
    if window.windows.export is not None:
        window.windows.export.close()
    clipboard = QApplication.clipboard()
    if clipboard is not None:
        clipboard.setImage(_large_picture())
        yield "pasting a picture of 4000 x 5000", stalls.longest(window.clipboard.paste, 5.0)
    window.session.history.mark_saved()
    window.session.replace_project(crowd(), None)
    window.show_editor()
    stalls.rest(6.0)

    def scroll() -> None:
        bar = window.editor.timeline.area.verticalScrollBar()
        for place in range(0, bar.maximum(), max(bar.maximum() // 40, 1)):
            bar.setValue(place)
            stalls.rest(0.02)

    def choose_some() -> None:
        for number in range(0, 1000, 101):
            window.session.select([f"layer{number}"])
            stalls.rest(0.3)

    yield "scrolling through 1000 layers", stalls.longest(scroll)
    yield "choosing among 1000 layers", stalls.longest(choose_some)
    window.session.history.mark_saved()
    window.close()


if __name__ == "__main__":
    print(json.dumps(dict(_stalls_of_one_window())), flush=True)
    # Threads that still make frames must not keep the process from ending.
    os._exit(0)
