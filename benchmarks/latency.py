"""From an edit to the new picture on the canvas: Kite day in the real window at automatic resolution."""

from __future__ import annotations

import statistics
import time
from collections.abc import Iterator

import numpy as np

from benchmarks.measure import figure


def run() -> Iterator[str]:
    """Yield the figures."""
    from spiralis.app.main import application, new_window

    app = application()
    window = new_window()
    window.resize(1280, 800)
    window.show()
    window.files.open_demo()
    window.session.go_to(60)
    window.session.select(["kite"])
    window.player.wait_for_picture(30, app.processEvents)
    source = np.random.default_rng(3).random(1350 * 1080 * 4, dtype=np.float32)
    taken, copying, stalls = [], [], []
    for turn in range(40):
        started = time.perf_counter()
        np.copyto(np.empty_like(source), source)
        copying.append(time.perf_counter() - started)
        started = time.perf_counter()
        window.session.set_property("scale", (50.0 + turn, 50.0 + turn), ["kite"], merge="benchmark")
        longest, last = 0.0, time.perf_counter()
        while window.player.picture() is None:
            app.processEvents()
            now = time.perf_counter()
            longest, last = max(longest, now - last), now
            time.sleep(0.0005)
        window.canvas.repaint()
        taken.append(time.perf_counter() - started)
        stalls.append(longest)
    middle = statistics.median(taken)
    yield figure(
        "edit to new picture / 50 ms", middle / 0.05, 1.0, note=f"median of 40; slowest {max(taken) / 0.05:.2f}"
    )
    yield figure("edit to new picture / copying a full frame", middle / statistics.median(copying), None)
    yield figure("longest turn of the event loop meanwhile / 50 ms", statistics.median(stalls) / 0.05, 1.0)
    window.session.history.mark_saved()
    window.close()
