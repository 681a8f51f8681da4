"""Writing projects: under which name, with which picture, and as copies beside the one that is open."""

from __future__ import annotations

import shutil
from collections.abc import Callable
from pathlib import Path

import numpy as np
from PyQt6.QtWidgets import QWidget

from spiralis.app.session import Session
from spiralis.app.widgets.file_dialogs import ask_save
from spiralis.app.work.beside import beside
from spiralis.core.errors import FileError, SpiralisError
from spiralis.core.media.files import check_target, unwritten
from spiralis.core.media.placing import placed
from spiralis.core.model import Project
from spiralis.core.storage import save
from spiralis.core.storage.project_file import SUFFIX, small_png

FILTER = f"Spiralis projects (*{SUFFIX})"


def shown_name(session: Session) -> str:
    """Return what the open project is called: by its file, where it has one."""
    return session.path.name if session.path is not None else session.project.name


def ask_path(parent: QWidget, session: Session, title: str, ending: str = "") -> Path | None:
    """Ask for the name of a project's file; the open one's with an ``ending`` is offered."""
    usual = Path(session.path or f"{session.project.name.lower().replace(' ', '-')}{SUFFIX}")
    start = str(usual.with_name(f"{usual.stem}{ending}{SUFFIX}"))
    return ask_save(parent, "projects", title, start, FILTER)


def save_seen(project: Project, path: Path, seen: np.ndarray | None) -> None:
    """Save a project with what the canvas shows, premultiplied uint8 (h, w, 4), as its picture."""
    save(project, path, small_png(seen) if seen is not None else None)


class Copies:
    """Writes copies; what is open stays the file that it is. ``picture`` gives what the canvas shows."""

    def __init__(self, session: Session, parent: QWidget, picture: Callable[[], np.ndarray | None]) -> None:
        self.session, self.parent, self._picture = session, parent, picture

    def ask(self) -> None:
        """Ask for a name and save a copy there."""
        path = ask_path(self.parent, self.session, "Save a copy", "-copy")
        if path is not None:
            self.write(path)

    def write(self, path: Path) -> None:
        """Save a copy; a sentence says what went wrong, and then nothing has changed on disk."""
        project, seen = self.session.project, self._picture()
        if self._wrote(path, lambda to: save_seen(project, to, seen)):
            self.session.said.emit(f"Saved a copy as {path.name}; {shown_name(self.session)} is still open.")

    def ask_version(self, version: Path) -> None:
        """Ask for a name and write one of the versions there."""
        path = ask_path(self.parent, self.session, "Write this version", "-earlier")
        if path is not None and self._wrote(path, lambda to: _copy(version, to)):
            self.session.said.emit(f"Wrote the version as {path.name}.")

    def _wrote(self, path: Path, write: Callable[[Path], None]) -> bool:
        session = self.session
        if session.path is not None and path.resolve() == session.path.resolve():
            session.failed.emit(f"“{path.name}” is the open file itself; give the copy another name.")
            return False
        try:
            beside(lambda: write(path))
        except SpiralisError as error:
            session.failed.emit(str(error))
            return False
        return True


def _copy(version: Path, path: Path) -> None:
    """Copy a file, whole or not at all; raises SpiralisError."""
    check_target(path)
    try:
        with placed(path) as temporary:
            shutil.copyfile(version, temporary)
    except OSError as error:
        raise FileError(unwritten(path, error)) from error
