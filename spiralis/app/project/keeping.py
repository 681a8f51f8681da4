"""Work that is not saved is kept all the same: a copy for after a crash, and versions now and then."""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import numpy as np
from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from spiralis.app.session import Session
from spiralis.app.widgets.preferences import preferred
from spiralis.core.errors import SpiralisError
from spiralis.core.model import Project
from spiralis.core.storage.project_file import small_png
from spiralis.core.storage.recovery import Journal, Recovered
from spiralis.core.storage.versions import keep_version

#: Both in ms.
JOURNAL_DELAY, MINUTE = 3000, 60_000


class Keeping(QObject):
    """Copies unsaved work a moment after a change, and puts it among the versions every few minutes.

    Everything is written by one thread, in the order in which it was asked for. ``picture`` gives what the canvas
    shows, premultiplied uint8 (h, w, 4), for a version's thumbnail. Where no copy can be written ``refused`` says so,
    once until one can.
    """

    refused = pyqtSignal(str)

    def __init__(self, parent: QObject, session: Session, picture: Callable[[], np.ndarray | None]) -> None:
        super().__init__(parent)
        self.session, self._picture = session, picture
        self.journal = Journal()
        self._pool = ThreadPoolExecutor(max_workers=1, thread_name_prefix="journal")
        self._closed, self._told = False, False
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.setInterval(JOURNAL_DELAY)
        self._later.timeout.connect(self._write_journal)
        #: The last state that is among the versions.
        self._kept: Project | None = None
        self._version_due = QTimer(self)
        self._version_due.setSingleShot(True)
        self._version_due.timeout.connect(self.keep_now)
        session.projectChanged.connect(self.note_change)

    def note_change(self) -> None:
        """See to it that what is unsaved now is kept soon."""
        if self.session.history.unsaved and not self._later.isActive() and not self._closed:
            self._later.start()
        if self.session.history.unsaved and not self._version_due.isActive() and not self._closed:
            self._version_due.start(preferred("autosave") * MINUTE)

    def keep_now(self, why: str = "while working") -> None:
        """Keep the project as it is among its versions."""
        project, path, seen = self.session.project, self.session.path, self._picture()
        if project is not self._kept and not self._closed:
            self._kept = project
            self._pool.submit(_keep, path, project, why, seen)

    def _write_journal(self) -> None:
        if self.session.history.unsaved:
            self._pool.submit(self._write_copy, self.session.project, self.session.path)

    def write_copy_now(self) -> None:
        """Copy unsaved work at once, without waiting for the next moment of rest."""
        self._later.stop()
        self._write_journal()

    def _write_copy(self, project: Project, path: Path | None, recovered: Journal | None = None) -> None:
        try:
            self.journal.write(project, path)
        except (SpiralisError, OSError) as error:
            # The work itself is untouched, a recovered copy stays, and the next change tries again.
            if not self._told:
                self._told = True
                why = f" ({error.strerror})" if isinstance(error, OSError) and error.strerror else ""
                self.refused.emit(
                    f"Unsaved work cannot be copied into “{self.journal.path.parent}”{why}: a crash would lose it; "
                    "save now and then, or make room there."
                )
            return
        self._told = False
        if recovered is not None:
            recovered.discard()

    def take_over(self, found: Recovered) -> None:
        """Copy what was recovered; the copy that was found goes only when this window's own one is whole."""
        self._pool.submit(self._write_copy, self.session.project, found.original, found.journal)

    def saved(self) -> None:
        """The work is saved: no copy of it is needed until the next change."""
        self._later.stop()
        self._pool.submit(self.journal.discard)

    def begin_anew(self) -> None:
        """Another project takes this one's place."""
        self._version_due.stop()
        self.saved()

    def close(self) -> None:
        """The window closes with everything settled; what is being written is waited for."""
        self._end()
        self.journal.discard()

    def leave(self) -> None:
        """The window goes as it is; a copy of what is unsaved stays."""
        self._write_journal()
        self._end()

    def _end(self) -> None:
        self._closed = True
        self._later.stop()
        self._version_due.stop()
        self._pool.shutdown(wait=True)


def _keep(path: Path | None, project: Project, why: str, seen: np.ndarray | None) -> None:
    """Put a state of the project among its versions; where that cannot be, work goes on all the same."""
    try:
        keep_version(path, project, why, small_png(seen) if seen is not None else None)
    except (SpiralisError, OSError):
        return
