"""Menus and shortcuts, built from the one table of commands."""

from __future__ import annotations

from attrs import define
from PyQt6.QtCore import QPoint
from PyQt6.QtGui import QAction, QKeySequence, QShortcut
from PyQt6.QtWidgets import QMainWindow, QMenu, QMenuBar

from spiralis.app.commands.command import Command, Entries, Submenu, commands_in
from spiralis.app.commands.context import Context
from spiralis.app.commands.needs import missing
from spiralis.app.commands.own_shortcuts import OwnKeys
from spiralis.app.commands.table import MENUS
from spiralis.app.widgets.passing_menu import PassingMenu
from spiralis.app.widgets.text_fields import take_typed
from spiralis.app.widgets.view_options import ViewOptions

#: The letters of the menus: none of them is one that Alt with it already means something else.
_LETTERS = {"File": "F", "Edit": "E", "Composition": "C", "Arrange": "g", "Layer": "y", "Motion": "o", "Keys": "K",
            "View": "i", "Help": "H"}  # fmt: skip
#: What the context menu of the canvas has of each menu.
_ON_CANVAS: tuple[str | None, ...] = (
    "Cut", "Copy", "Paste", "Duplicate", "Delete", None, "Rename", "Bring to front", "Bring forward", "Send backward",
    "Send to back", None, "Group", "Ungroup", "Show or hide", "Lock or unlock", None, "Moves…",
    "Effects and finishes…", None, "Align", "Fit", "Shapes and words", "Nest", "Mask and pin",
)  # fmt: skip


@define
class Menus:
    """The menu bar of a window: ``actions`` by the labels of commands, ``submenus`` by their labels."""

    window: QMainWindow
    context: Context
    actions: dict[str, QAction]
    commands: dict[str, Command]
    submenus: dict[str, QMenu]
    own_keys: OwnKeys

    def show_needs(self) -> None:
        """Grey what lacks something, and say in its tooltip what that is; shortcuts say it when they are pressed."""
        for label, command in self.commands.items():
            if command.needs and self.actions[label].isEnabled():
                lacks = missing(command.needs, self.context)
                self.actions[label].setEnabled(not lacks)
                self.actions[label].setToolTip(lacks)

    def forget_needs(self) -> None:
        """Let all that needs something answer again: by its shortcut it says what it lacks."""
        for label, command in self.commands.items():
            if command.needs:
                self.actions[label].setEnabled(self.context.editor.isVisible() or not command.needs_piece)

    def run(self, label: str) -> None:
        """Run a command by its label."""
        run(self.context, self.commands[label])

    def canvas_menu(self) -> QMenu:
        """Return the menu for what is chosen on the canvas, of the very same commands."""
        menu = PassingMenu(self.window)
        menu.setToolTipsVisible(True)
        for label in _ON_CANVAS:
            if label is None:
                menu.addSeparator()
            elif label in self.submenus:
                menu.addMenu(self.submenus[label])
            else:
                menu.addAction(self.actions[label])
        menu.aboutToShow.connect(self.show_needs)
        menu.aboutToHide.connect(self.forget_needs)
        return menu

    def pop_up(self, place: QPoint) -> None:
        """Show the canvas' menu at a place of the screen."""
        self.canvas_menu().popup(place)


def build_menus(window: QMainWindow, bar: QMenuBar, context: Context) -> Menus:
    """Fill a window's menu bar."""
    menus = Menus(window, context, {}, {}, {}, OwnKeys())
    for title, entries in MENUS.items():
        menu = QMenu(_lettered(title, _LETTERS[title]), bar)
        bar.addMenu(menu)
        menu.aboutToShow.connect(menus.show_needs)
        menu.aboutToHide.connect(menus.forget_needs)
        _fill(menus, menu, entries)
    # Platforms differ in whether this key opens the menus by itself.
    QShortcut(QKeySequence("F10"), window, lambda: bar.setActiveAction(bar.actions()[0]))
    return menus


def _fill(menus: Menus, menu: QMenu, entries: Entries) -> None:
    menu.setToolTipsVisible(True)
    taken: set[str] = set()
    for entry in entries:
        if entry is None:
            menu.addSeparator()
        elif isinstance(entry, Submenu):
            inner = QMenu(_with_letter(entry.label, taken), menu)
            menu.addMenu(inner)
            menus.submenus[entry.label] = inner
            _fill(menus, inner, entry.commands)
        else:
            menu.addAction(_action(menus, entry, taken))


def _action(menus: Menus, command: Command, taken: set[str]) -> QAction:
    context = menus.context
    action = QAction(_with_letter(command.label, taken), menus.window)
    action.setShortcuts(menus.own_keys.of(command))
    action.triggered.connect(lambda _=False: run(context, command))
    action.setData(command.needs_piece)
    if command.shows is not None:
        _tick(action, context.session.view, command.shows)
    menus.actions[command.label] = action
    menus.commands[command.label] = command
    return action


def _with_letter(label: str, taken: set[str]) -> str:
    """Mark a letter that opens the entry by keyboard: the first of a word, else any, that no other entry has."""
    firsts = [word[0] for word in label.split() if word[0].isalpha()]
    for letter in [*firsts, *(each for each in label if each.isalpha())]:
        if letter.lower() not in taken:
            taken.add(letter.lower())
            return _lettered(label, letter)
    return label


def _lettered(label: str, letter: str) -> str:
    place = label.index(letter)
    return f"{label[:place]}&{label[place:]}"


def run(context: Context, command: Command) -> None:
    """Do what a command does, or say what it lacks."""
    canvas = context.editor.canvas
    take_typed()
    if command.words and canvas.typing.command(command.words):
        return
    if not command.keeps:
        canvas.end_everything()
    lacks = missing(command.needs, context)
    said: list[str] = []
    context.session.failed.connect(said.append)
    command.run(context)
    context.session.failed.disconnect(said.append)
    if lacks and not said:
        # Many commands say more precisely themselves what they lack.
        context.session.failed.emit(lacks)


def _tick(action: QAction, view: ViewOptions, name: str) -> None:
    action.setCheckable(True)
    action.setChecked(view[name])
    view.changed.connect(lambda: action.setChecked(view[name]))


def all_commands() -> list[tuple[tuple[str, ...], Command]]:
    """Return every command with the menus that lead to it."""
    return [pair for title, entries in MENUS.items() for pair in commands_in(entries, (title,))]
