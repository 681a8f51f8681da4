"""The verdict on the loop of the piece on the canvas, worked out beside the window after each change."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QObject, pyqtSignal

from spiralis.app.session import Session
from spiralis.app.work.background import Background
from spiralis.app.work.renderers import RENDERERS
from spiralis.app.work.soon import Soon
from spiralis.core.checks.seam import Verdict, check
from spiralis.core.errors import Cancelled


class SeamWatch(QObject):
    """``verdict`` is None until the first one is there; ``changed`` tells of each new one.

    It waits while somebody is ``busy``: looking takes the processor from frames that are about to be shown.
    """

    changed = pyqtSignal()

    def __init__(self, session: Session, parent: QObject, busy: Callable[[], bool] = lambda: False) -> None:
        super().__init__(parent)
        self.session, self._busy = session, busy
        self.verdict: Verdict | None = None
        self._soon = Soon(self, self._look, wait=250, rests=True)
        self._background = Background(self)
        session.projectChanged.connect(self._soon.ask)
        session.compositionChanged.connect(self._soon.ask)
        self._soon.ask()

    def _look(self) -> None:
        if self._busy():
            self._soon.ask()
            return
        project, piece = self.session.project, self.session.composition

        def done(found: object) -> None:
            if isinstance(found, Cancelled):
                self._soon.ask()
            elif self.session.project is project and self.session.composition is piece and isinstance(found, Verdict):
                self.verdict = found
                self.changed.emit()

        self._background.run_newest(lambda: RENDERERS.work(check, project, piece.id, self._busy), done)
