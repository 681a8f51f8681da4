"""One export in a thread of its own, told about by signals."""

from __future__ import annotations

import threading
from collections.abc import Callable
from functools import partial
from pathlib import Path

from attrs import evolve
from PyQt6.QtCore import QObject, pyqtSignal

from spiralis.core.errors import Cancelled, SpiralisError
from spiralis.core.media.exporters import Exporter, ExportJob, ExportProgress, export
from spiralis.core.storage.parts import parts_for


class RunningExport(QObject):
    """Runs a job; exactly one of ``finished``, ``failed`` and ``stopped`` comes at the end."""

    progressed = pyqtSignal(object)
    finished = pyqtSignal(object)
    failed = pyqtSignal(str)
    stopped = pyqtSignal()

    def __init__(self, kind: Exporter, path: Path, make: Callable[[], ExportJob]) -> None:
        super().__init__()
        self.kind, self.path, self._make = kind, path, make
        self._cancelled = threading.Event()
        self._goes = threading.Event()
        self._goes.set()
        self.thread_ = threading.Thread(target=self._run, name="export", daemon=True)

    def start(self) -> None:
        """Begin."""
        self.thread_.start()

    def _tell(self, progress: ExportProgress) -> None:
        self.progressed.emit(progress)
        # Held here, between two frames, it takes no processor time and keeps what it has.
        self._goes.wait()

    def cancel(self) -> None:
        """Ask it to stop; ``stopped`` follows and nothing is left on disk."""
        self._cancelled.set()
        self._goes.set()

    def pause(self, on: bool) -> None:
        """Hold it between two frames, or let it go on."""
        self._goes.clear() if on else self._goes.set()

    @property
    def running(self) -> bool:
        """Whether it is still at work."""
        return self.thread_.is_alive()

    def _run(self) -> None:
        try:
            # What is written again is begun anew: a job that was stopped is not gone on with.
            job = evolve(self._make(), progress=self._tell, cancelled=self._cancelled.is_set)
            job.parts = partial(parts_for, self.kind, job)
            result = export(self.kind, job)
        except Cancelled:
            self.stopped.emit()
        except SpiralisError as error:
            self.failed.emit(str(error))
        except Exception as error:
            # Whatever else breaks must end in a sentence, not in a progress bar that stands still for ever.
            self.failed.emit(f"“{self.path.name}” could not be written ({type(error).__name__}); please try again.")
        else:
            self.finished.emit(result)
