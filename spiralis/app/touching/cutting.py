"""Cut a subject out: as a picture of its own, a mask or a shape."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from attrs import evolve
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QMenu,
    QPushButton,
)

from spiralis.app.touching.view import BOX
from spiralis.app.touching.window import PREVIEW, TouchWindow
from spiralis.app.widgets.fields import CheckBox
from spiralis.core.editing.selections import outline_strokes, with_selection_as_mask, with_selection_as_shape
from spiralis.core.editing.touching import (
    cut_source,
    with_cut_out,
)
from spiralis.core.errors import SpiralisError
from spiralis.core.media.matting import cut_out, cut_out_alpha, preview_of
from spiralis.core.media.steps import Stops
from spiralis.core.model import Composition, Project, Source, layer_kind
from spiralis.core.model.touching import CUT_OUT, DROP, INSIDE, KEEP, SOFT, Touched
from spiralis.core.render.layers import Evaluated


class CutOutWindow(TouchWindow):
    """Cut a subject out: a box around it, strokes on what is kept and dropped, a brush for soft edges."""

    what, title, finish_label = CUT_OUT, "Cut out subject", "Cut it out"
    tools = (
        (BOX, "Box around it", "Draw roughly around the subject"),
        (KEEP, "Keep", "Strokes on what belongs to the subject"),
        (DROP, "Drop", "Strokes on what does not"),
        (INSIDE, "Outline", "Draw all around the subject; the outline closes by itself"),
        (SOFT, "Soft edge", "Paint over hair, cloth or mist: what is there is told apart by colour"),
    )

    def _add_more(self) -> None:
        t, side = self.touched, self.side
        self.feather = side.add_number("Feather", "px", 0, 500, t.feather, lambda v: self._set(feather=v))
        self.shift = side.add_number("Move the edge", "px", -200, 200, t.shift, lambda v: self._set(shift=v))
        self.clean = side.add_number("Clean colours", "%", 0, 100, t.clean, lambda v: self._set(clean=v))
        self.inverted = CheckBox("Take what is around it")
        self.inverted.setChecked(self.touched.inverted)
        self.inverted.clicked.connect(lambda on: self._set(inverted=bool(on)))
        side.more.addWidget(self.inverted)
        self.shapes = QPushButton("Outline of a shape")
        self.shapes.setToolTip("Take the outline of a shape of the piece, drawn with the pen say, as it lies here")
        menu = QMenu(self.shapes)
        menu.aboutToShow.connect(lambda: self._list_shapes(menu))
        self.shapes.setMenu(menu)
        side.more.addWidget(self.shapes)
        self.as_mask, self.as_shape = QPushButton("As a mask"), QPushButton("As a shape")
        self.as_mask.setToolTip("Mask the layer by outlines of the subject that can be edited; its picture stays")
        self.as_shape.setToolTip("Outlines of the subject as a shape layer of its own in front")
        self.as_mask.clicked.connect(lambda: self._take_as(with_selection_as_mask, "Mask the subject"))
        self.as_shape.clicked.connect(lambda: self._take_as(with_selection_as_shape, "Outline the subject"))
        row = QHBoxLayout()
        for button in (self.as_mask, self.as_shape):
            button.setAutoDefault(False)
            row.addWidget(button)
        side.more.addLayout(row)

    def _list_shapes(self, menu: QMenu) -> None:
        menu.clear()
        piece = self.session.project.composition(self.piece_id)
        for layer in piece.layers:
            if layer_kind(layer.kind).outlines is not None:
                menu.addAction(layer.name, lambda chosen=layer.id: self.take_outline(chosen))
        if menu.isEmpty():
            menu.addAction("The piece has no shapes yet").setEnabled(False)

    def take_outline(self, shape_id: str) -> None:
        """Take the outlines of a shape of the piece as those of the subject, in place of others."""
        at = self._seen()
        try:
            strokes = outline_strokes(at, self.layer, at.composition.layer(shape_id))
        except SpiralisError as error:
            self._say_problem(str(error))
            return
        rest = tuple(stroke for stroke in self.touched.strokes if stroke.kind != INSIDE)
        self.change(evolve(self.touched, strokes=(*rest, *strokes)))

    def _seen(self) -> Evaluated:
        project = self.session.project
        return Evaluated(project, project.composition(self.piece_id), float(self.session.frame))

    def _take_as(self, put: Callable[[Evaluated, str, np.ndarray], tuple[Composition, str]], step: str) -> None:
        """Work the subject out at full size beside the window, and put its outlines into the piece."""
        if not self._asks(self.touched):
            self._say_problem(self._hint())
            return

        def finish(alpha: np.ndarray) -> None:
            try:
                piece, chosen = put(self._seen(), self.layer.id, alpha)
            except SpiralisError as error:
                self._say_problem(str(error))
                return
            self._close_with(step, self.session.project.with_composition(piece), chosen)

        touched = self.touched
        self.make(lambda stops: cut_out_alpha(self.pixels, touched, stops), finish)

    def _set(self, **values: float | bool) -> None:
        self.change(evolve(self.touched, **values))

    def _asks(self, touched: Touched) -> bool:
        return touched.box is not None or any(stroke.kind in (KEEP, INSIDE) for stroke in touched.strokes)

    def _hint(self) -> str:
        return (
            "Draw a box or an outline around the subject, or strokes on what is to be kept. "
            "The wheel zooms, the space bar moves."
        )

    def _preview(self, touched: Touched, stops: Stops) -> np.ndarray:
        return cut_out(*preview_of(self.pixels, touched, PREVIEW), stops)

    def _take_preview(self, preview: np.ndarray) -> None:
        self.view.show_result(preview)
        share = float((preview[..., 3] > 127).mean())
        self._say(f"The subject is {share:.0%} of the picture. Strokes mend what is wrong.".replace("%", " %"))

    def _make(self, touched: Touched, stops: Stops) -> Source:
        return cut_source(self.source, touched, stops)

    def _put(self, project: Project, source: Source) -> tuple[Project, str]:
        return with_cut_out(project, project.composition(self.piece_id), self.layer.id, source)
