"""A value's ring dropped on the thread that it is to follow."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QEvent, QObject, QRectF
from PyQt6.QtGui import QDragEnterEvent, QDragMoveEvent, QDropEvent, QPainter
from PyQt6.QtWidgets import QWidget

from spiralis.app.commands.tying import THREAD, tie
from spiralis.app.session import Session
from spiralis.app.style import MARIGOLD, colour
from spiralis.app.timeline.layout import Row, row_at


class TieDrop(QObject):
    """Watches the drags over the rows; anything but a ring is left to the window."""

    def __init__(self, widget: QWidget, session: Session, rows: Callable[[], list[Row]]) -> None:
        super().__init__(widget)
        self.widget, self.session, self.rows = widget, session, rows
        self.over: Row | None = None
        widget.setAcceptDrops(True)
        widget.installEventFilter(self)

    def paint(self, painter: QPainter) -> None:
        """Mark the row under the ring."""
        if self.over is not None:
            area = QRectF(0, self.over.top, self.widget.width(), self.over.height)
            painter.fillRect(area, colour(MARIGOLD, 0.18))

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if isinstance(event, QDragMoveEvent) and not isinstance(event, QDragEnterEvent):
            self.over = row_at(self.rows(), event.position().y())
            event.setAccepted(self.over is not None)
        elif isinstance(event, QDragEnterEvent):
            mime = event.mimeData()
            event.setAccepted(mime is not None and mime.hasFormat(THREAD))
        elif isinstance(event, QDropEvent):
            self._drop(event)
        elif event is not None and event.type() == QEvent.Type.DragLeave:
            self.over = None
        else:
            return False
        self.widget.update()
        return True

    def _drop(self, event: QDropEvent) -> None:
        row, mime = row_at(self.rows(), event.position().y()), event.mimeData()
        self.over = None
        if row is not None and mime is not None:
            tie(self.session, bytes(mime.data(THREAD).data()).decode(), row.layer, row.name)
            event.acceptProposedAction()
