"""The window over one picture: what cutting out and filling have in common."""

from __future__ import annotations

from collections.abc import Callable
from itertools import count
from typing import Any

import numpy as np
from attrs import evolve
from PyQt6.QtCore import QTimer
from PyQt6.QtGui import QCloseEvent, QKeySequence, QShortcut
from PyQt6.QtWidgets import (
    QButtonGroup,
    QDialog,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from spiralis.app.session import Session
from spiralis.app.touching.pyramid import Pyramid
from spiralis.app.touching.view import TouchView
from spiralis.app.widgets.dressing import say
from spiralis.app.widgets.fields import NumberField
from spiralis.app.work.background import Background
from spiralis.app.work.soon import Soon
from spiralis.core.editing.touching import (
    pixels_of,
    touchable,
)
from spiralis.core.errors import Cancelled, SpiralisError
from spiralis.core.media.steps import Stops
from spiralis.core.model import Layer, Project, Source
from spiralis.core.model.touching import Stroke, Touched

#: The longer side of what is shown while one draws, in px.
PREVIEW = 900
_numbers = count(1)


class TouchWindow(QDialog):
    """Tools at the left, the picture, what is said under it. Undo takes back stroke by stroke."""

    what, title, finish_label = "", "", ""
    tools: tuple[tuple[str, str, str], ...] = ()

    def __init__(self, parent: QWidget, session: Session, layer: Layer) -> None:
        """Open over a layer's picture; raises ModelError where it has none."""
        source = touchable(session.project, layer)
        super().__init__(parent)
        self.session, self.layer = session, layer
        self.piece_id = session.composition_id
        before = source.made if source.made is not None and source.made.what == self.what else None
        first = session.project.source(before.of) if before is not None else None
        #: What is worked on: for a picture that was made here before, what that was made of, with its strokes.
        self.source = first if before is not None and first is not None else source
        self.touched = before if before is not None and first is not None else Touched(self.source.id, self.what)
        self.picture: Pyramid | None = None
        self.history: list[Touched] = []
        self.setWindowTitle(f"{self.title}: {layer.name}")
        self.resize(1120, 740)
        self.view = TouchView(self.source.width, self.source.height)
        self.view.radius = max(max(self.source.width, self.source.height) / 60, 1.0)
        self.view.strokeMade.connect(self.add_stroke)
        self.view.boxMade.connect(self.set_box)
        self.view.refused.connect(self._say_problem)
        self.state = QLabel()
        self.state.setWordWrap(True)
        self._background = Background(self)
        self._number, self._closing = 0, False
        #: How much of the work at full size is done, 0 to 1; the thread that does it writes it.
        self._done = 0.0
        self._progress = QTimer(self)
        self._progress.setInterval(200)
        self._progress.timeout.connect(self._tell_progress)
        self._soon = Soon(self, self.refresh, wait=60)
        self._lay_out()
        QShortcut(QKeySequence(QKeySequence.StandardKey.Undo), self, self.undo)
        self.view.setEnabled(False)
        self.finish.setEnabled(False)
        self._say("Opening the picture…")
        self._background.run(self._read, self._take_picture)

    def _read(self) -> tuple[Pyramid, tuple[Stroke, ...]]:
        """Read the picture beside the window, and what to begin with."""
        pixels = pixels_of(self.source)
        return Pyramid(pixels), self._begin_with(pixels)

    def _begin_with(self, pixels: np.ndarray) -> tuple[Stroke, ...]:
        """Return the strokes that a kind of window begins with where there are none; asked in another thread."""
        return ()

    def _take_picture(self, found: object) -> None:
        if self._closing:
            return
        if not isinstance(found, tuple):
            self._say_problem(str(found))
            return
        self.picture, strokes = found
        self.view.show_picture(self.picture)
        self.view.setEnabled(True)
        self.finish.setEnabled(True)
        if strokes and not self.touched.strokes:
            self.change(evolve(self.touched, strokes=strokes))
        else:
            self._show()

    @property
    def pixels(self) -> np.ndarray:
        """The picture, straight uint8 (h, w, 4), once it is there."""
        assert self.picture is not None
        return self.picture.pixels

    # -- building --------------------------------------------------------------------------------------

    def _lay_out(self) -> None:
        side = QVBoxLayout()
        side.setSpacing(8)
        self.buttons: dict[str, QPushButton] = {}
        group = QButtonGroup(self)
        for tool, label, tip in self.tools:
            button = QPushButton(label)
            button.setCheckable(True)
            button.setAutoDefault(False)
            button.setToolTip(tip)
            button.clicked.connect(lambda _=False, tool=tool: self.take_tool(tool))
            group.addButton(button)
            self.buttons[tool] = button
            side.addWidget(button)
        self.numbers = QGridLayout()
        self.numbers.setHorizontalSpacing(8)
        self.brush = self._number_field("Brush", "px", 0.5, 2000, self.view.radius, self._take_radius)
        self._add_numbers()
        side.addLayout(self.numbers)
        self._add_more(side)
        side.addStretch(1)
        self.back = QPushButton("Undo the last stroke")
        self.back.setAutoDefault(False)
        self.back.clicked.connect(self.undo)
        self.finish = QPushButton(self.finish_label)
        self.finish.setObjectName("Primary")
        self.finish.setAutoDefault(False)
        self.finish.clicked.connect(self.take)
        self.stop = QPushButton("Cancel")
        self.stop.setAutoDefault(False)
        self.stop.clicked.connect(self.reject)
        for button in (self.back, self.stop, self.finish):
            side.addWidget(button)
        left = QWidget()
        left.setLayout(side)
        left.setFixedWidth(230)
        right = QVBoxLayout()
        right.addWidget(self.view, 1)
        right.addWidget(self.state)
        whole = QHBoxLayout(self)
        whole.setContentsMargins(12, 12, 12, 12)
        whole.addWidget(left)
        whole.addLayout(right, 1)
        self.take_tool(self.tools[0][0])

    def _number_field(
        self, label: str, unit: str, least: float, most: float, value: float, change: Callable[[float], None]
    ) -> NumberField:
        row = self.numbers.rowCount()
        field = NumberField(label, unit, least, most, decimals=1)
        field.show_value(value)
        field.changed.connect(change)
        field.refused.connect(self._say_problem)
        self.numbers.addWidget(QLabel(label), row, 0)
        self.numbers.addWidget(field, row, 1)
        return field

    def _add_numbers(self) -> None:
        """Add the numbers of a kind of window."""

    def _add_more(self, side: QVBoxLayout) -> None:
        """Add what else a kind of window has."""

    def _take_radius(self, value: float) -> None:
        self.view.radius = value
        self.view.update()

    def take_tool(self, tool: str) -> None:
        """Take a brush, or the box, in hand."""
        self.view.tool = tool
        self.buttons[tool].setChecked(True)

    # -- what is drawn ---------------------------------------------------------------------------------

    def change(self, touched: Touched) -> None:
        """Go on with other strokes or numbers; undo leads back."""
        self.history.append(self.touched)
        self.touched = touched
        self._show()

    def add_stroke(self, stroke: Stroke) -> None:
        """Draw a stroke."""
        try:
            self.change(evolve(self.touched, strokes=(*self.touched.strokes, stroke)))
        except SpiralisError as error:
            self._say_problem(str(error))

    def set_box(self, box: tuple[float, float, float, float]) -> None:
        """Draw the box."""
        self.change(evolve(self.touched, box=box))

    def undo(self) -> None:
        """Take back the last stroke or number."""
        if self.history:
            self.touched = self.history.pop()
            self._show()

    def _show(self) -> None:
        self.view.strokes, self.view.box = self.touched.strokes, self.touched.box
        self.back.setEnabled(bool(self.history))
        self.view.update()
        if self.picture is not None:
            self._soon.ask()

    def refresh(self) -> None:
        """Work out, beside the window, what comes of the strokes; the newest question is the one that counts."""
        self._number = number = next(_numbers)
        touched = self.touched
        if not self._asks(touched):
            self.view.show_result(None)
            self._say(self._hint())
            return
        self._say("Looking…")

        def done(found: object) -> None:
            if number != self._number or self._closing:
                return
            if not isinstance(found, Exception):
                self._take_preview(found)
            elif isinstance(found, SpiralisError) and not isinstance(found, Cancelled):
                self._say_problem(str(found))

        self._background.run(lambda: self._preview(touched, lambda _: number != self._number), done)

    def _asks(self, touched: Touched) -> bool:
        raise NotImplementedError

    def _hint(self) -> str:
        raise NotImplementedError

    def _preview(self, touched: Touched, stops: Stops) -> Any:
        """Return what comes of the strokes, made in another thread, for ``_take_preview``."""
        raise NotImplementedError

    def _take_preview(self, preview: Any) -> None:
        raise NotImplementedError

    def _make(self, touched: Touched, stops: Stops) -> Source:
        raise NotImplementedError

    def _put(self, project: Project, source: Source) -> tuple[Project, str]:
        raise NotImplementedError

    # -- the end ---------------------------------------------------------------------------------------

    def take(self) -> None:
        """Make the picture at its full size beside the window, put it into the piece, and close."""
        touched = self.touched
        self._work(lambda stops: self._make(touched, stops), Source, self._finish)

    def _work(self, make: Callable[[Stops], object], kind: type, finish: Callable[[Any], None]) -> None:
        """Do the work at full size beside the window, and go on with what it gives."""
        self._number = number = next(_numbers)
        self.finish.setEnabled(False)
        self._done = 0.0
        self._tell_progress()
        self._progress.start()

        def stops(share: float) -> bool:
            if number == self._number:
                self._done = share
            return number != self._number

        def done(found: object) -> None:
            self._progress.stop()
            self.finish.setEnabled(True)
            if number != self._number or self._closing:
                return
            if isinstance(found, kind):
                finish(found)
            elif isinstance(found, Exception) and not isinstance(found, Cancelled):
                self._say_problem(str(found))

        self._background.run(lambda: make(stops), done)

    def _tell_progress(self) -> None:
        self._say(f"Making it at full size: {100 * self._done:.0f} %. Cancel stops it.")

    def _finish(self, source: Source) -> None:
        project = self.session.project
        piece = project.find(self.piece_id)
        if piece is None or piece.find(self.layer.id) is None:
            self._say_problem(f"“{self.layer.name}” is gone meanwhile; undo brings it back.")
            return
        try:
            project, chosen = self._put(project, source)
        except SpiralisError as error:
            self._say_problem(str(error))
            return
        self._close_with(self.title, project, chosen)

    def _close_with(self, step: str, project: Project, chosen: str) -> None:
        if self.session.edit_project(step, project):
            self.session.select([chosen])
            self._closing = True
            self.accept()

    def reject(self) -> None:
        """Leave everything as it was; what is being worked out stops."""
        self._closing, self._number = True, next(_numbers)
        super().reject()

    def closeEvent(self, event: QCloseEvent) -> None:
        self._closing, self._number = True, next(_numbers)
        super().closeEvent(event)

    def _say(self, text: str, look: str = "Quiet") -> None:
        say(self.state, text, look)

    def _say_problem(self, sentence: str) -> None:
        self._say(sentence, "Alarm")
