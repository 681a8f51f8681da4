"""A file that is wanted for a property of the chosen layers: read in the background, and set there in one step."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QWidget

from spiralis.app.session import Session
from spiralis.app.widgets.file_dialogs import ask_open, files_with
from spiralis.app.work.background import Background
from spiralis.core.editing.exchanging import size_of
from spiralis.core.editing.flattening import read_one_source, suffixes_for
from spiralis.core.media.sources import check_taken
from spiralis.core.model import Project, Source

#: The room, in px, of outlines that come where nothing was: they are drawn sharp for twice of it.
_ROOM = (540.0, 540.0)


class FileForProperty(QObject):
    """Asks for a file and gives it to the layers that were chosen then."""

    finished = pyqtSignal()

    def __init__(self, session: Session, window: QWidget) -> None:
        super().__init__(window)
        self.session, self.window_ = session, window
        self.background = Background(self, change=True)
        session.fileAsked.connect(self.ask)

    def ask(self, name: str) -> None:
        """Ask for a file for a property of the chosen layers."""
        if not self.session.layers:
            return
        parameter = self.session.layers[0].parameter(name)
        path = ask_open(self.window_, "artwork", parameter.label, files_with("Files", suffixes_for(parameter)))
        if path is not None:
            self.bring(path, name)

    def bring(self, path: Path, name: str) -> None:
        """Read a file and give it to a property of the layers that are chosen now."""
        session = self.session
        project, history, piece = session.project, session.history, session.composition_id
        ids = list(session.selected)
        parameter = session.layers[0].parameter(name)
        held = project.source(session.evaluated().values(session.layers[0])[name])
        room = size_of(held) if held is not None else _ROOM

        def take(found: Source | Exception) -> None:
            there = session.history is history and session.composition_id == piece
            layers = [layer for layer in session.composition.layers if layer.id in ids and layer.has(name)]
            if isinstance(found, Exception):
                session.failed.emit(str(found))
            elif not there or not layers:
                session.failed.emit(f"{path.name} did not come in: what it was wanted for is not here any more.")
            else:
                self._set(session.project, found, name, [layer.id for layer in layers])
            self.finished.emit()

        self.background.run(lambda: check_taken(read_one_source(path, project, room), parameter), take)

    def _set(self, project: Project, found: Source, name: str, ids: list[str]) -> None:
        project, source = project.with_source(found)
        merge = f"file-for-{name}-{self.session.version}"
        self.session.edit_project(f"Bring in {source.name}", project, merge)
        self.session.set_property(name, source.id, ids, merge)
        self.session.close_step()
