"""The export list: files that are written one after another beside the work."""

from __future__ import annotations

import time
from collections.abc import Callable
from pathlib import Path

from attrs import define
from PyQt6.QtCore import QCoreApplication, QObject, Qt, pyqtSignal

from spiralis.app.export.running import RunningExport
from spiralis.core.media.exporters import Exporter, ExportJob, ExportProgress, ExportResult

#: So long, in s, what is being written is waited for as the program ends.
_LEAVES = 3.0
WAITING, WRITING, PAUSED, DONE, FAILED, STOPPED = "waiting", "writing", "paused", "done", "failed", "stopped"


@define(eq=False)
class Item:
    """One file of the list. ``make`` gives its job when its turn comes; ``sentence`` says what went wrong, or what was
    done."""

    kind: Exporter
    path: Path
    make: Callable[[], ExportJob]
    state: str = WAITING
    progress: ExportProgress | None = None
    result: ExportResult | None = None
    sentence: str = ""
    run: RunningExport | None = None

    @property
    def ended(self) -> bool:
        """Whether nothing more happens to it by itself."""
        return self.state in (DONE, FAILED, STOPPED)


class ExportQueue(QObject):
    """``changed`` tells of every change of the list, ``progressed`` and ``ended`` of one item of it."""

    changed = pyqtSignal()
    progressed = pyqtSignal(object)
    ended = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        self.items: list[Item] = []
        self._over: list[RunningExport] = []

    @property
    def busy(self) -> bool:
        """Whether a file is being written, or is to be."""
        return any(not item.ended for item in self.items)

    @property
    def writing(self) -> Item | None:
        """The file that is being written, paused or not."""
        return next((item for item in self.items if item.run is not None), None)

    def promises(self, path: Path) -> bool:
        """Whether a file of this name is being written, or is to be."""
        return any(not item.ended and item.path.absolute() == path.absolute() for item in self.items)

    def add(self, kind: Exporter, job: ExportJob) -> Item:
        """Put a file at the end of the list, and begin where nothing else is being written."""
        return self.add_later(kind, job.path, lambda: job)

    def add_later(self, kind: Exporter, path: Path, make: Callable[[], ExportJob]) -> Item:
        """Put a file on the list whose job is made only when its turn comes, beside the window; ``make`` may raise a
        SpiralisError."""
        item = Item(kind, path, make)
        self.items.append(item)
        self._go_on()
        self.changed.emit()
        return item

    def _go_on(self) -> None:
        waiting = next((item for item in self.items if item.state == WAITING), None)
        if self.writing is not None or waiting is None:
            return
        item, run = waiting, RunningExport(waiting.kind, waiting.path, waiting.make)
        item.state, item.run = WRITING, run
        queued = Qt.ConnectionType.QueuedConnection
        run.progressed.connect(lambda progress: self._on_progress(item, progress), queued)
        run.finished.connect(lambda result: self._end(item, DONE, result), queued)
        run.failed.connect(lambda sentence: self._end(item, FAILED, None, sentence), queued)
        run.stopped.connect(lambda: self._end(item, STOPPED, None, "Stopped; nothing was written."), queued)
        run.start()

    def _on_progress(self, item: Item, progress: ExportProgress) -> None:
        if item.run is not None:
            item.progress = progress
            self.progressed.emit(item)

    def _end(self, item: Item, state: str, result: ExportResult | None, sentence: str = "") -> None:
        # A run is let go of by this thread, and only when its own thread has come to its end.
        self._over = [run for run in self._over if run.running] + ([item.run] if item.run is not None else [])
        item.state, item.result, item.sentence, item.run = state, result, sentence, None
        self._go_on()
        self.ended.emit(item)
        self.changed.emit()

    def cancel(self, item: Item) -> None:
        """Stop a file that is being written, or take one that waits out of turn; nothing is left on disk."""
        if item.run is not None:
            item.run.cancel()
        elif item.state == WAITING:
            item.state, item.sentence = STOPPED, "Stopped; nothing was written."
            self.changed.emit()

    def stop_all(self) -> None:
        """Stop everything as the program ends, and wait until nothing is left on disk; for a few seconds at most."""
        for item in self.items:
            self.cancel(item)
        ends = time.monotonic() + _LEAVES
        while self.writing is not None and time.monotonic() < ends:
            QCoreApplication.processEvents()
            time.sleep(0.005)

    def pause(self, item: Item, on: bool) -> None:
        """Hold the writing of a file, or let it go on."""
        if item.run is not None:
            item.run.pause(on)
            item.state = PAUSED if on else WRITING
            self.changed.emit()

    def retry(self, item: Item) -> None:
        """Write a file again that failed or was stopped."""
        if item.state in (FAILED, STOPPED):
            item.state, item.sentence, item.progress = WAITING, "", None
            self._go_on()
            self.changed.emit()

    def move(self, item: Item, step: int) -> None:
        """Let a file that waits come sooner (-1) or later (1)."""
        place = self.items.index(item)
        if self.may_move(item, step):
            self.items.insert(place + step, self.items.pop(place))
            self.changed.emit()

    def may_move(self, item: Item, step: int) -> bool:
        """Whether a file waits, and the one before or after it as well."""
        goal = self.items.index(item) + step
        return item.state == WAITING and 0 <= goal < len(self.items) and self.items[goal].state == WAITING

    def forget(self, item: Item) -> None:
        """Take an ended file off the list; the file itself stays."""
        if item.ended:
            self.items.remove(item)
            self.changed.emit()
