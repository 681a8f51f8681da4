"""What one does with a finding: mend it, show where it is, leave it alone for a reason, look at it again."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QObject
from PyQt6.QtWidgets import QInputDialog, QWidget

from spiralis.app.checks.rows import CauseList
from spiralis.app.session import Session
from spiralis.core.checks.findings import Cause, ignored, mended, mends_of, not_ignored
from spiralis.core.editing.keys import KeyRef
from spiralis.core.errors import SpiralisError
from spiralis.core.model import Composition


class CauseActs(QObject):
    """Does what the rows of a list ask for; each is one undo step."""

    def __init__(self, parent: QWidget, session: Session, rows: CauseList) -> None:
        super().__init__(parent)
        self._window, self.session = parent, session
        rows.mendAsked.connect(self.mend)
        rows.showAsked.connect(self.show_cause)
        rows.leaveAsked.connect(self._ask_leave)
        rows.lookAsked.connect(self.look_again)

    def mend(self, cause: Cause, name: str) -> None:
        """Mend a cause in one of its ways, as one step."""
        label = next(way.label for way in mends_of(cause) if way.name == name)
        try:
            project = mended(self.session.project, cause, name)
        except SpiralisError as error:
            self.session.failed.emit(str(error))
            return
        self.session.edit_project(f"Mend: {label}", project)

    def show_cause(self, cause: Cause) -> None:
        """Choose what a cause is about, in its own composition, and go to its first frame."""
        session = self.session
        if session.composition_id != cause.piece:
            session.show_composition(cause.piece)
        layer = session.composition.find(cause.layer)
        if layer is not None:
            keys = layer.track(cause.name).keys if cause.name and layer.has(cause.name) else ()
            session.select([layer.id], [KeyRef(layer.id, cause.name, key.frame) for key in keys])
        if cause.frames is not None:
            session.go_to(cause.frames[0])

    def _ask_leave(self, cause: Cause) -> None:
        reason, sure = QInputDialog.getText(
            self._window, "Leave it alone", f"{cause.sentence}\nWhy it is meant to be so:"
        )
        if sure:
            self.leave(cause, reason)

    def leave(self, cause: Cause, reason: str) -> None:
        """Leave a cause alone from now on; the project remembers it, with the reason."""
        self._edit_piece("Leave a finding as it is", lambda piece: ignored(piece, cause, reason))

    def look_again(self, cause: Cause) -> None:
        """Count a cause again."""
        self._edit_piece("Look at a finding again", lambda piece: not_ignored(piece, cause))

    def _edit_piece(self, name: str, change: Callable[[Composition], Composition]) -> None:
        self.session.edit(name, change, locked_too=True)
