"""What the hand holds at the moment: a drag, which Escape takes back."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Protocol
from weakref import proxy

from PyQt6.QtCore import QEvent, QObject, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent
from PyQt6.QtWidgets import QWidget

from spiralis.core.editing.keys import KeyRef
from spiralis.core.model.history import History

#: What was chosen, which keys, and where the playhead was.
_Seen = tuple[tuple[str, ...], frozenset[KeyRef], int]


class _Session(Protocol):
    """What of a session is put back."""

    history: History
    selected: tuple[str, ...]
    keys: frozenset[KeyRef]
    frame: int

    @property
    def version(self) -> int: ...
    def undo(self) -> None: ...
    def select(self, ids: Iterable[str], keys: Iterable[KeyRef] = ()) -> None: ...
    def go_to(self, frame: int) -> None: ...


class Gesture(QObject):
    """Begins with a press and ends with its release; ``held`` tells of both."""

    held = pyqtSignal(bool)

    def __init__(self, session: _Session) -> None:
        super().__init__()
        #: Held weakly: the session holds this.
        self.session: _Session = proxy(session)
        self._let_go: Callable[[], object] | None = None
        self._version, self._seen = 0, _seen(session)

    def begin(self, let_go: Callable[[], object]) -> None:
        """Note how everything is before something is dragged; ``let_go`` makes whoever drags it stop."""
        self._let_go, self._version, self._seen = let_go, self.session.version, _seen(self.session)
        self.held.emit(True)

    def end(self) -> None:
        """The drag is over; it stays as it is."""
        if self._let_go is not None:
            self._let_go = None
            self.held.emit(False)

    def put_down(self) -> None:
        """Stop the drag, as something else begins; what it did stays."""
        let_go = self._let_go
        self.end()
        if let_go is not None:
            let_go()

    def take_back(self) -> bool:
        """Stop the drag and put everything back as it was; the step itself can be done again. False where it is not as
        it was: the drag went on with a step that was there before it."""
        let_go, session, (chosen, keys, frame) = self._let_go, self.session, self._seen
        if let_go is None:
            return False
        self.end()
        let_go()
        if session.history.steps_to(self._version) == 1:
            session.undo()
        if session.version != self._version:
            return False
        session.select(chosen, keys)
        session.go_to(frame)
        return True


def _seen(session: _Session) -> _Seen:
    return session.selected, session.keys, session.frame


def gesture_of(widget: QWidget) -> Gesture | None:
    """Return what takes drags back in the window that a widget is in, if anything does."""
    found = getattr(getattr(widget.window(), "session", None), "gesture", None)
    return found if isinstance(found, Gesture) else None


class TakesBack(QObject):
    """Stands before a widget that edits while one drags in it: what can be taken back there is a gesture, too.

    Once it was taken back, moves mean nothing until the button goes up. ``let_go`` makes the widget hold nothing.
    """

    def __init__(self, widget: QWidget, let_go: Callable[[], object] = lambda: None) -> None:
        super().__init__(widget)
        self._widget, self._let_go, self._over = widget, let_go, False
        widget.installEventFilter(self)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if not isinstance(event, QMouseEvent):
            return False
        if event.type() == QEvent.Type.MouseMove:
            return self._over and bool(event.buttons() & Qt.MouseButton.LeftButton)
        gesture = gesture_of(self._widget) if event.button() == Qt.MouseButton.LeftButton else None
        if gesture is not None and event.type() == QEvent.Type.MouseButtonPress:
            self._over = False
            gesture.begin(self._stop)
        elif gesture is not None and event.type() == QEvent.Type.MouseButtonRelease:
            self._over = False
            gesture.end()
        return False

    def _stop(self) -> None:
        self._over = True
        self._let_go()
