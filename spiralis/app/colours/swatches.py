"""The project's swatches as a grid: click takes one, plus keeps the present one, Delete drops one."""

from __future__ import annotations

from attrs import evolve
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from spiralis.app.colours.converting import as_qcolor
from spiralis.app.session import Session
from spiralis.app.style import GROUND, LINE, MARIGOLD, QUIET, colour, font
from spiralis.core.colour import Colour, to_hex
from spiralis.core.model.project import MOST_SWATCHES

_CELL, _GAP, _COLUMNS, _ROWS = 22, 4, 9, 4


class SwatchGrid(QWidget):
    """Up to nine in a row."""

    taken = pyqtSignal(object)
    #: Where down the grid the swatch lies that was added or chosen by the keyboard.
    chosenMoved = pyqtSignal(int)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.present: Colour = (1.0, 1.0, 1.0, 1.0)
        self.chosen = -1
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName("Swatches of the project")
        self._fit()
        session.projectChanged.connect(self._fit)

    def _fit(self) -> None:
        """Have room for every swatch and the plus, and for four rows at least."""
        rows = max(_ROWS, -(-(len(self.session.project.swatches) + 1) // _COLUMNS))
        self.setFixedSize(_COLUMNS * (_CELL + _GAP), rows * (_CELL + _GAP))
        self.update()

    def sizeHint(self) -> QSize:
        return self.size()

    def cell(self, index: int) -> QRectF:
        """Return where a swatch lies; the one after the last is the plus."""
        row, column = divmod(index, _COLUMNS)
        return QRectF(column * (_CELL + _GAP) + 1, row * (_CELL + _GAP) + 1, _CELL, _CELL)

    def _index_at(self, point: QPointF) -> int:
        swatches = self.session.project.swatches
        return next((i for i in range(len(swatches) + 1) if self.cell(i).contains(point)), -1)

    def add(self, *colours: Colour) -> None:
        """Keep colours that are not there yet."""
        old = self.session.project.swatches
        fresh = tuple(dict.fromkeys(c for c in colours if c not in old))
        if len(old) + len(fresh) > MOST_SWATCHES:
            self.session.failed.emit(
                f"A project has up to {MOST_SWATCHES} swatches, and these would be more; drop some first."
            )
        elif fresh:
            name = "Keep swatch" if len(fresh) == 1 else f"Keep {len(fresh)} swatches"
            self.session.edit_project(name, evolve(self.session.project, swatches=(*old, *fresh)))
            self.chosenMoved.emit(int(self.cell(len(old) + len(fresh)).bottom()))
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        index, swatches = self._index_at(event.position()), self.session.project.swatches
        if index == len(swatches):
            self.add(tuple(min(max(v, 0.0), 1.0) for v in self.present))
        elif index >= 0:
            self.chosen = index
            self.taken.emit(swatches[index])
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        index, swatches = self._index_at(event.position()), self.session.project.swatches
        if index < 0:
            self.setToolTip("")
        else:
            plus = "Keep the present colour as a swatch of the project"
            self.setToolTip(plus if index == len(swatches) else f"{to_hex(swatches[index])}; Delete drops it")

    def keyPressEvent(self, event: QKeyEvent) -> None:
        swatches = self.session.project.swatches
        if event.key() in (Qt.Key.Key_Left, Qt.Key.Key_Right) and swatches:
            self.chosen = (self.chosen + (1 if event.key() == Qt.Key.Key_Right else -1)) % len(swatches)
            self.taken.emit(swatches[self.chosen])
            self.chosenMoved.emit(int(self.cell(self.chosen).center().y()))
        elif event.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace) and 0 <= self.chosen < len(swatches):
            kept = tuple(c for index, c in enumerate(swatches) if index != self.chosen)
            self.session.edit_project("Drop swatch", evolve(self.session.project, swatches=kept))
            self.chosen = min(self.chosen, len(kept) - 1)
        elif event.key() == Qt.Key.Key_Plus:
            self.add(self.present)
        else:
            super().keyPressEvent(event)
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        swatches = self.session.project.swatches
        for index, swatch in enumerate(swatches):
            lit = self.hasFocus() and index == self.chosen
            painter.setPen(QPen(colour(MARIGOLD if lit else LINE), 2 if lit else 1))
            painter.setBrush(as_qcolor(swatch))
            painter.drawRoundedRect(self.cell(index), 4, 4)
        plus = self.cell(len(swatches))
        painter.setPen(QPen(colour(LINE), 1))
        painter.setBrush(colour(GROUND))
        painter.drawRoundedRect(plus, 4, 4)
        painter.setPen(colour(QUIET))
        painter.setFont(font(15, 600))
        painter.drawText(plus, Qt.AlignmentFlag.AlignCenter, "+")
        painter.end()
