"""What windows do with one sort of what is kept: keep under a name, drop, write to a file, take from one."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Generic, TypeVar

from PyQt6.QtWidgets import QInputDialog, QWidget

from spiralis.app.library.own_list import LONGEST, OwnList
from spiralis.app.widgets.asking import sure
from spiralis.app.widgets.file_dialogs import ask_open, ask_save
from spiralis.core.errors import SpiralisError

T = TypeVar("T")


class Keeper(Generic[T]):
    """Does it for a window, which is told by ``changed``, or by ``refused`` with a sentence. Nothing of a name that is
    kept already goes before the person was asked."""

    def __init__(
        self, parent: QWidget, own: OwnList[T], refused: Callable[[str], object],
        changed: Callable[[], object] = lambda: None,
    ) -> None:  # fmt: skip
        self.parent, self.own, self.refused, self.changed = parent, own, refused, changed

    def ask_name(self, title: str, question: str) -> str:
        """Ask for the name to keep something under; empty where the person thinks better of it."""
        name, taken = QInputDialog.getText(self.parent, title, question)
        return name.strip()[:LONGEST] if taken else ""

    def keep(self, make: Callable[[], T]) -> bool:
        """Keep a thing; False where it is not kept: why was said, or the person keeps what is there."""
        kept = False

        def change() -> None:
            nonlocal kept
            thing = make()
            told = f"“{self.own.name(thing)}” is kept already."
            more = "What is kept now takes its place; projects keep what they have."
            kept = not self.own.others([thing]) or sure(self.parent, "Replace what is kept", told, more, "Replace it")
            if kept:
                self.own.keep(thing)

        return self._try(change) and kept

    def drop(self, name: str) -> bool:
        """Drop the one of a name, after asking; False where it stays."""
        told, more = f"“{name}” goes from the library.", "Projects keep what they have of it."
        return sure(self.parent, f"Drop “{name}”", told, more, "Drop it") and self._try(lambda: self.own.drop(name))

    def ask_write(self, purpose: str, name: str = "") -> None:
        """Ask for a file and write the one of a name, or all, to it."""
        own = self.own
        what = name or own.label
        path = ask_save(self.parent, purpose, f"Write {what}", f"{what}{own.suffix}", self.kind_of_file)
        if path is not None:
            self._try(lambda: own.share_one(name, path) if name else own.share(path))

    def ask_take(self, purpose: str) -> None:
        """Ask for a file and take along what it holds."""
        path = ask_open(self.parent, purpose, f"Take {self.own.label.lower()} along", self.kind_of_file)
        if path is not None:
            self.take_from(path)

    def take_from(self, path: Path) -> bool:
        """Take along what a file holds; of what is kept under the same names, that which the person wants."""
        own = self.own

        def change() -> None:
            things = own.read(path)
            others = own.others(things)
            several = ", ".join(f"“{name}”" for name in others[:6]) + (" and more" if len(others) > 6 else "")
            told = f"{several} {'are' if len(others) > 1 else 'is'} kept already, otherwise than in “{path.name}”."
            more = "The rest of the file comes along either way."
            if others and not sure(self.parent, "Take along", told, more, "Take the file's", "Keep mine"):
                things = tuple(thing for thing in things if own.name(thing) not in others)
            own.keep(*things)

        return self._try(change)

    @property
    def kind_of_file(self) -> str:
        """The kind of file as a dialog takes it."""
        return f"{self.own.label} (*{self.own.suffix})"

    def _try(self, change: Callable[[], object]) -> bool:
        try:
            change()
        except SpiralisError as error:
            self.refused(str(error))
            return False
        self.changed()
        return True
