"""The middle button, or any button while the space bar is held, drags the picture; the space bar alone plays."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QPointF, Qt
from PyQt6.QtGui import QKeyEvent, QMouseEvent
from PyQt6.QtWidgets import QWidget

from spiralis.app.canvas.viewport import Viewport
from spiralis.app.work.playback import Player


class Panning:
    """Belongs to a canvas, which tells it of keys and of the mouse and leaves to it what it takes."""

    def __init__(self, canvas: QWidget, viewport: Viewport, player: Player) -> None:
        self._canvas, self._viewport, self._player = canvas, viewport, player
        #: Where the picture was grabbed, and what was in the middle then.
        self._grabbed: tuple[QPointF, tuple[float, float]] | None = None
        #: While the space bar is held: whether it has not been used to move the picture, so that it means playing.
        self._space: bool | None = None

    def key(self, event: QKeyEvent) -> bool:
        """Take the space bar; False for other keys."""
        if event.key() != Qt.Key.Key_Space or event.modifiers():
            return False
        if event.type() == QEvent.Type.ShortcutOverride:
            event.accept()
        elif event.isAutoRepeat():
            pass
        elif event.type() == QEvent.Type.KeyPress:
            self._space = True
            self._canvas.setCursor(Qt.CursorShape.OpenHandCursor)
        elif event.type() == QEvent.Type.KeyRelease:
            plays, self._space = self._space, None
            self._canvas.unsetCursor()
            if plays:
                self._player.toggle()
        return True

    def press(self, event: QMouseEvent) -> bool:
        """Grab the picture, where this press does that."""
        if event.button() != Qt.MouseButton.MiddleButton and self._space is None:
            return False
        self._space = False if self._space is not None else None
        self._grabbed = (event.position(), self._viewport.centre)
        return True

    def move(self, event: QMouseEvent) -> bool:
        """Move the picture along, where it is held."""
        if self._grabbed is None:
            return False
        grabbed, centre = self._grabbed
        self._viewport.pan(centre, event.position() - grabbed)
        return True

    def let_go(self) -> None:
        """Hold the picture no more."""
        self._grabbed = None

    def forget_space(self) -> None:
        """Let nothing wait for the space bar: it comes up elsewhere."""
        self._space = None
