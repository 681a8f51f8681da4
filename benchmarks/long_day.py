"""A long day's work, sped up: open, play, edit, undo, look, save, close, again and again.

Memory has to stay flat once all caches are full, and no thread and no file may be left. It takes 20 minutes, or as
many as ``SPIRALIS_DAY`` says; the first two fifths fill the caches.
"""

from __future__ import annotations

import os
import random
import tempfile
import threading
import time
from collections.abc import Callable, Iterator
from pathlib import Path

from PyQt6.QtCore import QEvent
from PyQt6.QtWidgets import QApplication

from benchmarks.measure import figure
from spiralis.app.main import application, new_window
from spiralis.app.window import Window
from spiralis.app.work.collecting import collect_everything
from spiralis.app.work.memory import give_back
from spiralis.core.cache import BUDGET
from spiralis.core.model.pieces import whole_pieces

MINUTES = float(os.environ.get("SPIRALIS_DAY", "20"))
#: Small caches are full soon.
_CACHE = 96 << 20
_PAGE = os.sysconf("SC_PAGE_SIZE")


class _Day:
    def __init__(self, app: QApplication, window: Window, folder: Path) -> None:
        self.app, self.window, self.folder = app, window, folder
        self.chance = random.Random(1)
        self.edits = 0

    def rest(self, seconds: float) -> None:
        ends = time.perf_counter() + seconds
        while time.perf_counter() < ends:
            self.app.processEvents()
            # Without a running event loop nothing that asked for it would be deleted.
            self.app.sendPostedEvents(None, QEvent.Type.DeferredDelete.value)
            time.sleep(0.001)

    def round(self) -> None:
        """Do what an hour has of everything."""
        window, session = self.window, self.window.session
        window.files.open(self.folder / "work.spiralis")
        self.rest(0.3)
        for piece in self.chance.sample(whole_pieces(session.project), 2):
            session.show_composition(piece.id)
            window.player.play()
            self.rest(0.8)
            window.player.stop()
            self._edit()
            self._look(self.chance.choice((window.windows.show_export, window.windows.show_seam,
                                           window.windows.show_checks, window.windows.show_guide)))  # fmt: skip
        window.files.save_to(self.folder / "copy.spiralis")
        window.close_piece()
        self.rest(0.2)

    def _edit(self) -> None:
        session = self.window.session
        layers = [layer for layer in session.composition.layers if not layer.locked]
        for layer in self.chance.sample(layers, min(4, len(layers))):
            session.select([layer.id])
            for _ in range(5):
                session.go_to(self.chance.randrange(session.composition.length))
                session.set_property("opacity", self.chance.uniform(20, 100), [layer.id])
                self.rest(0.03)
                self.edits += 1
            for _ in range(5):
                session.undo()
        session.redo()

    def _look(self, show: Callable[[], object]) -> None:
        before = set(self.app.topLevelWidgets())
        show()
        self.rest(0.4)
        for widget in set(self.app.topLevelWidgets()) - before:
            widget.close()
        self.rest(0.1)


def _memory() -> int:
    """Return the bytes that this process has in memory."""
    return int(Path("/proc/self/statm").read_text().split()[1]) * _PAGE


def run() -> Iterator[str]:
    """Yield the figures."""
    app, window = application(), new_window()
    window.resize(1280, 800)
    window.show()
    BUDGET.set_limit(_CACHE)
    with tempfile.TemporaryDirectory() as name:
        day = _Day(app, window, Path(name))
        window.files.open_demo()
        window.files.save_to(day.folder / "work.spiralis")
        begun, rounds = time.perf_counter(), 0
        seen: list[tuple[float, int, int, int]] = []
        while (gone := (time.perf_counter() - begun) / 60) < MINUTES:
            day.round()
            rounds += 1
            collect_everything()  # As the window does every few minutes,
            give_back()  # and once a minute.
            seen.append((gone, _memory(), threading.active_count(), len(os.listdir("/proc/self/fd"))))
        settled = [row for row in seen if row[0] >= 0.4 * MINUTES]
        early, late = settled[: len(settled) // 3 + 1], settled[-(len(settled) // 3 + 1) :]
        memory = max(row[1] for row in late) / max(row[1] for row in early)
        yield figure(f"memory late / early, {rounds} rounds, {day.edits} edits", memory, 1.05,
                     note=f"{max(row[1] for row in late) / 1e6:.0f} MB")  # fmt: skip
        for place, what in ((2, "threads"), (3, "open files")):
            grown = min(row[place] for row in late) - min(row[place] for row in early)
            yield figure(f"1 + {what} late less early", 1.0 + grown, 1.0, note=f"{min(row[place] for row in late)}")
    window.session.history.mark_saved()
    window.close()
