"""One entry of a menu: what it is called, its shortcut, what it does and what it needs."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from attrs import frozen
from PyQt6.QtGui import QKeySequence

from spiralis.app.commands.context import Context

Key = QKeySequence.StandardKey | str | None


@frozen
class Command:
    """A menu entry: label, shortcut (a standard key or our own text), what it does in the window.

    ``shows`` names a view option whose state the entry carries as a tick. While words are typed or an outline is drawn
    a command first ends that, but for those that ``keep`` it; a ``words`` command then means the chosen letters.
    ``more_keys`` do the same as ``key``; what ``fills`` can be done while a piece is filled in, too; ``needs`` names
    what must be there (see ``needs.py``).
    """

    label: str
    run: Callable[[Context], object]
    key: Key = None
    needs_piece: bool = True
    shows: str | None = None
    keeps: bool = False
    words: str = ""
    more_keys: tuple[str, ...] = ()
    needs: str = ""
    fills: bool = False

    def shortcuts(self) -> list[QKeySequence]:
        """Return the shortcuts that it has from the start."""
        keys = ([] if self.key is None else [self.key]) + list(self.more_keys)
        return [QKeySequence(key) for key in keys]


@frozen
class Submenu:
    """Entries under one entry of a menu."""

    label: str
    commands: tuple[Command | None, ...]


Entries = tuple[Command | Submenu | None, ...]


def commands_in(entries: Entries, way: tuple[str, ...] = ()) -> Iterator[tuple[tuple[str, ...], Command]]:
    """Yield every command with the menus that lead to it."""
    for entry in entries:
        if isinstance(entry, Submenu):
            yield from commands_in(entry.commands, (*way, entry.label))
        elif entry is not None:
            yield way, entry
