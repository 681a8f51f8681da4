"""Start of the commands and of the window, warm: the least of turns, as other work on the machine only adds to it.

Python may keep its compiled code, as it does wherever nobody forbids it.
"""

from __future__ import annotations

import math
import os
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

from benchmarks.measure import figure
from spiralis.core.storage.project_file import save
from spiralis.demo.stored import stored_demo

#: What the ratios are set beside.
IMPORTS = ("-c", "import PyQt6.QtWidgets, numpy, numba")
_START = (
    "from spiralis.app.main import *\n"
    "app = application(); w = new_window(); w.show(); app.processEvents()\n"
    "{more}\n"
    "import os; os._exit(0)"
)
_DEMO = "w.files.open_demo(); w.player.wait_for_picture(60, app.processEvents)"
#: Turns at least, and at most while a goal is missed: a start of a second seldom falls wholly into a quiet moment.
_TURNS, _MOST = 9, 40


def _seconds(arguments: tuple[str, ...], cache: str) -> float:
    started = time.perf_counter()
    subprocess.run(
        [sys.executable, *arguments], check=True, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
        env={**os.environ, "XDG_CACHE_HOME": cache, "PYTHONDONTWRITEBYTECODE": ""},
    )  # fmt: skip
    return time.perf_counter() - started


def run() -> Iterator[str]:
    """Yield the figures."""
    with tempfile.TemporaryDirectory() as cache:
        project, picture = Path(cache) / "demo.spiralis", str(Path(cache) / "frame.png")
        save(stored_demo(), project, b"")
        commands = {
            "imports": IMPORTS,
            "`spiralis info` / 0.4 s": ("-m", "spiralis", "info", str(project)),
            "`spiralis frame` / 1.2 s": ("-m", "spiralis", "frame", str(project), "-c", "kite-day", "--at", "30",
                                         "-o", picture),
            "window shown / 1.2 s": ("-c", _START.format(more="")),
            "demo's first picture / 1.8 s": ("-c", _START.format(more=_DEMO)),
        }  # fmt: skip
        cold = _seconds(commands["demo's first picture / 1.8 s"], cache)
        goals = {what: float(what.split()[-2]) for what in list(commands)[1:]}
        taken: list[dict[str, float]] = []
        least = dict.fromkeys(commands, math.inf)
        while len(taken) < _TURNS or (len(taken) < _MOST and any(least[what] > goals[what] for what in goals)):
            # In turns, so that slow minutes fall on all of them alike.
            taken.append({what: _seconds(command, cache) for what, command in commands.items()})
            least = {what: min(least[what], taken[-1][what]) for what in commands}
    for what, goal in goals.items():
        median = statistics.median(each[what] for each in taken)
        note = f"imports {least['imports']:.2f} s; median of {len(taken)}: {median:.2f} s"
        yield figure(what, least[what] / goal, 1.0, note=note)
    yield figure("demo's first picture, its artwork drawn anew / the imports", cold / least["imports"], None)
