"""Pictures of the timeline's rows: an edit paints those rows anew that show something else since, and no others."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Sequence
from functools import partial

import numpy as np
from PyQt6.QtCore import QRect
from PyQt6.QtGui import QPainter, QPixmap

from spiralis.app.session import Session
from spiralis.app.timeline.layout import Row, TimeAxis
from spiralis.app.timeline.marks import is_own, marks_of, shared_count
from spiralis.app.timeline.painting import draw_layer_row, draw_outline, draw_track_row, followed
from spiralis.app.widgets.still import Still
from spiralis.core.animation.drivers import is_driven


class RowPictures:
    """Pictures of the rows that were painted last, by layer and thread."""

    def __init__(self, session: Session) -> None:
        self._session = session
        self._kept: dict[tuple[str, str | None], Still] = {}

    def forget(self) -> None:
        """Paint all rows anew the next time."""
        self._kept = {}

    def paint(
        self, painter: QPainter, rows: Sequence[Row], axis: TimeAxis, width: int,
        thumbnail: Callable[[Row], QPixmap | None], outline: Callable[[Row], np.ndarray | None],
        may_draw: Callable[[Row], bool],
    ) -> None:  # fmt: skip
        """Show rows; those for which there is no picture and ``may_draw`` says no are left out for now."""
        kept, chosen = {}, self._chosen_keys()
        for row in rows:
            place = (row.layer.id, row.name)
            shown, heard = (thumbnail(row), outline(row)) if row.name is None else (None, None)
            of, own = self._look(row, shown, heard, chosen.get(place, frozenset()))
            area, key = QRect(0, int(row.top), width, int(row.height)), (own, axis, row.depth)
            still = self._kept.get(place) or Still(movable=True)
            if still.shows(painter, area, of, key) or may_draw(row):
                still.paint(painter, area, of, key, partial(self._draw, row, axis, shown, heard))
                kept[place] = still
        self._kept = kept

    def _chosen_keys(self) -> dict[tuple[str, str | None], frozenset[int]]:
        """Return the frames of chosen keys by layer and thread."""
        frames: dict[tuple[str, str | None], set[int]] = {}
        for key in self._session.keys:
            frames.setdefault((key.layer, key.name), set()).add(key.frame)
        return {place: frozenset(own) for place, own in frames.items()}

    def _look(
        self, row: Row, thumbnail: QPixmap | None, outline: np.ndarray | None, keys: frozenset[int]
    ) -> tuple[tuple[object, ...], Hashable]:
        """Return all that a row shows: what counts by identity, what by value."""
        session, layer, name = self._session, row.layer, row.name
        chosen = layer.id in session.selected
        if name is None:
            return (layer, thumbnail, outline), (chosen, marks_of(session, layer), shared_count(session, layer))
        piece = session.composition
        # What is driven depends on other layers.
        of = piece if is_driven(layer, name) else None
        return (layer, of), (chosen, keys, (layer.id, name) in followed(piece), is_own(piece, layer.id, name))

    def _draw(
        self, row: Row, axis: TimeAxis, thumbnail: QPixmap | None, outline: np.ndarray | None, painter: QPainter
    ) -> None:
        if row.name is None:
            draw_layer_row(painter, row, axis, self._session, thumbnail)
            if outline is not None:
                draw_outline(painter, row, axis, self._session, outline)
        else:
            draw_track_row(painter, row, axis, self._session)
