"""Whether a piece has see-through parts, looked at beside the window."""

from __future__ import annotations

from PyQt6.QtCore import QObject, pyqtSignal

from spiralis.app.work.background import Background
from spiralis.app.work.renderers import RENDERERS
from spiralis.app.work.soon import Soon
from spiralis.core.media.see_through import shows_through
from spiralis.core.model import Project

#: So long, in ms, the project rests before it is looked at again.
_RESTS = 400


class LookThrough(QObject):
    """Looks at the newest version that it is asked about, once; ``found`` tells whether anything is see-through."""

    found = pyqtSignal(bool)

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._asked: tuple[Project, str] | None = None
        self._background = Background(self)
        self._soon = Soon(self, self._look, wait=_RESTS, rests=True)

    def ask(self, project: Project, piece_id: str) -> None:
        """Look at a piece, the first one at once."""
        before, self._asked = self._asked, (project, piece_id)
        if before is None:
            self._look()
        elif before[0] is not project or before[1] != piece_id:
            self._soon.ask()

    def _look(self) -> None:
        if self._asked is not None:
            project, piece_id = self._asked
            self._background.run_newest(lambda: RENDERERS.work(shows_through, project, piece_id), self._take)

    def _take(self, result: object) -> None:
        if isinstance(result, bool):
            self.found.emit(result)
