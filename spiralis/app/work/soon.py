"""Bursts of changes become one: what can wait a moment lets the picture on the canvas go first."""

from __future__ import annotations

from collections.abc import Callable
from weakref import WeakKeyDictionary

from PyQt6.QtCore import QObject, QTimer

MOMENT = 40
#: How often work that can wait is put off by another moment while a picture is awaited.
MOST_WAITS = 3

_awaiting: WeakKeyDictionary[QObject, Callable[[], bool]] = WeakKeyDictionary()


def give_way(owner: QObject, awaited: Callable[[], bool]) -> None:
    """Let the work of everything that belongs to ``owner``, directly or not, wait while ``awaited()``."""
    _awaiting[owner] = awaited


def in_the_way(part: QObject) -> bool:
    """Whether a picture is awaited by what ``part`` belongs to."""
    owner: QObject | None = part
    while owner is not None and owner not in _awaiting:
        owner = owner.parent()
    return owner is not None and _awaiting[owner]()


class Soon(QTimer):
    """Runs ``work`` once, a moment after the first of several calls (or after the last, where it ``rests``).

    While the canvas of its window waits for a picture the work is put off a little further: painting a panel holds
    the interpreter's lock, which the threads that draw the picture need as well.
    """

    def __init__(self, parent: QObject, work: Callable[[], object], wait: int = MOMENT, rests: bool = False) -> None:
        super().__init__(parent)
        self.setSingleShot(True)
        self.setInterval(wait)
        self._rests, self._work, self._waits = rests, work, 0
        # Connected as the method it is, so that Qt lets go of it when its owner dies.
        self.timeout.connect(self._run)

    def ask(self, *_: object) -> None:
        """Ask for the work; takes and drops whatever a signal carries."""
        if self._rests or not self.isActive():
            self._waits = 0
            self.start()

    def _run(self) -> None:
        if self._waits < MOST_WAITS and in_the_way(self):
            self._waits += 1
            self.start()
        else:
            self._work()
