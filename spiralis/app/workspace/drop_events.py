"""What is dragged over the window and no panel took: where it would land lights up, and there it is taken."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QEvent, QObject
from PyQt6.QtGui import QDragEnterEvent, QDragMoveEvent, QDropEvent
from PyQt6.QtWidgets import QWidget

from spiralis.app.workspace.drop_light import DropLight
from spiralis.app.workspace.dropping import Dropping


class DropEvents(QObject):
    """Takes the window's drags, but while ``others`` alone take what is dropped."""

    def __init__(self, window: QWidget, dropping: Dropping, others: Callable[[], bool]) -> None:
        super().__init__(window)
        self.dropping, self.others, self.light = dropping, others, DropLight(window)
        window.setAcceptDrops(True)
        window.installEventFilter(self)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if isinstance(event, QDropEvent) and event.type() == QEvent.Type.Drop:
            self.light.show_target(None)
            if not self.others():
                self.dropping.take(event.mimeData(), event.position())
                event.acceptProposedAction()
        elif isinstance(event, QDragEnterEvent):
            if not self.others() and self.dropping.takes(event.mimeData()):
                event.acceptProposedAction()
        elif isinstance(event, QDragMoveEvent):
            self.light.show_target(self.dropping.target(event.mimeData(), event.position()))
            event.acceptProposedAction()
        elif event is not None and event.type() == QEvent.Type.DragLeave:
            self.light.show_target(None)
        else:
            return False
        return True
