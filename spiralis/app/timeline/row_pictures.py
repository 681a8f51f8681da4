"""Pictures of the timeline's rows: an edit paints those rows anew that show something else since, and no others."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Sequence

from attrs import frozen
from PyQt6.QtCore import QPointF, QSizeF, Qt
from PyQt6.QtGui import QPainter, QPixmap

from spiralis.app.session import Session
from spiralis.app.timeline.layout import Row, TimeAxis
from spiralis.app.timeline.painting import draw_layer_row, draw_track_row, followed, is_own, marks_of, shared_count
from spiralis.core.animation.drivers import is_driven


@frozen(eq=False)
class _Kept:
    """A row's picture: what it shows by identity, the rest by value."""

    of: tuple[object, ...]
    key: Hashable
    picture: QPixmap


class RowPictures:
    """Pictures of the rows that were painted last, by layer and thread."""

    def __init__(self, session: Session) -> None:
        self._session = session
        self._kept: dict[tuple[str, str | None], _Kept] = {}

    def forget(self) -> None:
        """Paint all rows anew the next time."""
        self._kept = {}

    def paint(
        self, painter: QPainter, rows: Sequence[Row], axis: TimeAxis, width: int,
        thumbnail: Callable[[Row], QPixmap | None], may_draw: Callable[[Row], bool],
    ) -> None:  # fmt: skip
        """Show rows; those for which there is no picture and ``may_draw`` says no are left out for now."""
        device = painter.device()
        assert device is not None
        ratio = device.devicePixelRatioF()
        kept, chosen = {}, self._chosen_keys()
        for row in rows:
            place = (row.layer.id, row.name)
            shown = thumbnail(row) if row.name is None else None
            of, own = self._look(row, shown, chosen.get(place, frozenset()))
            key = (own, axis, row.depth, row.height, width, ratio)
            held = self._kept.get(place)
            same = held is not None and held.key == key and all(a is b for a, b in zip(held.of, of, strict=True))
            if held is None or not same:
                if not may_draw(row):
                    continue
                held = _Kept(of, key, self._drawn(painter, row, axis, QSizeF(width, row.height), ratio, shown))
            kept[place] = held
            painter.drawPixmap(QPointF(0, row.top), held.picture)
        self._kept = kept

    def _chosen_keys(self) -> dict[tuple[str, str | None], frozenset[int]]:
        """Return the frames of chosen keys by layer and thread."""
        frames: dict[tuple[str, str | None], set[int]] = {}
        for key in self._session.keys:
            frames.setdefault((key.layer, key.name), set()).add(key.frame)
        return {place: frozenset(own) for place, own in frames.items()}

    def _look(
        self, row: Row, thumbnail: QPixmap | None, keys: frozenset[int]
    ) -> tuple[tuple[object, ...], Hashable]:
        """Return all that a row shows: what counts by identity, what by value."""
        session, layer, name = self._session, row.layer, row.name
        chosen = layer.id in session.selected
        if name is None:
            return (layer, thumbnail), (chosen, tuple(marks_of(session, layer)), shared_count(session, layer))
        piece = session.composition
        # What is driven depends on other layers.
        of = piece if is_driven(layer, name) else None
        return (layer, of), (chosen, keys, (layer.id, name) in followed(piece), is_own(piece, layer.id, name))

    def _drawn(
        self, painter: QPainter, row: Row, axis: TimeAxis, size: QSizeF, ratio: float, thumbnail: QPixmap | None
    ) -> QPixmap:
        picture = QPixmap((size * ratio).toSize())
        picture.setDevicePixelRatio(ratio)
        picture.fill(Qt.GlobalColor.transparent)
        inner = QPainter(picture)
        inner.setRenderHints(painter.renderHints())
        inner.setFont(painter.font())
        inner.translate(0, -row.top)
        if row.name is None:
            draw_layer_row(inner, row, axis, self._session, thumbnail)
        else:
            draw_track_row(inner, row, axis, self._session)
        inner.end()
        return picture
