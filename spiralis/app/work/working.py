"""What is worked out beside a window while one draws: only what was asked for last counts."""

from __future__ import annotations

from collections.abc import Callable
from itertools import count

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from spiralis.app.work.background import Background
from spiralis.core.media.steps import Stops

_numbers = count(1)
_LOOKED_AT = 200


class Working(QObject):
    """Asks for one thing at a time; what was asked for before is told to stop, and its answer is dropped."""

    #: How much of long work is done, 0 to 1.
    progressed = pyqtSignal(float)

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._background = Background(self)
        self._number, self.over = 0, False
        #: How much is done; the thread that does it writes it.
        self._done = 0.0
        self._looking = QTimer(self)
        self._looking.setInterval(_LOOKED_AT)
        self._looking.timeout.connect(self._tell)

    def ask(self, make: Callable[[Stops], object], done: Callable[[object], None]) -> None:
        """Have something made in another thread; ``done`` gets it, or the error that came of it."""
        self._number = number = next(_numbers)
        self._done = 0.0
        self._looking.stop()

        def stops(share: float) -> bool:
            if number == self._number:
                self._done = share
            return number != self._number

        def answer(found: object) -> None:
            if number == self._number:
                self._looking.stop()
                if not self.over:
                    done(found)

        self._background.run(lambda: make(stops), answer)

    def ask_long(self, make: Callable[[Stops], object], done: Callable[[object], None]) -> None:
        """The same, telling how far it is."""
        self.ask(make, done)
        self._tell()
        self._looking.start()

    def forget(self) -> None:
        """Stop what is under way; nobody waits for it."""
        self._number = next(_numbers)
        self._looking.stop()

    def end(self) -> None:
        """Nothing is asked for any more."""
        self.over = True
        self.forget()

    def _tell(self) -> None:
        self.progressed.emit(self._done)
