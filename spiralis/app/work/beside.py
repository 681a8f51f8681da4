"""Long work that somebody waits for: a thread does it while the window goes on painting and answering the system."""

from __future__ import annotations

import threading
from collections.abc import Callable
from typing import TypeVar
from weakref import WeakMethod

from PyQt6.QtCore import QEventLoop, QObject, Qt, pyqtSignal
from PyQt6.QtGui import QGuiApplication

T = TypeVar("T")


#: Told True before such work and False after it, so that what nobody waits for rests meanwhile.
_resting: list[WeakMethod[Callable[[bool], None]]] = []


def rest_meanwhile(method: Callable[[bool], None]) -> None:
    """Tell a bound method when work begins that somebody waits for, and when it ends; its object is held weakly."""
    _resting.append(WeakMethod(method))


def _tell(rests: bool) -> None:
    for held in tuple(_resting):
        method = held()
        if method is None:
            _resting.remove(held)
        else:
            method(rests)


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
    _tell(True)
    try:
        thread.start()
        loop.exec(QEventLoop.ProcessEventsFlag.ExcludeUserInputEvents)
        thread.join()
    finally:
        QGuiApplication.restoreOverrideCursor()
        _tell(False)
    if errors:
        raise errors[0]
    return result[0]
