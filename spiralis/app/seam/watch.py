"""The verdict on the loop of the piece on the canvas, worked out beside the window after each change."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QObject, pyqtSignal

from spiralis.app.checks.looking import Looking
from spiralis.app.session import Session
from spiralis.app.work.soon import Soon
from spiralis.core.checks.seam import Verdict, check
from spiralis.core.model import Composition


class SeamWatch(QObject):
    """``verdict`` is None until the first one is there; ``changed`` tells of each new one.

    It waits while somebody is ``busy``: looking takes the processor from frames that are about to be shown.
    """

    changed = pyqtSignal()

    def __init__(self, session: Session, parent: QObject, busy: Callable[[], bool] = lambda: False) -> None:
        super().__init__(parent)
        self._busy = busy
        self.verdict: Verdict | None = None
        self._soon = Soon(self, self._look, wait=250, rests=True)
        self._looking = Looking(session, self)
        self.session, self._piece = session, session.composition_id
        session.projectChanged.connect(self._soon.ask)
        session.compositionChanged.connect(self._begin_anew)
        self._soon.ask()

    def _begin_anew(self) -> None:
        """Say nothing of another piece until it was looked at."""
        if self._piece != self.session.composition_id:
            self._piece, self.verdict = self.session.composition_id, None
            self.changed.emit()
        self._soon.ask()

    def _look(self) -> None:
        if self._busy():
            self._soon.ask()
        else:
            self._looking.look(check, self._take, self._busy, self._soon.ask)

    def _take(self, _: Composition, verdict: Verdict) -> None:
        self.verdict = verdict
        self.changed.emit()
