"""Long work that somebody waits for: a thread does it while the window goes on painting and answering the system."""

from __future__ import annotations

import threading
from collections.abc import Callable, Hashable
from typing import TypeVar

from PyQt6.QtCore import QEventLoop, QObject, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QGuiApplication

T = TypeVar("T")


class _Others(QObject):
    """What nobody waits for: told to rest while at least one holder says so."""

    rest = pyqtSignal(bool)

    def __init__(self) -> None:
        super().__init__()
        self.holders: set[Hashable] = set()

    def hold(self, holder: Hashable, holds: bool) -> None:
        was = bool(self.holders)
        (self.holders.add if holds else self.holders.discard)(holder)
        if bool(self.holders) != was:
            self.rest.emit(not was)


_others = _Others()


def rest_meanwhile(method: Callable[[bool], None]) -> None:
    """Tell a method of a QObject True when work begins that somebody waits for, and False when it ends."""
    _others.rest.connect(method)
    if _others.holders:
        method(True)


def hold_others(holder: Hashable, holds: bool) -> None:
    """Let what nobody waits for rest from a call with True to the one with False by the same holder."""
    _others.hold(holder, holds)


class _Done(QObject):
    came = pyqtSignal()


def beside(work: Callable[[], T]) -> T:
    """Return what ``work`` gives, or raise what it raises; meanwhile the event loop runs, but for mouse and keys.

    Those wait in line: nothing can be edited while a project is being read or written.
    """
    if QGuiApplication.instance() is None:
        return work()
    loop, done = QEventLoop(), _Done()
    result: list[T] = []
    errors: list[BaseException] = []

    def run() -> None:
        try:
            result.append(work())
        except BaseException as error:
            errors.append(error)
        done.came.emit()

    done.came.connect(loop.quit, Qt.ConnectionType.QueuedConnection)
    thread = threading.Thread(target=run, name="beside", daemon=True)
    QGuiApplication.setOverrideCursor(Qt.CursorShape.WaitCursor)
    hold_others(done, True)
    try:
        thread.start()
        loop.exec(QEventLoop.ProcessEventsFlag.ExcludeUserInputEvents)
        thread.join()
    finally:
        QGuiApplication.restoreOverrideCursor()
        # What is done with the result, and the panels that show it, still come before what nobody waits for.
        QTimer.singleShot(0, lambda: hold_others(done, False))
    if errors:
        raise errors[0]
    return result[0]
