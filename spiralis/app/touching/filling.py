"""Fill what lies behind, and copy over it."""

from __future__ import annotations

import numpy as np
from PyQt6.QtWidgets import (
    QWidget,
)

from spiralis.app.session import Session
from spiralis.app.touching.pyramid import Pyramid
from spiralis.app.touching.window import TouchWindow
from spiralis.core.editing.touching import (
    area_behind,
    area_strokes,
    filled_source,
    with_filled,
)
from spiralis.core.media.filling import copied_over, filled_behind, hole_of
from spiralis.core.media.steps import Stops
from spiralis.core.model import Layer, Project, Source
from spiralis.core.model.touching import AREA, COPY, FILL, Stroke, Touched


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
        self._at = (session.project, session.composition)
        super().__init__(parent, session, layer)

    def _begin_with(self, pixels: np.ndarray) -> tuple[Stroke, ...]:
        """Return the area of the subject that was cut out of this picture."""
        area = area_behind(*self._at, self.layer.id)
        if area is None or area.shape != pixels.shape[:2] or not area.any() or area.all():
            return ()
        return area_strokes(area)

    def _asks(self, touched: Touched) -> bool:
        return bool(touched.strokes)

    def _hint(self) -> str:
        return "Paint over what is to go; it is filled from what is around it. The wheel zooms, the space bar moves."

    def _preview(self, touched: Touched, stops: Stops) -> Pyramid:
        areas = tuple(stroke for stroke in touched.strokes if stroke.kind == AREA)
        held = self._filled
        if held is None or held[0] != areas:
            height, width = self.pixels.shape[:2]
            made = filled_behind(self.pixels, hole_of((width, height), touched), stops)
            held = self._filled = (areas, made)
        return Pyramid(copied_over(held[1], touched.strokes, stops))

    def _take_preview(self, preview: Pyramid) -> None:
        self.view.show_picture(preview)
        self.view.strokes = ()
        self._say("Filled. Paint more, or copy over it from elsewhere: Alt-click where from, then paint.")

    def refresh(self) -> None:
        if not self._asks(self.touched) and self.picture is not None:
            self.view.show_picture(self.picture)
        super().refresh()

    def _make(self, touched: Touched, stops: Stops) -> Source:
        return filled_source(self.source, touched, stops)

    def _put(self, project: Project, source: Source) -> tuple[Project, str]:
        return with_filled(project, project.composition(self.piece_id), self.layer.id, source), self.layer.id


