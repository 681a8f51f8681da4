"""What stays as it is while the playhead moves is painted once, into a picture that is only shown again."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Sequence

from PyQt6.QtCore import QRect, Qt
from PyQt6.QtGui import QPainter, QPixmap


class Still:
    """A picture of part of a widget, and what it was painted from."""

    def __init__(self) -> None:
        self._picture: QPixmap | None = None
        self._of: tuple[object, ...] = ()
        self._key: Hashable = None

    def forget(self) -> None:
        """Paint anew the next time."""
        self._picture, self._of = None, ()

    def paint(
        self, painter: QPainter, area: QRect, of: Sequence[object], key: Hashable, draw: Callable[[QPainter], None]
    ) -> None:
        """Show what ``draw`` paints in an area of the widget, painted anew where the very values that it is ``of``, the
        key or the area are others than the last time."""
        device = painter.device()
        assert device is not None
        ratio = device.devicePixelRatioF()
        whole = (key, area.getRect(), ratio)
        same = len(of) == len(self._of) and all(a is b for a, b in zip(of, self._of, strict=True))
        if self._picture is None or not same or whole != self._key:
            self._picture, self._of, self._key = QPixmap(area.size() * ratio), tuple(of), whole
            self._picture.setDevicePixelRatio(ratio)
            self._picture.fill(Qt.GlobalColor.transparent)
            inner = QPainter(self._picture)
            inner.setRenderHints(painter.renderHints())
            inner.setFont(painter.font())
            inner.translate(-area.topLeft().toPointF())
            draw(inner)
            inner.end()
        painter.drawPixmap(area.topLeft(), self._picture)
