"""Writing the frame under the playhead: flat, as layers, as vectors."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QObject
from PyQt6.QtWidgets import QWidget

from spiralis.app.session import Session
from spiralis.app.widgets.file_dialogs import ask_save
from spiralis.app.work.background import Background
from spiralis.core.media.stills import stills, write_still


class StillFiles(QObject):
    """Asks for a name and writes in the background."""

    def __init__(self, session: Session, window: QWidget) -> None:
        super().__init__(window)
        self.session, self.window_ = session, window
        self.background = Background(self)

    def ask(self) -> None:
        """Ask for a file and write the frame to it."""
        kinds = ";;".join(f"{kind.label}: {kind.help} (*{kind.suffix})" for kind in stills())
        piece = self.session.composition
        path = ask_save(self.window_, "export", "Write this frame", f"{piece.name}.png", kinds)
        if path is not None:
            self.write(path)

    def write(self, path: Path) -> None:
        """Write the frame under the playhead; the ending says as what."""
        project, piece, frame = self.session.project, self.session.composition_id, self.session.frame
        self.background.run(lambda: write_still(project, piece, frame, path), lambda notes: self._done(path, notes))

    def _done(self, path: Path, notes: tuple[str, ...] | Exception) -> None:
        if isinstance(notes, Exception):
            self.session.failed.emit(str(notes))
        else:
            self.session.said.emit(" ".join((f"Wrote {path.name}.", *notes[:4])))
