"""The demo's pieces on the start page: small pictures, each of which moves while the pointer is on it."""

from __future__ import annotations

import time
from collections.abc import Callable

import numpy as np
from PyQt6.QtCore import QEvent, QRectF, QSize, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QEnterEvent, QFocusEvent, QHideEvent, QPaintEvent, QPixmap, QShowEvent
from PyQt6.QtWidgets import QAbstractButton, QGridLayout, QLabel, QWidget

from spiralis.app.style import QUIET, TEXT, colour, font
from spiralis.app.widgets.cards import begin_card
from spiralis.app.widgets.preferences import preferred
from spiralis.app.work.background import Background, SmallPictures
from spiralis.core.model import Composition, Project
from spiralis.core.model.pieces import whole_pieces
from spiralis.core.render.frame import render_rgba8
from spiralis.demo.stored import stored_path

_WIDTH, _HEIGHT, _PICTURE, _COLUMNS = 80, 96, 66, 12
#: How many frames of a piece go round while the pointer is on it, and what is waited until the first is asked for.
_FRAMES, _WAIT = 24, 500


class StudyTile(QAbstractButton):
    """One piece. ``frame_of(index)`` gives one of its frames, or None while it is being drawn."""

    def __init__(self, piece: Composition, frame_of: Callable[[int], QPixmap | None]) -> None:
        super().__init__()
        self.piece, self._frame_of = piece, frame_of
        self.setFixedSize(_WIDTH, _HEIGHT)
        self.setAccessibleName(f"{piece.name}, a piece of the demo")
        self.setToolTip(f"Open {piece.name}: {piece.width} × {piece.height}, {float(piece.seconds):.3g} s")
        self._since = 0.0
        self._clock = QTimer(self)
        self._clock.setInterval(40)
        self._clock.timeout.connect(self.update)

    @property
    def moving(self) -> bool:
        """Whether it goes round."""
        return self._clock.isActive()

    def sizeHint(self) -> QSize:
        return QSize(_WIDTH, _HEIGHT)

    def picture(self) -> QPixmap | None:
        """Return what it shows now: while it moves the frame that is due, or the last one before it that is there."""
        still = self._frame_of(_FRAMES // 3)
        if not self.moving:
            return still
        turn = (time.perf_counter() - self._since) / float(self.piece.seconds) % 1.0
        frames = [self._frame_of(index) for index in range(_FRAMES)]
        return next((frames[index] for index in range(int(turn * _FRAMES), -1, -1) if frames[index]), still)

    def _move(self, moves: bool) -> None:
        self._since = time.perf_counter()
        self._clock.start() if moves and not preferred("still") else self._clock.stop()
        self.update()

    def enterEvent(self, event: QEnterEvent | None) -> None:
        self._move(True)
        super().enterEvent(event)

    def leaveEvent(self, event: QEvent | None) -> None:
        self._move(self.hasFocus())
        super().leaveEvent(event)

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        self._move(True)
        super().focusInEvent(event)

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        self._move(self.underMouse())
        super().focusOutEvent(event)

    def hideEvent(self, event: QHideEvent | None) -> None:
        self._clock.stop()
        super().hideEvent(event)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter, lit = begin_card(self, 8)
        shown = self.picture()
        if shown is not None and not shown.isNull():
            size = shown.deviceIndependentSize()
            scale = _PICTURE / max(size.width(), size.height(), 1.0)
            width, height = size.width() * scale, size.height() * scale
            place = QRectF((_WIDTH - width) / 2, 7 + (_PICTURE - height) / 2, width, height)
            painter.drawPixmap(place, shown, QRectF(shown.rect()))
        painter.setPen(colour(TEXT if lit else QUIET))
        painter.setFont(font(11))
        name = painter.fontMetrics().elidedText(self.piece.name, Qt.TextElideMode.ElideRight, _WIDTH - 10)
        painter.drawText(QRectF(5, _HEIGHT - 20, _WIDTH - 10, 15), Qt.AlignmentFlag.AlignCenter, name)
        painter.end()


class Studies(QWidget):
    """All of them, in rows; ``asked`` carries the id of the piece to open."""

    asked = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self.tiles: list[StudyTile] = []
        self._grid = QGridLayout(self)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setSpacing(6)
        self._heading = QLabel("Pieces of the demo: point at one to see it move, click to take it apart")
        self._heading.setObjectName("Quiet")
        self._heading.hide()
        self._grid.addWidget(self._heading, 0, 0, 1, _COLUMNS)
        self._background = Background(self)
        self._pictures = SmallPictures(self)
        self._pictures.made.connect(self._repaint)
        self._wait = QTimer(self)
        self._wait.setSingleShot(True)
        self._wait.setInterval(_WAIT)
        self._wait.timeout.connect(self._read)

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self._pictures.rest(False)
        if not self.tiles:
            # Who comes to open something at once is not to wait for pictures, nor to see the page move under the hand.
            self.setMinimumHeight(self._room() if stored_path().exists() else 0)
            self._wait.start()

    def hideEvent(self, event: QHideEvent | None) -> None:
        self._wait.stop()
        self._pictures.rest(True)
        super().hideEvent(event)

    def _room(self) -> int:
        """Return how high the heading and two rows are."""
        return self._heading.sizeHint().height() + 2 * (self._grid.spacing() + _HEIGHT)

    def _read(self) -> None:
        """Read the demo, where it is drawn already: nobody is to wait for that at the first start."""
        from spiralis.core.storage import load

        path = stored_path()
        if path.exists():
            self._background.run(lambda: load(path), self.show_project)

    def show_project(self, project: object) -> None:
        """Show the pieces of a project; what could not be read shows none."""
        if not isinstance(project, Project) or self.tiles:
            return
        # Formats of a piece are found with it.
        for index, piece in enumerate(each for each in whole_pieces(project) if each.follows is None):
            tile = StudyTile(piece, lambda number, piece=piece: self._frame(project, piece, number))
            tile.clicked.connect(lambda _=False, chosen=piece.id: self.asked.emit(chosen))
            self._grid.addWidget(tile, 1 + index // _COLUMNS, index % _COLUMNS)
            self.tiles.append(tile)
        self._heading.show()

    def _frame(self, project: Project, piece: Composition, number: int) -> QPixmap | None:
        frame = number * piece.length // _FRAMES

        def draw() -> np.ndarray | None:
            return render_rgba8(project, piece.id, frame, 2 * _PICTURE / max(piece.width, piece.height))

        return self._pictures.of((piece.id, number), draw)

    def _repaint(self) -> None:
        for tile in self.tiles:
            tile.update()
