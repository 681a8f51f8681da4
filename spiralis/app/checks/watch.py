"""What is to be said of the piece on the canvas without drawing it, worked out beside the window when it rests."""

from __future__ import annotations

from PyQt6.QtCore import QObject, pyqtSignal

from spiralis.app.session import Session
from spiralis.app.work.background import Background
from spiralis.app.work.soon import Soon
from spiralis.core.checks.piece import Findings, check_piece

#: Looking takes the interpreter's lock from whoever works: it waits until nothing has changed for so long, in ms.
_REST = 1500


class ChecksWatch(QObject):
    """``findings`` is None until the first are there; ``changed`` tells of each new ones. Those that a window has found
    by drawing are taken over, so that both say the same."""

    changed = pyqtSignal()

    def __init__(self, session: Session, parent: QObject) -> None:
        super().__init__(parent)
        self.session = session
        self.findings: Findings | None = None
        #: The version and the piece that they are about.
        self._about: tuple[int, str] | None = None
        self._soon = Soon(self, self._look, wait=_REST, rests=True)
        self._background = Background(self)
        session.projectChanged.connect(self._soon.ask)
        session.compositionChanged.connect(self._soon.ask)
        self._soon.ask()

    def _look(self) -> None:
        project, piece = self.session.project, self.session.composition

        def over() -> bool:
            return self.session.project is not project

        def done(found: object) -> None:
            if self.session.project is project and self.session.composition is piece and isinstance(found, Findings):
                self.take(found)

        self._background.run_newest(lambda: check_piece(project, piece, drawn=False, stops=over), done)

    def take(self, findings: Findings) -> None:
        """Take over what somebody has found for the piece as it is now; what was found by drawing stays over what was
        not."""
        about = (self.session.version, self.session.composition_id)
        if about != self._about or self.findings is None or findings.whole or not self.findings.whole:
            self.findings, self._about = findings, about
            self.changed.emit()
