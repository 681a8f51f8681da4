"""The library: what a person keeps for every project, sort by sort; shared as files, in one folder."""

from __future__ import annotations

import shutil
from collections.abc import Callable
from pathlib import Path
from typing import Any

from PyQt6.QtCore import Qt, QUrl
from PyQt6.QtGui import QDesktopServices
from PyQt6.QtWidgets import (
    QDialog,
    QDialogButtonBox,
    QFileDialog,
    QGridLayout,
    QLabel,
    QPushButton,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from spiralis.app.library.every import sorts
from spiralis.app.library.keeping import Keeper
from spiralis.app.library.own_list import OwnList, library_folder
from spiralis.app.session import Session
from spiralis.app.widgets.file_dialogs import ask_open
from spiralis.app.widgets.preferences import store

_SORT = Qt.ItemDataRole.UserRole


class LibraryWindow(QDialog):
    """Lists everything that is kept; writes it to files, takes it from files, drops it."""

    def __init__(self, parent: QWidget, session: Session) -> None:
        super().__init__(parent)
        self.setWindowTitle("Library")
        self.resize(560, 520)
        self.session = session
        self.tree = QTreeWidget()
        self.tree.setHeaderHidden(True)
        self.tree.setAccessibleName("What is kept")
        self.tree.currentItemChanged.connect(self._show_what_can_be_done)
        self.origin = QLabel()
        self.origin.setObjectName("Quiet")
        self.place = QLabel()
        self.place.setObjectName("Quiet")
        self.place.setWordWrap(True)
        self.place.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.write = self._button("Write to a file…", "Write what is chosen to a file for others", self._write)
        self.take = self._button("Take from a file…", "Take along what such a file holds", self._take)
        self.drop = self._button("Drop", "Drop it from the library; projects keep what they have", self._drop)
        self.folder = self._button("Show the folder", "Show the library's folder", self._show_folder)
        self.other = self._button("Another folder…", "Keep the library elsewhere, shared say", self._ask_folder)
        grid = QGridLayout()
        for index, button in enumerate((self.write, self.take, self.drop, self.folder, self.other)):
            grid.addWidget(button, index // 3, index % 3)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
        buttons.rejected.connect(self.reject)
        column = QVBoxLayout(self)
        column.setSpacing(10)
        column.addWidget(self.tree, 1)
        column.addWidget(self.origin)
        column.addLayout(grid)
        column.addWidget(self.place)
        column.addWidget(buttons)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.refresh()

    def _button(self, text: str, help: str, run: Callable[[], None]) -> QPushButton:
        button = QPushButton(text)
        button.setToolTip(help)
        button.setAutoDefault(False)
        button.clicked.connect(run)
        return button

    def refresh(self) -> None:
        """List everything as it is kept now; what was chosen stays chosen."""
        chosen = self.chosen()
        self.tree.clear()
        for own in sorts():
            things = own.all()
            head = QTreeWidgetItem([f"{own.label} ({len(things)})"])
            head.setData(0, _SORT, (own, ""))
            self.tree.addTopLevelItem(head)
            for thing in things:
                row = QTreeWidgetItem([own.name(thing)])
                row.setData(0, _SORT, (own, own.name(thing)))
                head.addChild(row)
            head.setExpanded(True)
            for item in (head, *(head.child(place) for place in range(head.childCount()))):
                if chosen is not None and item.data(0, _SORT) == chosen:
                    self.tree.setCurrentItem(item)
        if self.tree.currentItem() is None:
            self.tree.setCurrentItem(self.tree.topLevelItem(0))
        self.place.setText(f"Kept in {library_folder()}")
        self._show_what_can_be_done()

    def chosen(self) -> tuple[OwnList[Any], str] | None:
        """Return the sort that is chosen, and the name of one thing of it, empty for the whole sort."""
        item = self.tree.currentItem()
        return item.data(0, _SORT) if item is not None else None

    def _show_what_can_be_done(self, *_: object) -> None:
        chosen = self.chosen()
        self.drop.setEnabled(chosen is not None and chosen[1] != "")
        self.write.setEnabled(chosen is not None and bool(chosen[0].all()))
        self.origin.setText(f"{chosen[0].label}: {chosen[0].origin}" if chosen is not None else "")

    def _write(self) -> None:
        chosen = self.chosen()
        if chosen is not None:
            self._keeper(chosen[0]).ask_write("library", chosen[1])

    def _take(self) -> None:
        kinds = ";;".join(f"{own.label} (*{own.suffix})" for own in sorts())
        every = " ".join(f"*{own.suffix}" for own in sorts())
        path = ask_open(self, "library", "Take from a file", f"Library files ({every});;{kinds}")
        if path is not None:
            self.take_from(path)

    def take_from(self, path: Path) -> None:
        """Take along what a file holds; its ending says of what sort."""
        own = next((own for own in sorts() if path.name.endswith(own.suffix)), None)
        if own is None:
            endings = ", ".join(own.suffix for own in sorts())
            self.session.failed.emit(f"“{path.name}” is no library file; those end in {endings}.")
        else:
            self._keeper(own).take_from(path)

    def _drop(self) -> None:
        chosen = self.chosen()
        if chosen is not None and chosen[1]:
            self._keeper(chosen[0]).drop(chosen[1])

    def _keeper(self, own: OwnList[Any]) -> Keeper[Any]:
        return Keeper(self, own, self.session.failed.emit, self.refresh)

    def _show_folder(self) -> None:
        folder = library_folder()
        try:
            folder.mkdir(parents=True, exist_ok=True)
        except OSError:
            self.session.failed.emit(f"“{folder}” cannot be made; choose another folder.")
            return
        QDesktopServices.openUrl(QUrl.fromLocalFile(str(folder)))

    def _ask_folder(self) -> None:
        name = QFileDialog.getExistingDirectory(self, "Keep the library in", str(library_folder()))
        if name:
            self.keep_in(Path(name))

    def keep_in(self, folder: Path) -> None:
        """Keep the library in another folder: what that holds is used, what it lacks is copied there."""
        held = {own.label: {own.name(thing) for thing in own.all()} for own in sorts()}
        old = library_folder()
        try:
            for own in sorts():
                before, after = own.path, folder / own.path.name
                if before.exists() and not after.exists():
                    shutil.copyfile(before, after)
            store(library=str(folder))
        except OSError:
            self.session.failed.emit(f"“{folder}” may not be written to; choose another folder.")
        left: list[str] = []
        for own in sorts():
            left += sorted(held[own.label] - {own.name(thing) for thing in own.all()})
            own.tell()
        if left:
            names = ", ".join(f"“{name}”" for name in left[:6]) + (" and more" if len(left) > 6 else "")
            self.session.said.emit(f"That folder has a library of its own; {names} stay in “{old}”.")
        self.refresh()
