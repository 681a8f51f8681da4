"""The window over one picture: what cutting out and filling have in common."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np
from attrs import evolve
from PyQt6.QtGui import QKeySequence, QShortcut
from PyQt6.QtWidgets import (
    QDialog,
    QHBoxLayout,
    QLabel,
    QVBoxLayout,
    QWidget,
)

from spiralis.app.session import Session
from spiralis.app.touching.pyramid import Pyramid
from spiralis.app.touching.side import Side
from spiralis.app.touching.view import TouchView
from spiralis.app.widgets.asking import sure
from spiralis.app.widgets.dressing import say
from spiralis.app.work.soon import Soon
from spiralis.app.work.steps import Steps
from spiralis.app.work.working import Working
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
        self.steps = Steps(lambda: self.touched, self._show)
        self._first, self._making = self.touched, False
        self.setWindowTitle(f"{self.title}: {layer.name}")
        self.resize(1120, 740)
        self.view = TouchView(self.source.width, self.source.height)
        self.view.radius = max(max(self.source.width, self.source.height) / 60, 1.0)
        self.view.strokeMade.connect(self.add_stroke)
        self.view.boxMade.connect(self.set_box)
        self.view.refused.connect(self._say_problem)
        self.state = QLabel()
        self.state.setWordWrap(True)
        self.side, self.working = Side(self.tools, self.finish_label), Working(self)
        self.working.progressed.connect(
            lambda share: self._say(f"Making it at full size: {100 * share:.0f} %. Cancel stops it.")
        )
        self._soon = Soon(self, self.refresh, wait=60)
        self._lay_out()
        QShortcut(QKeySequence(QKeySequence.StandardKey.Undo), self, self.steps.undo)
        QShortcut(QKeySequence(QKeySequence.StandardKey.Redo), self, self.steps.redo)
        self.view.setEnabled(False)
        self.finish.setEnabled(False)
        self._say("Opening the picture…")

        def read(stops: Stops) -> tuple[Pyramid, tuple[Stroke, ...]]:
            pixels = pixels_of(self.source)
            return Pyramid(pixels), self._begin_with(pixels)

        self.working.ask(read, self._take_picture)

    def _begin_with(self, pixels: np.ndarray) -> tuple[Stroke, ...]:
        """Return the strokes that a kind of window begins with where there are none; asked in another thread."""
        return ()

    def _take_picture(self, found: object) -> None:
        if not isinstance(found, tuple):
            self._say_problem(str(found))
            return
        self.picture, strokes = found
        self.view.show_picture(self.picture)
        self.view.setEnabled(True)
        # The space bar moves the picture from the beginning.
        self.view.setFocus()
        self.finish.setEnabled(True)
        if strokes and not self.touched.strokes:
            self.change(evolve(self.touched, strokes=strokes))
            self._first = self.touched
        else:
            self._show(self.touched)

    @property
    def pixels(self) -> np.ndarray:
        """The picture, straight uint8 (h, w, 4), once it is there."""
        assert self.picture is not None
        return self.picture.pixels

    def _lay_out(self) -> None:
        side = self.side
        self.buttons, self.back, self.stop, self.finish = side.buttons, side.back, side.stop, side.finish
        self.brush = side.add_number("Brush", "px", 0.5, 2000, self.view.radius, self.view.set_radius)
        self._add_more()
        side.toolTaken.connect(self.view.set_tool)
        side.refused.connect(self._say_problem)
        self.back.clicked.connect(lambda: self.steps.undo())
        self.finish.clicked.connect(self.take)
        self.stop.clicked.connect(self.reject)
        right = QVBoxLayout()
        right.addWidget(self.view, 1)
        right.addWidget(self.state)
        whole = QHBoxLayout(self)
        whole.setContentsMargins(12, 12, 12, 12)
        whole.setSpacing(12)
        whole.addWidget(side)
        whole.addLayout(right, 1)
        side.take_tool(self.tools[0][0])

    def _add_more(self) -> None:
        """Add numbers, and what else a kind of window has, to the side."""

    # -- what is drawn ---------------------------------------------------------------------------------

    def change(self, touched: Touched) -> None:
        """Go on with other strokes or numbers; undo leads back."""
        self.steps.keep()
        self._show(touched)

    def add_stroke(self, stroke: Stroke) -> None:
        """Draw a stroke."""
        try:
            self.change(evolve(self.touched, strokes=(*self.touched.strokes, stroke)))
        except SpiralisError as error:
            self._say_problem(str(error))

    def set_box(self, box: tuple[float, float, float, float]) -> None:
        """Draw the box."""
        self.change(evolve(self.touched, box=box))

    def _show(self, touched: Touched) -> None:
        self.touched = touched
        self.view.strokes, self.view.box = self.touched.strokes, self.touched.box
        self.back.setEnabled(bool(self.steps.before))
        self.view.update()
        if self.picture is not None:
            self._soon.ask()

    def refresh(self) -> None:
        """Work out, beside the window, what comes of the strokes; the newest question is the one that counts."""
        touched = self.touched
        # Work at full size, of what was drawn before, is given up.
        self._show_making(False)
        if not self._asks(touched):
            self.working.forget()
            self.view.show_result(None)
            self._say(self._hint())
            return
        self._say("Looking…")

        def done(found: object) -> None:
            if not isinstance(found, Exception):
                self._take_preview(found)
            elif isinstance(found, SpiralisError) and not isinstance(found, Cancelled):
                self._say_problem(str(found))

        self.working.ask(lambda stops: self._preview(touched, stops), done)

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
        self.make(lambda stops: self._make(touched, stops), self._finish)

    def make(self, work: Callable[[Stops], Any], finish: Callable[[Any], None]) -> None:
        """Do work at full size beside the window, and go on with what it gives."""

        def done(found: object) -> None:
            self._show_making(False)
            if not isinstance(found, Exception):
                finish(found)
            elif not isinstance(found, Cancelled):
                self._say_problem(str(found))

        self._show_making(True)
        # What was changed just before is made along; a look at it would take the place of that.
        self._soon.stop()
        self.working.ask_long(work, done)

    def _show_making(self, on: bool) -> None:
        self._making = on
        self.finish.setEnabled(not on)

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
            self.working.end()
            self.accept()

    def reject(self) -> None:
        """Stop what is being made, or leave everything as it was; what was drawn is not dropped unasked."""
        if self._making:
            self.working.forget()
            self._show_making(False)
            self._say("Stopped; what you drew is still here.")
            return
        told, more = "What you drew here would go.", "The picture in the piece is as it was."
        if self.touched != self._first and not sure(self, self.title, told, more, "Let it go", "Go on drawing"):
            return
        self.working.end()
        super().reject()

    def _say(self, text: str, look: str = "Quiet") -> None:
        say(self.state, text, look)

    def _say_problem(self, sentence: str) -> None:
        self._say(sentence, "Alarm")
