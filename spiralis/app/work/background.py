"""Work beside the window: a thread does it, the window's thread takes the result."""

from __future__ import annotations

from atexit import register
from collections.abc import Callable, Hashable
from functools import cache, partial
from itertools import count
from queue import Empty, SimpleQueue
from threading import Lock, Thread
from typing import Any, ClassVar
from weakref import WeakSet, WeakValueDictionary

import numpy as np
from PyQt6 import sip
from PyQt6.QtCore import QObject, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QGuiApplication, QPixmap
from PyQt6.QtWidgets import QApplication

from spiralis.app.widgets.images import as_image
from spiralis.app.work.beside import is_waited, rest_meanwhile
from spiralis.app.work.unforeseen import note
from spiralis.core.errors import SpiralisError

#: So often, in ms, it is looked whether a hand is free again.
_LOOK = 100


def hand_is_busy() -> bool:
    """Whether something is being dragged, a dialog waits for an answer or somebody for work: all of them go on from the
    project as it was."""
    dragged = QGuiApplication.mouseButtons() != Qt.MouseButton.NoButton
    return dragged or QApplication.activeModalWidget() is not None or is_waited()


class _Threads:
    """Threads that take work in turn. Nobody waits for them: neither who lets go of them nor the program's end."""

    def __init__(self, count: int) -> None:
        self._count, self._work = count, SimpleQueue[Callable[[], None] | None]()
        self._begun: list[Thread] = []

    def submit(self, work: Callable[[], None]) -> None:
        """Put work at the end of the line."""
        if len(self._begun) < self._count:
            self._begun.append(Thread(target=self._run, name="background", daemon=True))
            self._begun[-1].start()
        self._work.put(work)

    def _run(self) -> None:
        while (work := self._work.get()) is not None:
            work()

    def end(self) -> None:
        """Drop what was not begun; what was begun ends by itself."""
        while not self._work.empty():
            try:
                self._work.get_nowait()
            except Empty:  # A thread was faster.
                break
        for _ in self._begun:
            self._work.put(None)


class _Post(QObject):
    """Takes results from any thread to the window's. It outlives whoever asked for them.

    A thread must not signal by an object that the window's thread may be destroying at that very moment.
    """

    finished = pyqtSignal(int, int, object)

    def __init__(self) -> None:
        super().__init__()
        self.takers: WeakValueDictionary[int, Background] = WeakValueDictionary()
        self._lock, self._open = Lock(), True
        self.finished.connect(self._deliver, Qt.ConnectionType.QueuedConnection)
        register(self._close)

    def bring(self, taker: int, number: int, result: Any) -> None:
        """Take a result along; may be called in any thread."""
        with self._lock:
            if self._open:
                self.finished.emit(taker, number, result)

    def _close(self) -> None:
        """Take nothing any more: the program ends, and what it was made of goes."""
        with self._lock:
            self._open = False

    def _deliver(self, taker: int, number: int, result: Any) -> None:
        background = self.takers.get(taker)
        if background is not None and not sip.isdeleted(background):
            background.hand_over(number, result)


@cache
def _post() -> _Post:
    """Return the one that everybody shares; it is made in the window's thread."""
    return _Post()


