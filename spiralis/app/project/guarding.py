"""A project file between several windows and programs: who has it open, and what was written there meanwhile."""

from __future__ import annotations

import os
import time
from enum import Enum
from pathlib import Path

from PyQt6.QtWidgets import QMessageBox, QWidget

from spiralis.core.storage.holding import FileState, Hold, Owner, state_of


class Answer(Enum):
    """What to do about a file that somebody else has changed."""

    KEEP_BOTH = "Keep both"
    REPLACE = "Replace it"
    OPEN_THEIRS = "Open it instead"
    CANCEL = "Cancel"


_EXPLAINED = {
    Answer.KEEP_BOTH: "Saves yours under another name beside it",
    Answer.REPLACE: "Saves yours over what was written there",
    Answer.OPEN_THEIRS: "Shows what was written there; your unsaved changes stay among the versions",
    Answer.CANCEL: "Saves nothing now",
}


#: A state that no file is in.
_UNSEEN = FileState(-1, 0, 0)


class Guard:
    """Watches over the file of one window's project."""

    def __init__(self) -> None:
        self._hold = Hold()
        self._path: Path | None = None
        self._state: FileState | None = None

    def took(self, path: Path | None, written: float | None = None) -> str:
        """Note the file that the window shows from now on; return a sentence where another one has it open.

        What the window shows of it may be older: ``written`` at that time, in seconds since 1970.
        """
        self._path, self._state = path, state_of(path) if path is not None else None
        if written is not None and self._state is not None and self._state.changed > written * 1e9:
            self._state = _UNSEEN
        if path is None:
            self._hold.release()
            return ""
        owner = self._hold.take(path)
        return _told(path, owner) if owner is not None else ""

    def changed_meanwhile(self, path: Path) -> bool:
        """Whether a file is the one that is shown, and was written by somebody else since."""
        if self._path is None or self._state is None or os.path.realpath(path) != os.path.realpath(self._path):
            return False
        now = state_of(path)
        return now is not None and now != self._state

    def release(self) -> None:
        """Let go of the file: the window closes."""
        self._hold.release()


def _told(path: Path, owner: Owner) -> str:
    since = time.strftime("%H:%M", time.localtime(owner.since))
    where = "another window" if owner.process == os.getpid() else f"another program (process {owner.process})"
    return (
        f"“{path.name}” has been open in {where} since {since}; before anything is saved over what was saved there, "
        "you are asked."
    )


def ask_about(parent: QWidget, path: Path) -> Answer:
    """Ask what to do about a file that was changed by somebody else."""
    box = QMessageBox(parent)
    box.setWindowTitle("Changed by somebody else")
    box.setText(f"“{path.name}” was changed by another window or program since it was opened here.")
    box.setInformativeText("Saving now would replace what was written there.")
    buttons = {}
    for answer in Answer:
        role = QMessageBox.ButtonRole.RejectRole if answer is Answer.CANCEL else QMessageBox.ButtonRole.AcceptRole
        buttons[answer] = box.addButton(answer.value, role)
        buttons[answer].setToolTip(_EXPLAINED[answer])
    box.setDefaultButton(buttons[Answer.KEEP_BOTH])
    box.setEscapeButton(buttons[Answer.CANCEL])
    box.exec()
    clicked = box.clickedButton()
    return next((answer for answer, button in buttons.items() if button is clicked), Answer.CANCEL)


def free_name(path: Path) -> Path:
    """Return a name beside a file that nothing has yet: ``kites (2).spiralis``."""
    number = 2
    while (found := path.with_name(f"{path.stem} ({number}){path.suffix}")).exists():
        number += 1
    return found
