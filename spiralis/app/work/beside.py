"""Long work that somebody waits for: a thread does it while the window goes on painting and answering the system."""

from __future__ import annotations

import threading
from collections.abc import Callable
from typing import TypeVar
from weakref import ref

from PyQt6 import sip
from PyQt6.QtCore import QEventLoop, QObject, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QGuiApplication

T = TypeVar("T")


#: So often, in ms, it is looked whether a holder went without letting go.
_LOOK = 250


class _Others(QObject):
    """What nobody waits for: told to rest while at least one holder says so.

    Holders are held weakly, and nothing is called when one goes: a slot that runs while objects are taken apart may
    touch what is gone already.
    """

    rest = pyqtSignal(bool)

    def __init__(self) -> None:
        super().__init__()
        self._holders: list[ref[QObject]] = []
        #: How many pieces of work are waited for by ``beside``.
        self.waits = 0
        self._look = QTimer(self)
        self._look.setInterval(_LOOK)
        self._look.timeout.connect(self._keep_those_there)

    @property
    def held(self) -> bool:
        return bool(self._holders)

    def hold(self, holder: QObject, holds: bool) -> None:
        self._keep_those_there(holder, holds)

    def _keep_those_there(self, holder: QObject | None = None, holds: bool = False) -> None:
        was = self.held
        there = [(held, held()) for held in self._holders]
        self._holders = [
            held for held, known in there if known is not None and not sip.isdeleted(known) and known is not holder
        ]
        if holder is not None and holds:
            self._holders.append(ref(holder))
        if self.held != was:
            (self._look.start if self.held else self._look.stop)()
            self.rest.emit(self.held)


_others = _Others()


def rest_meanwhile(method: Callable[[bool], None]) -> None:
    """Tell a method of a QObject True when work begins that somebody waits for, and False when it ends."""
    _others.rest.connect(method)
    if _others.held:
        method(True)


def is_waited() -> bool:
    """Whether somebody waits for work right now; what comes of it goes on from the project as it was."""
    return _others.waits > 0


def hold_others(holder: QObject, holds: bool) -> None:
    """Let what nobody waits for rest from a call with True to the one with False by the same holder, or its end."""
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
    _others.waits += 1
    try:
        thread.start()
        loop.exec(QEventLoop.ProcessEventsFlag.ExcludeUserInputEvents)
        thread.join()
    finally:
        _others.waits -= 1
        QGuiApplication.restoreOverrideCursor()
        # What is done with the result, and the panels that show it, still come before what nobody waits for.
        QTimer.singleShot(0, lambda: hold_others(done, False))
    if errors:
        raise errors[0]
    return result[0]