class Background(QObject):
    """Runs work in threads of its own; ``done`` is called with the result in the window's thread.

    Where results ``change`` the project they wait until no hand is busy with it, and come in their order.
    """

    _count = count()

    def __init__(self, parent: QObject, threads: int = 1, change: bool = False) -> None:
        super().__init__(parent)
        self._change = change
        self._held: list[tuple[int, Any]] = []
        self._look = QTimer(self)
        self._look.setInterval(_LOOK)
        self._look.timeout.connect(self._hand_over_held)
        self._own, self._post = next(self._count), _post()
        self._post.takers[self._own] = self
        self._pool = _Threads(threads)
        #: What to do with the results, by number: it belongs to the window's thread, which alone may let go of it.
        self._waiting: dict[int, Callable[[Any], None]] = {}
        self._begun: set[int] = set()
        self._lock = Lock()
        self._numbers = count()
        self.destroyed.connect(self._pool.end)

    def run(self, work: Callable[[], Any], done: Callable[[Any], None]) -> None:
        """Start work; an error of it is handed to ``done`` as what it is."""
        number = next(self._numbers)
        self._waiting[number] = done
        self._pool.submit(partial(self._work, work, number))

    def run_newest(self, work: Callable[[], Any], done: Callable[[Any], None]) -> None:
        """Start work that takes the place of all that was not begun yet: nobody asks for that any more."""
        with self._lock:
            for number in [number for number in self._waiting if number not in self._begun]:
                del self._waiting[number]
        self.run(work, done)

    @property
    def busy(self) -> int:
        """How many results have not been handed over yet."""
        return len(self._waiting)

    def _work(self, work: Callable[[], Any], number: int) -> None:
        with self._lock:
            if number not in self._waiting:
                return
            self._begun.add(number)
        try:
            result = work()
        except Exception as error:  # whoever asked decides what to say
            result = error
            if not isinstance(error, SpiralisError):
                note(error)
        self._post.bring(self._own, number, result)

    def hand_over(self, number: int, result: Any) -> None:
        """Take a result, in the window's thread."""
        self._held.append((number, result))
        self._hand_over_held()

    def _hand_over_held(self) -> None:
        try:
            # Taking a result may end whoever asked for it, or fail; what waits behind it comes all the same.
            while self._held and not sip.isdeleted(self) and not (self._change and hand_is_busy()):
                number, result = self._held.pop(0)
                self._begun.discard(number)
                self._waiting.pop(number)(result)
        finally:
            if not sip.isdeleted(self):
                (self._look.start if self._held else self._look.stop)()


class SmallPictures(QObject):
    """Hands out pixmaps by key; what is not there yet is made in the background and announced by ``made``.

    They are made one at a time, each begun when the window has nothing else to do and nobody waits for other work:
    making one holds the interpreter's lock, which painting needs as well.
    """

    made = pyqtSignal()
    _every: ClassVar[WeakSet[SmallPictures]] = WeakSet()

    @classmethod
    def any_wanted(cls) -> bool:
        """Whether anything in the window waits for small pictures."""
        # What a window left behind when it went is wanted by nobody.
        return any(pictures.busy for pictures in tuple(cls._every) if not sip.isdeleted(pictures))

    def __init__(self, parent: QObject, most: int = 600) -> None:
        super().__init__(parent)
        self._every.add(self)
        self._background = Background(self)
        self._most = most
        self._pixmaps: dict[Hashable, QPixmap] = {}
        self._wanted: dict[Hashable, Callable[[], np.ndarray | None]] = {}
        self._making: set[Hashable] = set()
        self._resting = False
        # A timer of no length runs after all that waits in the event loop, painting too.
        self._idle = QTimer(self)
        self._idle.setSingleShot(True)
        self._idle.timeout.connect(self._begin)
        rest_meanwhile(self.rest)

    def of(self, key: Hashable, make: Callable[[], np.ndarray | None], first: bool = False) -> QPixmap | None:
        """Return the pixmap of a key, or None while ``make()`` (premultiplied uint8 pixels) is being worked out.

        What is wanted ``first`` goes before all that waits.
        """
        if key not in self._pixmaps and key not in self._making and key not in self._wanted:
            if len(self._pixmaps) > self._most:
                self._pixmaps.clear()
            self._wanted[key] = make
            self._idle.start()
        elif key in self._wanted and first:
            self._wanted = {key: self._wanted.pop(key), **self._wanted}
        return self._pixmaps.get(key)

    @property
    def busy(self) -> bool:
        """Whether pictures are still being made."""
        return bool(self._wanted or self._making)

    def rest(self, rests: bool) -> None:
        """Begin no further picture, or go on."""
        self._resting = rests
        self._idle.start()

    def _begin(self) -> None:
        if self._wanted and not self._making and not self._resting:
            key = next(iter(self._wanted))
            self._making.add(key)
            self._background.run(self._wanted.pop(key), lambda pixels: self._take(key, pixels))

    def _take(self, key: Hashable, pixels: Any) -> None:
        self._making.discard(key)
        self._idle.start()
        pixmap = QPixmap()
        if isinstance(pixels, np.ndarray):
            pixmap = QPixmap.fromImage(as_image(pixels, premultiplied=True).copy())
            pixmap.setDevicePixelRatio(2.0)
        self._pixmaps[key] = pixmap
        self.made.emit()
