"""Look sets of one's own: kept from a layer, dropped, written to files and taken from them."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtWidgets import QInputDialog, QMenu, QWidget

from spiralis.app.library.looks import OWN
from spiralis.app.session import Session
from spiralis.app.widgets.file_dialogs import ask_open, ask_save
from spiralis.core.editing.look_sets import look_of
from spiralis.core.errors import SpiralisError
from spiralis.core.storage.look_file import SUFFIX


class OwnLooks:
    """Does it for a window, and tells it by ``changed``."""

    def __init__(self, window: QWidget, session: Session, changed: Callable[[], None]) -> None:
        self.window, self.session, self.changed = window, session, changed

    def fill(self, menu: QMenu) -> None:
        """Add what can be done to a menu."""
        keep = menu.addAction("Keep the layer's effects as a look set…", self._ask_keep)
        keep.setEnabled(bool(self.session.layers[0].blocks))
        menu.addAction("Write my look sets to a file…", self._ask_write)
        menu.addAction("Take look sets from a file…", self._ask_read)

    def keep(self, name: str) -> None:
        """Keep the effects of the first chosen layer as a look set of one's own."""
        self._try(lambda: OWN.keep(look_of(self.session.layers[0], name)))

    def drop(self, name: str) -> None:
        """Keep one no longer."""
        self._try(lambda: OWN.drop(name))

    def read(self, path: Path) -> None:
        """Take the look sets of a file along."""
        self._try(lambda: OWN.add_from(path))

    def _ask_keep(self) -> None:
        name, sure = QInputDialog.getText(self.window, "Keep a look set", "Name of the look set:")
        if sure and name.strip():
            self.keep(name)

    def _ask_write(self) -> None:
        path = ask_save(self.window, "looks", "Write my look sets", f"looks{SUFFIX}", f"Look sets (*{SUFFIX})")
        if path is not None:
            self._try(lambda: OWN.share(path))

    def _ask_read(self) -> None:
        path = ask_open(self.window, "looks", "Take look sets along", f"Look sets (*{SUFFIX})")
        if path is not None:
            self.read(path)

    def _try(self, change: Callable[[], object]) -> None:
        try:
            change()
        except SpiralisError as error:
            self.session.failed.emit(str(error))
            return
        self.changed()
