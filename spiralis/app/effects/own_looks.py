"""Look sets of one's own: kept from a layer, dropped, written to files and taken from them."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtWidgets import QMenu, QWidget

from spiralis.app.library.keeping import Keeper
from spiralis.app.library.looks import OWN
from spiralis.app.session import Session
from spiralis.core.editing.look_sets import look_of


class OwnLooks:
    """Does it for a window, and tells it by ``changed``."""

    def __init__(self, window: QWidget, session: Session, changed: Callable[[], None]) -> None:
        self.session = session
        self.keeper = Keeper(window, OWN, session.failed.emit, changed)

    def fill(self, menu: QMenu) -> None:
        """Add what can be done to a menu."""
        keep = menu.addAction("Keep the layer's effects as a look set…", self._ask_keep)
        keep.setEnabled(bool(self.session.layers[0].blocks))
        menu.addAction("Write my look sets to a file…", lambda: self.keeper.ask_write("looks"))
        menu.addAction("Take look sets from a file…", lambda: self.keeper.ask_take("looks"))

    def keep(self, name: str) -> None:
        """Keep the effects of the first chosen layer as a look set of one's own."""
        self.keeper.keep(lambda: look_of(self.session.layers[0], name))

    def drop(self, name: str) -> None:
        """Keep one no longer."""
        self.keeper.drop(name)

    def read(self, path: Path) -> None:
        """Take the look sets of a file along."""
        self.keeper.take_from(path)

    def _ask_keep(self) -> None:
        if name := self.keeper.ask_name("Keep a look set", "Name of the look set:"):
            self.keep(name)
