"""Long work that somebody waits for: a thread does it while the window goes on painting and answering the system."""

from __future__ import annotations

import threading
from collections.abc import Callable
from typing import TypeVar

from PyQt6.QtCore import QEventLoop, QObject, Qt, pyqtSignal
from PyQt6.QtGui import QGuiApplication

T = TypeVar("T")


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
    try:
        thread.start()
        loop.exec(QEventLoop.ProcessEventsFlag.ExcludeUserInputEvents)
        thread.join()
    finally:
        QGuiApplication.restoreOverrideCursor()
    if errors:
        raise errors[0]
    return result[0]
