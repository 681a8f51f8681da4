"""New, open, save, recovery: the project's life on disk."""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction
from functools import partial
from pathlib import Path

import numpy as np
from attrs import evolve
from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QMessageBox, QWidget

from spiralis.app.project.copying import FILTER, Copies, ask_path, save_seen
from spiralis.app.project.guarding import Answer, Guard, ask_about, free_name
from spiralis.app.project.keeping import Keeping
from spiralis.app.project.places import keep_place, place_of
from spiralis.app.project.recent import remember
from spiralis.app.session import Session
from spiralis.app.widgets.asking import sure
from spiralis.app.widgets.file_dialogs import ask_open
from spiralis.app.work.beside import beside
from spiralis.app.work.collecting import expect_no_cycles
from spiralis.core.errors import SpiralisError
from spiralis.core.model import Composition, Project
from spiralis.core.raster.fonts import missing_families
from spiralis.core.storage import load
from spiralis.core.storage.recovery import Recovered, left_behind
from spiralis.core.warm import warm_easing


def empty_project() -> Project:
    """Return the project behind the start page."""
    return Project("Untitled", (Composition("Piece", 1080, 1350, Fraction(25), 100),))


class Files(QObject):
    """Opens and saves the session's project; what is unsaved lies with ``keeping``."""

    opened = pyqtSignal()
    savedChanged = pyqtSignal()
    fontsMissing = pyqtSignal(list)

    def __init__(self, session: Session, window: QWidget) -> None:
        super().__init__(window)
        self.session, self.window_ = session, window
        self._guard = Guard()
        self._closed = False
        #: Whether a project was opened or begun since the window came up; before that there is only an empty one.
        self.has_piece = False
        #: Gives what the canvas shows, premultiplied uint8 (h, w, 4), for the file's thumbnail.
        self.picture: Callable[[], np.ndarray | None] = lambda: None
        self.keeping = Keeping(self, session, lambda: self.picture())
        self.keeping.refused.connect(session.failed)
        self.copies = Copies(session, window, lambda: self.picture())
        session.projectChanged.connect(self.savedChanged)

    def new(self, piece: Composition) -> None:
        """Start a project with one composition."""
        if self.may_leave():
            self._show(Project("Untitled", (piece,)), None)

    def start(self, project: Project) -> None:
        """Show a project that has no file yet."""
        if self.may_leave():
            self._show(project, None)
            self.session.history.commit("Bring artwork in", evolve(project, name=project.name))
            self.keeping.note_change()
            self.savedChanged.emit()

    def open_demo(self) -> bool:
        """Open the demo project, as a new one without a file; False where the open one is to stay."""
        from spiralis.demo.stored import stored_demo

        if not self.may_leave():
            return False
        self._show(beside(stored_demo), None)
        return True

    def open_study(self, piece_id: str) -> None:
        """Open the demo at one of its pieces."""
        if self.open_demo() and self.session.project.find(piece_id) is not None:
            self.session.show_composition(piece_id)

    def ask_open(self) -> None:
        """Ask for a project and open it."""
        path = ask_open(self.window_, "projects", "Open a project", FILTER)
        if path is not None:
            self.open(path)

    def open(self, path: Path) -> bool:
        """Open a project; where it cannot be read the open one stays and a sentence says why."""
        project, version = self._read(path), self.session.history.saved
        if project is None or not self.may_leave():
            return False
        if self.session.history.saved != version:
            # What was open was saved on the way, to this very file perhaps.
            project = self._read(path)
        return project is not None and self._show_opened(project, path)

    def _read(self, path: Path) -> Project | None:
        """Return a project as it is in its file; None where a sentence said why it cannot be read."""
        try:
            project = beside(lambda: load(path))
            if not project.compositions:
                raise SpiralisError(f"“{path.name}” holds no composition, so there is nothing to show.")
        except SpiralisError as error:
            self.session.failed.emit(str(error))
            return None
        return project

    def _show_opened(self, project: Project, path: Path) -> bool:
        self._show(project, path)
        remember(path)
        fonts = missing_families(project)
        if fonts:
            self.fontsMissing.emit(fonts)
        missing = [source.name for source in project.sources if source.missing]
        if missing:
            names = ", ".join(missing[:6]) + (" and more" if len(missing) > 6 else "")
            self.session.failed.emit(
                f"{len(missing)} file{'s are' if len(missing) > 1 else ' is'} missing from “{path.name}”: {names}. "
                "Their places are marked; Sources (Ctrl+J) finds them again."
            )
        return True

    def _show(self, project: Project, path: Path | None) -> None:
        if self._closed:
            return  # The window was closed while the file was still being read.
        self.keep_place()
        self.keeping.begin_anew()
        if not self.has_piece:
            # The first piece: its curves are painted at once, and must not wait for what draws its frames.
            beside(warm_easing)
        self.has_piece = True
        expect_no_cycles()
        self.session.replace_project(project, path, place_of(path))
        self.opened.emit()
        self.savedChanged.emit()
        shared = self._guard.took(path)
        if shared:
            self.session.said.emit(shared)

    def save(self) -> bool:
        """Save to the project's file, asking for one where there is none."""
        return self.save_to(self.session.path) if self.session.path else self.ask_save()

    def ask_save(self) -> bool:
        """Ask for a name and save."""
        path = ask_path(self.window_, self.session, "Save the project")
        return path is not None and self.save_to(path)

    def revert(self) -> None:
        """Go back to the file as it was saved last, after asking."""
        path = self.session.path
        if path is None:
            self.session.failed.emit("This project has no file yet, so there is nothing to go back to.")
            return
        if self.session.history.unsaved and not self._may_revert(path):
            return
        project = self._read(path)
        if project is not None:
            self.keeping.keep_now("before going back")
            self._show_opened(project, path)

    def _may_revert(self, path: Path) -> bool:
        told, more = f"What has changed since “{path.name}” was saved would go.", "It stays among the versions (File)."
        return sure(self.window_, "Back to the saved file", told, more, "Go back", "Leave it")

    def save_to(self, path: Path) -> bool:
        """Save to a file; a sentence says what went wrong, and then nothing has changed on disk."""
        session = self.session
        project, version = session.project, session.version
        if self._guard.changed_meanwhile(path):
            answer = ask_about(self.window_, path)
            if answer is Answer.CANCEL:
                return False
            if answer is Answer.OPEN_THEIRS:
                self._open_theirs(path)
                return False
            path = free_name(path) if answer is Answer.KEEP_BOTH else path
        if project.name == "Untitled":
            project = evolve(project, name=path.stem)
        try:
            beside(partial(save_seen, project, path, self.picture()))
        except SpiralisError as error:
            session.failed.emit(str(error))
            return False
        # Nobody can do anything meanwhile, but files that were being read may have come.
        untouched = session.version == version
        if project.name != session.project.name:
            session.edit_project("Name the project", evolve(session.project, name=project.name), locked_too=True)
        remember(path)
        session.path = path
        self.keep_place()
        self._guard.took(path)
        session.history.mark_saved(session.version if untouched else version)
        if untouched:
            self.keeping.saved()
        self.keeping.keep_now("saved")
        self.savedChanged.emit()
        session.said.emit(f"Saved {path.name}.")
        return True

    def _open_theirs(self, path: Path) -> None:
        """Show what somebody else wrote to a file, in place of what is open, which stays among the versions."""
        project = self._read(path)
        if project is not None:
            self.keeping.keep_now("before opening what somebody else saved")
            self._show_opened(project, path)

    def may_leave(self) -> bool:
        """Ask about unsaved changes; False where the person wants to stay."""
        if not self.session.history.unsaved:
            return True
        box = QMessageBox(self.window_)
        box.setWindowTitle("Unsaved changes")
        box.setText(f"“{self.session.project.name}” has changes that are not saved.")
        box.setInformativeText("Save them before going on?")
        buttons = QMessageBox.StandardButton
        box.setStandardButtons(buttons.Save | buttons.Discard | buttons.Cancel)
        box.setDefaultButton(buttons.Save)
        answer = box.exec()
        if answer == buttons.Save:
            return self.save()
        return answer == buttons.Discard

    def offer_recovery(self) -> None:
        """Offer the newest work that a crash left behind."""
        for found in left_behind()[:1]:
            self._offer(found)

    def _offer(self, found: Recovered) -> None:
        box = QMessageBox(self.window_)
        box.setWindowTitle("Unsaved work was found")
        box.setText(f"Spiralis did not close properly, and changes to “{found.name}” were not saved.")
        box.setInformativeText("Open them?")
        yes = box.addButton("Open them", QMessageBox.ButtonRole.AcceptRole)
        box.addButton("Discard them", QMessageBox.ButtonRole.DestructiveRole)
        box.exec()
        if box.clickedButton() is yes:
            self.recover(found)
        else:
            found.journal.discard()

    def recover(self, found: Recovered) -> None:
        """Open recovered work as unsaved changes."""
        written = found.written
        try:
            project = beside(found.load)
        except SpiralisError as error:
            self.session.failed.emit(str(error))
            return
        self.has_piece = True
        self.session.replace_project(project, found.original, place_of(found.original))
        self.session.history.commit("Recover unsaved work", evolve(project, name=project.name))
        # Whoever saved the file after this copy was written is asked about before it is saved over.
        self._guard.took(found.original, written)
        self.opened.emit()
        self.savedChanged.emit()
        self.keeping.note_change()
        self.keeping.take_over(found)

    def keep_place(self) -> None:
        """Note where one is in the project's file, where it has one."""
        session = self.session
        if self.has_piece and session.path is not None:
            keep_place(session.path, (session.composition_id, session.frame))

    def let_go(self) -> None:
        """Have no piece any more; what was unsaved has been asked about."""
        self.keep_place()
        self.keeping.begin_anew()
        self._guard.release()
        self.has_piece = False
        self.session.replace_project(empty_project(), None)
        self.savedChanged.emit()

    def close(self) -> None:
        """The window closes with everything settled: no copy is needed any more."""
        self._end()
        self.keeping.close()

    def leave(self) -> None:
        """The window goes as it is: a copy of what is unsaved stays, to be offered at the next start."""
        self._end()
        self.keeping.leave()

    def _end(self) -> None:
        self._closed = True
        self.keep_place()
        self._guard.release()
