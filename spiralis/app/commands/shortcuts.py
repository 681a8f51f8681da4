"""The list of shortcuts: search it, change one, share them as a file."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeySequence
from PyQt6.QtWidgets import (
    QDialog,
    QHBoxLayout,
    QKeySequenceEdit,
    QLabel,
    QPushButton,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from spiralis.app.commands.command import Command
from spiralis.app.commands.menus import Menus, all_commands
from spiralis.app.commands.own_shortcuts import SUFFIX
from spiralis.app.widgets.asking import sure
from spiralis.app.widgets.file_dialogs import ask_open, ask_save
from spiralis.app.widgets.text_fields import TextField
from spiralis.core.errors import FileError

_FILES = f"Shortcuts (*{SUFFIX})"


def text_of(keys: list[QKeySequence]) -> str:
    """Return shortcuts as the platform writes them."""
    return ", ".join(key.toString(QKeySequence.SequenceFormat.NativeText) for key in keys)


class ShortcutsWindow(QDialog):
    """All commands with their shortcuts; the chosen one's can be set."""

    def __init__(self, parent: QWidget, menus: Menus) -> None:
        super().__init__(parent)
        self.menus = menus
        self.setWindowTitle("Shortcuts")
        self.resize(620, 560)
        self.search = TextField()
        self.search.setPlaceholderText("Search by command, menu or keys")
        self.search.setAccessibleName("Search shortcuts")
        self.search.setClearButtonEnabled(True)
        self.search.textChanged.connect(self.refresh)
        self.list = QTreeWidget()
        self.list.setAccessibleName("Commands")
        self.list.setHeaderLabels(["Command", "Menu", "Shortcut"])
        header = self.list.header()
        if header is not None:
            header.setAccessibleName("Columns")
        self.list.setRootIsDecorated(False)
        self.list.setUniformRowHeights(True)
        self.list.setColumnWidth(0, 270)
        self.list.setColumnWidth(1, 160)
        self.list.currentItemChanged.connect(lambda *_: self._show_chosen())
        self.keys = QKeySequenceEdit()
        self.keys.setAccessibleName("Keys for the chosen command")
        self.keys.setToolTip("Click here and press the keys")
        self.says = QLabel()
        self.says.setObjectName("Quiet")
        self.says.setWordWrap(True)
        column = QVBoxLayout(self)
        column.setSpacing(8)
        column.addWidget(self.search)
        column.addWidget(self.list, 1)
        column.addLayout(self._line(
            self.keys, ("Set", "Give the chosen command these keys", self.set_keys),
            ("None", "The chosen command has no keys", self.clear_keys),
            ("Usual", "The chosen command has its usual keys again", self.usual_keys),
        ))  # fmt: skip
        column.addWidget(self.says)
        column.addLayout(self._line(
            None, ("All usual", "Every command has its usual keys again", self.all_usual),
            ("Write to a file…", "Keep your shortcuts as a file, for another machine or person", self._ask_write),
            ("Read a file…", "Take the shortcuts of a file", self._ask_read), ("Close", "", self.accept),
        ))  # fmt: skip
        self.refresh()

    def _line(self, first: QWidget | None, *buttons: tuple[str, str, object]) -> QHBoxLayout:
        row = QHBoxLayout()
        if first is not None:
            row.addWidget(first, 1)
        for text, help, run in buttons:
            button = QPushButton(text)
            button.setToolTip(help)
            button.setAutoDefault(False)
            button.clicked.connect(run)
            row.addWidget(button)
        if first is None:
            row.insertStretch(3, 1)
        return row

    def refresh(self) -> None:
        """List the commands that fit the search."""
        chosen, words = self.chosen, self.search.text().casefold().split()
        self.list.clear()
        for way, command in all_commands():
            keys = text_of(self.menus.own_keys.of(command))
            texts = [command.label.rstrip("…"), " › ".join(way), keys]
            if all(word in " ".join(texts).casefold() for word in words):
                item = QTreeWidgetItem(texts)
                item.setData(0, Qt.ItemDataRole.UserRole, command.label)
                if self.menus.own_keys.is_own(command):
                    item.setToolTip(2, "Your own")
                self.list.addTopLevelItem(item)
                if chosen is not None and command.label == chosen.label:
                    self.list.setCurrentItem(item)
        self._show_chosen()

    @property
    def chosen(self) -> Command | None:
        """The command whose line is chosen."""
        item = self.list.currentItem()
        return None if item is None else self.menus.commands[item.data(0, Qt.ItemDataRole.UserRole)]

    def choose(self, label: str) -> None:
        """Choose a command's line."""
        for index in range(self.list.topLevelItemCount()):
            item = self.list.topLevelItem(index)
            if item is not None and item.data(0, Qt.ItemDataRole.UserRole) == label:
                self.list.setCurrentItem(item)

    def _show_chosen(self) -> None:
        chosen = self.chosen
        self.keys.setEnabled(chosen is not None)
        keys = [] if chosen is None else self.menus.own_keys.of(chosen)
        self.keys.setKeySequence(keys[0] if keys else QKeySequence())
        self.says.setText("" if chosen is not None else "Choose a command to change its keys.")

    # -- changes -------------------------------------------------------------------------------------------

    def set_keys(self) -> None:
        """Give the chosen command the keys that were pressed; whoever had them has them no more, which is said."""
        keys = self.keys.keySequence()
        if not keys.isEmpty():
            self._give([keys])

    def _give(self, keys: list[QKeySequence]) -> None:
        """Give the chosen command keys: two commands with the same ones would both hear nothing."""
        chosen, own = self.chosen, self.menus.own_keys
        if chosen is None:
            return
        others = [command for _, command in all_commands() if command is not chosen]
        taken = [command for command in others if any(key in keys for key in own.of(command))]
        for other in taken:
            self._put(other, [key for key in own.of(other) if key not in keys])
        self._put(chosen, keys)
        self.refresh()
        lost = ", ".join(f"“{other.label}”" for other in taken)
        self.says.setText(f"{text_of(keys)} was taken from {lost}." if taken else "")

    def clear_keys(self) -> None:
        """Leave the chosen command without keys."""
        if self.chosen is not None:
            self._put(self.chosen, [])
            self.refresh()

    def usual_keys(self) -> None:
        """Give the chosen command its usual keys again."""
        if self.chosen is not None:
            self._give(self.chosen.shortcuts())

    def all_usual(self) -> None:
        """Give all commands their usual keys again, after asking where some have others."""
        if self._may_go("Usual keys"):
            self._try(self.menus.own_keys.forget_all)

    def _may_go(self, title: str) -> bool:
        """Ask before the keys go that the person gave to commands, where there are any."""
        told, more = "All keys that you gave to commands would go.", "Write to a file… keeps them."
        return not self.menus.own_keys.any or sure(self, title, told, more, "Let them go")

    def _put(self, command: Command, keys: list[QKeySequence]) -> None:
        try:
            self.menus.own_keys.put(command, keys)
        except FileError as error:
            self.says.setText(str(error))
        self.menus.actions[command.label].setShortcuts(self.menus.own_keys.of(command))

    def _ask_write(self) -> None:
        path = ask_save(self, "shortcuts", "Write shortcuts", f"shortcuts{SUFFIX}", _FILES)
        if path is not None:
            self._try(lambda: self.menus.own_keys.share(path))

    def _ask_read(self) -> None:
        path = ask_open(self, "shortcuts", "Read shortcuts", _FILES)
        if path is not None and self._may_go("Read a file"):
            self.read(path)

    def read(self, path: Path) -> None:
        """Take the shortcuts of a file."""
        self._try(lambda: self.menus.own_keys.take_from(path))

    def _try(self, change) -> None:  # type: ignore[no-untyped-def]
        try:
            change()
        except FileError as error:
            self.says.setText(str(error))
            return
        for label, command in self.menus.commands.items():
            self.menus.actions[label].setShortcuts(self.menus.own_keys.of(command))
        self.refresh()
