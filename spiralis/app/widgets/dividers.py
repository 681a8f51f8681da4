"""A splitter whose dividers are easy to grab; a double click on one evens the panels out."""

from __future__ import annotations

from collections.abc import Iterable

from PyQt6.QtCore import QEvent, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QResizeEvent
from PyQt6.QtWidgets import QSplitter, QSplitterHandle, QWidget

from spiralis.app.style import LINE, MARIGOLD, PANEL, colour

#: Width of a divider in px; the line in its middle is thinner.
GRIP = 8


class _Divider(QSplitterHandle):
    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter, grip = QPainter(self), (GRIP - 2) // 2
        across = self.orientation() is Qt.Orientation.Horizontal
        line = self.rect().adjusted(grip, 0, -grip, 0) if across else self.rect().adjusted(0, grip, 0, -grip)
        painter.fillRect(self.rect(), colour(PANEL))
        painter.fillRect(line, colour(MARIGOLD if self.underMouse() else LINE))
        painter.end()

    def event(self, event: QEvent | None) -> bool:
        if event is not None and event.type() in (QEvent.Type.HoverEnter, QEvent.Type.HoverLeave):
            self.update()
        return super().event(event)

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        splitter = self.splitter()
        if isinstance(splitter, Dividers):
            splitter.evened.emit()


class Dividers(QSplitter):
    """Panels beside or above each other.

    ``evened`` tells that their usual sizes are wanted back, ``resized`` that they share another room than before.
    """

    evened = pyqtSignal()
    resized = pyqtSignal()

    def __init__(self, way: Qt.Orientation, widgets: Iterable[QWidget]) -> None:
        super().__init__(way)
        self.setHandleWidth(GRIP)
        self.setChildrenCollapsible(False)
        for widget in widgets:
            self.addWidget(widget)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self.resized.emit()

    def createHandle(self) -> QSplitterHandle:
        handle = _Divider(self.orientation(), self)
        handle.setToolTip("Drag to give one side more room; double-click for the usual sizes")
        return handle
