"""The windows over one picture: what both have in common, then cutting out and filling."""

from __future__ import annotations

from collections.abc import Callable
from itertools import count

import numpy as np
from attrs import evolve
from PyQt6.QtGui import QCloseEvent, QKeySequence, QShortcut
from PyQt6.QtWidgets import QButtonGroup, QDialog, QGridLayout, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from spiralis.app.session import Session
from spiralis.app.touching.view import BOX, TouchView
from spiralis.app.widgets.dressing import say
from spiralis.app.widgets.fields import CheckBox, NumberField
from spiralis.app.work.background import Background
from spiralis.app.work.soon import Soon
from spiralis.core.editing.touching import (
    area_behind,
    area_strokes,
    cut_source,
    filled_source,
    pixels_of,
    touchable,
    with_cut_out,
    with_filled,
)
from spiralis.core.errors import Cancelled, SpiralisError
from spiralis.core.media.filling import copied_over, filled_behind, hole_of
from spiralis.core.media.matting import cut_out, preview_of
from spiralis.core.model import Layer, Project, Source
from spiralis.core.model.touching import AREA, COPY, CUT_OUT, DROP, FILL, KEEP, SOFT, Stroke, Touched

#: The longer side of what is shown while one draws, in px.
_PREVIEW = 900
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
        self.pixels = pixels_of(self.source)
        self.history: list[Touched] = []
        self.setWindowTitle(f"{self.title}: {layer.name}")
        self.resize(1120, 740)
        self.view = TouchView(self.pixels)
        self.view.radius = max(max(self.pixels.shape[:2]) / 60, 1.0)
        self.view.strokeMade.connect(self.add_stroke)
        self.view.boxMade.connect(self.set_box)
        self.view.refused.connect(self._say_problem)
        self.state = QLabel()
        self.state.setWordWrap(True)
        self._background = Background(self)
        self._number, self._closing = 0, False
        self._soon = Soon(self, self.refresh, wait=60)
        self._lay_out()
        QShortcut(QKeySequence(QKeySequence.StandardKey.Undo), self, self.undo)
        self._show()

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
            if isinstance(found, np.ndarray):
                self._take_preview(found)
            elif isinstance(found, SpiralisError) and not isinstance(found, Cancelled):
                self._say_problem(str(found))

        self._background.run(lambda: self._preview(touched, lambda: number != self._number), done)

    def _asks(self, touched: Touched) -> bool:
        raise NotImplementedError

    def _hint(self) -> str:
        raise NotImplementedError

    def _preview(self, touched: Touched, stops: Callable[[], bool]) -> np.ndarray:
        raise NotImplementedError

    def _take_preview(self, pixels: np.ndarray) -> None:
        raise NotImplementedError

    def _make(self, touched: Touched, stops: Callable[[], bool]) -> Source:
        raise NotImplementedError

    def _put(self, project: Project, source: Source) -> tuple[Project, str]:
        raise NotImplementedError

    # -- the end ---------------------------------------------------------------------------------------

    def take(self) -> None:
        """Make the picture at its full size beside the window, put it into the piece, and close."""
        self._number = number = next(_numbers)
        touched = self.touched
        self.finish.setEnabled(False)
        self._say("Making it at full size… Cancel stops it.")

        def done(found: object) -> None:
            self.finish.setEnabled(True)
            if number != self._number or self._closing:
                return
            if isinstance(found, Source):
                self._finish(found)
            elif isinstance(found, Exception) and not isinstance(found, Cancelled):
                self._say_problem(str(found))

        self._background.run(lambda: self._make(touched, lambda: number != self._number), done)

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
        if self.session.edit_project(self.title, project):
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


