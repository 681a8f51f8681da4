"""What is to be said of the piece on the canvas, worked out beside the window when it rests.

What needs no drawing is looked at a moment after the last change; the frames themselves once nobody has touched
anything for a while.
"""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QObject, pyqtSignal

from spiralis.app.checks.looking import Looking
from spiralis.app.session import Session
from spiralis.app.work.soon import Soon
from spiralis.core.checks.piece import Findings, check_piece

#: Looking takes the interpreter's lock from whoever works: it waits until nothing has changed for so long, in ms.
_REST = 1500
#: Drawing all frames waits longer, and is given up as soon as somebody goes on.
_LONG_REST = 12_000


class ChecksWatch(QObject):
    """``findings`` is None until the first are there; ``changed`` tells of each new ones. Those that a window has found
    by drawing are taken over, so that both say the same."""

    changed = pyqtSignal()

    def __init__(
        self, session: Session, parent: QObject, busy: Callable[[], bool] = lambda: False,
        playing: Callable[[], bool] = lambda: False,
    ) -> None:  # fmt: skip
        """Look while nobody is ``busy``, at the frames while nothing is ``playing`` either."""
        super().__init__(parent)
        self._busy, self._playing = busy, playing
        self.session = session
        self.findings: Findings | None = None
        #: The version and the piece that they are about.
        self._about: tuple[int, str] | None = None
        self._soon = Soon(self, self._look, wait=_REST, rests=True)
        self._looking = Looking(session, self)
        self._touched = 0
        self._drawing = Soon(self, self._look_whole, wait=_LONG_REST, rests=True)
        for signal in (session.projectChanged, session.compositionChanged, session.frameChanged,
                       session.selectionChanged):  # fmt: skip
            signal.connect(self._touch)
        self._piece = session.composition_id
        session.projectChanged.connect(self._soon.ask)
        session.compositionChanged.connect(self._begin_anew)
        self._soon.ask()

    def _begin_anew(self) -> None:
        """Say nothing of another piece until it was looked at."""
        if self._piece != self.session.composition_id:
            self._piece, self.findings, self._about = self.session.composition_id, None, None
            self.changed.emit()
        self._soon.ask()

    def _look(self) -> None:
        if self._busy():
            self._soon.ask()
        else:
            self._run(self._busy, self._soon, drawn=False)

    def _run(self, over: Callable[[], bool], again: Soon, drawn: bool) -> None:
        """Look at the piece beside the window; ``again`` where that is ``over`` before anything is found."""
        self._looking.look(check_piece, lambda _, findings: self.take(findings), over, again.ask, drawn=drawn)

    def _touch(self) -> None:
        self._touched += 1
        self._drawing.ask()

    def _look_whole(self) -> None:
        """Look at the frames too, as long as nobody does anything."""
        about = (self.session.version, self.session.composition_id)
        if self._playing():
            self._drawing.ask()
            return
        if about == self._about and self.findings is not None and self.findings.whole:
            return
        touched = self._touched
        self._run(lambda: self._touched != touched or self._playing(), self._drawing, drawn=True)

    def take(self, findings: Findings) -> None:
        """Take over what somebody has found for the piece as it is now; what was found by drawing stays over what was
        not."""
        about = (self.session.version, self.session.composition_id)
        if about != self._about or self.findings is None or findings.whole or not self.findings.whole:
            self.findings, self._about = findings, about
            self.changed.emit()
