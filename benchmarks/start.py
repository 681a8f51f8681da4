"""Start of the window, cold and warm, beside starting Python with an empty Qt window."""

from __future__ import annotations

import os
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator

from benchmarks.measure import figure

EMPTY = "from PyQt6.QtWidgets import *; a = QApplication([]); w = QWidget(); w.show(); a.processEvents()"
START = (
    "from spiralis.app.main import *\n"
    "app = application(); w = new_window(); w.show(); app.processEvents()\n"
    "{more}\n"
    "import os; os._exit(0)"
)
DEMO = "w.files.open_demo(); w.player.wait_for_picture(60, app.processEvents)"


def _seconds(code: str, cache: str) -> float:
    started = time.perf_counter()
    subprocess.run([sys.executable, "-c", code], check=True, env={**os.environ, "XDG_CACHE_HOME": cache},
                   stderr=subprocess.DEVNULL)  # fmt: skip
    return time.perf_counter() - started


def run() -> Iterator[str]:
    """Yield the figures."""
    with tempfile.TemporaryDirectory() as cache:
        cold = _seconds(START.format(more=DEMO), cache)
        warm = [_seconds(START.format(more=DEMO), cache) for _ in range(3)]
        window = [_seconds(START.format(more=""), cache) for _ in range(3)]
        empty = [_seconds(EMPTY, cache) for _ in range(3)]
    base = statistics.median(empty)
    yield figure("window shown, warm / 2 s", statistics.median(window) / 2, 1.0)
    yield figure("window shown, warm / an empty Qt window", statistics.median(window) / base, None)
    yield figure("demo's first picture, warm / an empty Qt window", statistics.median(warm) / base, None)
    yield figure("demo's first picture, its artwork drawn anew / an empty Qt window", cold / base, None)
