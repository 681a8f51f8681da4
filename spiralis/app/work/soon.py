"""Bursts of changes become one: what can wait a moment lets the picture on the canvas go first.

What comes after it comes in turns, one part of the window after the other: each is painted before the next begins, so
that a click or another edit meanwhile waits for one of them at most.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Protocol
from weakref import WeakKeyDictionary, WeakSet

from PyQt6.QtCore import QObject, QTimer

MOMENT = 40
#: How often work that can wait is put off by another moment while a picture is awaited.
MOST_WAITS = 5


class Pictured(Protocol):
    """What makes the pictures of a window."""

    def unseen(self) -> bool:
        """Whether the picture that somebody waits for is not painted yet."""

    def drag(self, goes_on: bool) -> None:
        """Take note that a drag goes on, or has ended."""


_pictured: WeakKeyDictionary[QObject, Pictured] = WeakKeyDictionary()
#: What makes the pictures of windows in which something has its turn, until all that it changed is painted.
_turns: WeakSet[Pictured] = WeakSet()


def give_way(owner: QObject, pictured: Pictured) -> None:
    """Let the work of everything that belongs to ``owner``, directly or not, wait while a picture is awaited."""
    _pictured[owner] = pictured


def pictured_by(part: QObject) -> Pictured | None:
    """Return what makes the pictures of the window that ``part`` belongs to."""
    owner: QObject | None = part
    while owner is not None and owner not in _pictured:
        owner = owner.parent()
    return _pictured[owner] if owner is not None else None


def in_the_way(part: QObject) -> bool:
    """Whether a picture is awaited by what ``part`` belongs to."""
    pictured = pictured_by(part)
    return pictured is not None and pictured.unseen()


class Soon(QTimer):
    """Runs ``work`` once, a moment after the first of several calls (or after the last, where it ``rests``).

    While the canvas of its window waits for a picture the work is put off a little further: painting a panel holds
    the interpreter's lock, which the threads that draw the picture need as well.
    """

    def __init__(self, parent: QObject, work: Callable[[], object], wait: int = MOMENT, rests: bool = False) -> None:
        super().__init__(parent)
        self.setSingleShot(True)
        self.wait, self._rests, self._work, self._waits = wait, rests, work, 0
        # Connected as the method it is, so that Qt lets go of it when its owner dies.
        self.timeout.connect(self._run)

    def ask(self, *_: object) -> None:
        """Ask for the work; takes and drops whatever a signal carries."""
        if self._rests or not self.isActive():
            self._waits = 0
            self.start(self.wait)

    def ask_next(self, *_: object) -> None:
        """Ask for the work in the next turn of the event loop, or as soon after it as no picture is awaited."""
        self._waits = 0
        self.start(0)

    def _run(self) -> None:
        pictured = pictured_by(self)
        if self._waits < MOST_WAITS and in_the_way(self):
            self._waits += 1
            self.start(self.wait)
        elif pictured is not None and pictured in _turns:
            self.start(1)
        else:
            if pictured is not None:
                # A timer of no length ends its turn after all that waits in the event loop, painting too.
                _turns.add(pictured)
                QTimer.singleShot(0, lambda: _turns.discard(pictured))
            self._work()