class CutOutWindow(TouchWindow):
    """Cut a subject out: a box around it, strokes on what is kept and dropped, a brush for soft edges."""

    what, title, finish_label = CUT_OUT, "Cut out subject", "Cut it out"
    tools = (
        (BOX, "Box around it", "Draw roughly around the subject"),
        (KEEP, "Keep", "Strokes on what belongs to the subject"),
        (DROP, "Drop", "Strokes on what does not"),
        (SOFT, "Soft edge", "Paint over hair, cloth or mist: what is there is told apart by colour"),
    )

    def _add_numbers(self) -> None:
        t = self.touched
        self.feather = self._number_field("Feather", "px", 0, 500, t.feather, lambda v: self._set(feather=v))
        self.shift = self._number_field("Move the edge", "px", -200, 200, t.shift, lambda v: self._set(shift=v))
        self.clean = self._number_field("Clean colours", "%", 0, 100, t.clean, lambda v: self._set(clean=v))

    def _add_more(self, side: QVBoxLayout) -> None:
        self.inverted = CheckBox("Take what is around it")
        self.inverted.setChecked(self.touched.inverted)
        self.inverted.clicked.connect(lambda on: self._set(inverted=bool(on)))
        side.addWidget(self.inverted)

    def _set(self, **values: float | bool) -> None:
        self.change(evolve(self.touched, **values))

    def _asks(self, touched: Touched) -> bool:
        return touched.box is not None or any(stroke.kind == KEEP for stroke in touched.strokes)

    def _hint(self) -> str:
        return "Draw a box around the subject, or strokes on what is to be kept. The wheel zooms, the space bar moves."

    def _preview(self, touched: Touched, stops: Callable[[], bool]) -> np.ndarray:
        return cut_out(*preview_of(self.pixels, touched, _PREVIEW), stops)

    def _take_preview(self, pixels: np.ndarray) -> None:
        self.view.show_result(pixels)
        share = float((pixels[..., 3] > 127).mean())
        self._say(f"The subject is {share:.0%} of the picture. Strokes mend what is wrong.".replace("%", " %"))

    def _make(self, touched: Touched, stops: Callable[[], bool]) -> Source:
        return cut_source(self.source, touched, stops)

    def _put(self, project: Project, source: Source) -> tuple[Project, str]:
        return with_cut_out(project, project.composition(self.piece_id), self.layer.id, source)


class FillWindow(TouchWindow):
    """Fill what is behind: a painted area from its surroundings, touched up by a brush that copies from elsewhere."""

    what, title, finish_label = FILL, "Fill behind", "Fill it"
    tools = (
        (AREA, "Area", "Paint over what is to be filled"),
        (COPY, "Copy from", "Alt-click where to copy from, then paint"),
    )

    def __init__(self, parent: QWidget, session: Session, layer: Layer) -> None:
        #: What the area was filled with last: copying over it need not fill it again.
        self._filled: tuple[tuple[Stroke, ...], np.ndarray] | None = None
        super().__init__(parent, session, layer)
        if not self.touched.strokes:
            self._begin_behind()

    def _begin_behind(self) -> None:
        """Begin with the area of the subject that was cut out of this picture."""
        area = area_behind(self.session.project, self.session.composition, self.layer.id)
        if area is not None and area.shape == self.pixels.shape[:2] and area.any() and not area.all():
            self.change(evolve(self.touched, strokes=area_strokes(area)))

    def _asks(self, touched: Touched) -> bool:
        return bool(touched.strokes)

    def _hint(self) -> str:
        return "Paint over what is to go; it is filled from what is around it. The wheel zooms, the space bar moves."

    def _preview(self, touched: Touched, stops: Callable[[], bool]) -> np.ndarray:
        areas = tuple(stroke for stroke in touched.strokes if stroke.kind == AREA)
        held = self._filled
        if held is None or held[0] != areas:
            height, width = self.pixels.shape[:2]
            made = filled_behind(self.pixels, hole_of((width, height), touched), stops)
            held = self._filled = (areas, made)
        return copied_over(held[1], touched.strokes)

    def _take_preview(self, pixels: np.ndarray) -> None:
        self.view.show_pixels(pixels)
        self.view.strokes = ()
        self._say("Filled. Paint more, or copy over it from elsewhere: Alt-click where from, then paint.")

    def refresh(self) -> None:
        if not self._asks(self.touched):
            self.view.show_pixels(self.pixels)
        super().refresh()

    def _make(self, touched: Touched, stops: Callable[[], bool]) -> Source:
        return filled_source(self.source, touched, stops)

    def _put(self, project: Project, source: Source) -> tuple[Project, str]:
        return with_filled(project, project.composition(self.piece_id), self.layer.id, source), self.layer.id


