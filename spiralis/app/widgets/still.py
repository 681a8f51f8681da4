"""What stays as it is while the playhead moves is painted once, into a picture that is only shown again."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Sequence

from PyQt6.QtCore import QRect, Qt
from PyQt6.QtGui import QPainter, QPixmap


class Still:
    """A picture of part of a widget, and what it was painted from.

    Where what is painted goes along with the area (``movable``), the picture holds wherever the area comes to lie.
    """

    def __init__(self, movable: bool = False) -> None:
        self._movable = movable
        self._picture: QPixmap | None = None
        self._of: tuple[object, ...] = ()
        self._key: Hashable = None

    def forget(self) -> None:
        """Paint anew the next time."""
        self._picture, self._of = None, ()

    def shows(self, painter: QPainter, area: QRect, of: Sequence[object], key: Hashable) -> bool:
        """Whether it was painted from these very values, this key and this area."""
        same = len(of) == len(self._of) and all(a is b for a, b in zip(of, self._of, strict=True))
        return self._picture is not None and same and self._key == self._whole(painter, area, key)

    def paint(
        self, painter: QPainter, area: QRect, of: Sequence[object], key: Hashable, draw: Callable[[QPainter], None]
    ) -> None:
        """Show what ``draw`` paints in an area of the widget, painted anew where the very values that it is ``of``, the
        key or the area are others than the last time."""
        if not self.shows(painter, area, of, key):
            ratio = _ratio(painter)
            self._picture, self._of = QPixmap(area.size() * ratio), tuple(of)
            self._key = self._whole(painter, area, key)
            self._picture.setDevicePixelRatio(ratio)
            self._picture.fill(Qt.GlobalColor.transparent)
            inner = QPainter(self._picture)
            inner.setRenderHints(painter.renderHints())
            inner.setFont(painter.font())
            inner.translate(-area.topLeft().toPointF())
            draw(inner)
            inner.end()
        assert self._picture is not None
        painter.drawPixmap(area.topLeft(), self._picture)

    def _whole(self, painter: QPainter, area: QRect, key: Hashable) -> Hashable:
        size = area.size()
        place = (size.width(), size.height()) if self._movable else area.getRect()
        return key, place, _ratio(painter)


def _ratio(painter: QPainter) -> float:
    device = painter.device()
    assert device is not None
    return device.devicePixelRatioF()
