"""Last frame, first frame and their difference beside each other; flicking shows the first two in turn."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QRectF, QSize, Qt, QTimer
from PyQt6.QtGui import QImage, QPainter, QPaintEvent
from PyQt6.QtWidgets import QWidget

from spiralis.app.style import MARIGOLD, QUIET, SURROUND, colour, font
from spiralis.app.widgets.images import as_image

#: How long each picture stays while they are flicked, in ms.
_FLICK = 400
_HEAD = 24


class SeamPictures(QWidget):
    """``last`` and ``first`` are premultiplied uint8 (h, w, 4) of one size, or None while they are drawn."""

    def __init__(self) -> None:
        super().__init__()
        self.setMinimumHeight(250)
        self.setAccessibleName("Last frame, first frame, difference")
        self.last: np.ndarray | None = None
        self.first: np.ndarray | None = None
        self.names = ("Last frame", "First frame")
        self.gain = 4.0
        self._images: list[QImage | None] = [None, None, None]
        self._turned = False
        self._clock = QTimer(self)
        self._clock.setInterval(_FLICK)
        self._clock.timeout.connect(self._flick)

    def sizeHint(self) -> QSize:
        return QSize(900, 280)

    def show_frames(self, last: np.ndarray, first: np.ndarray, names: tuple[str, str]) -> None:
        """Show two frames and how they differ."""
        self.last, self.first, self.names = last, first, names
        self._images[0], self._images[1] = (as_image(np.ascontiguousarray(p)).copy() for p in (last, first))
        self.amplify(self.gain)

    def amplify(self, gain: float) -> None:
        """Show the difference so many times as strong."""
        self.gain = gain
        if self.last is not None and self.first is not None:
            gap = np.abs(self.last.astype(np.int16) - self.first.astype(np.int16)).max(axis=-1)
            level = np.clip(gap * gain, 0, 255).astype(np.uint8)
            shown = np.dstack([level, level, level, np.full_like(level, 255)])
            self._images[2] = as_image(np.ascontiguousarray(shown)).copy()
        self.update()

    @property
    def flicking(self) -> bool:
        """Whether the two frames show in turn."""
        return self._clock.isActive()

    def flick(self, on: bool) -> None:
        """Show the two frames in turn in one place, or beside each other."""
        self._turned = False
        self._clock.start() if on else self._clock.stop()
        self.update()

    def _flick(self) -> None:
        self._turned = not self._turned
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        if self.flicking:
            shown = [(1, self.names[1])] if self._turned else [(0, self.names[0])]
            places = [QRectF(self.rect())]
        else:
            shown = [(0, self.names[0]), (1, self.names[1]), (2, f"Difference × {self.gain:g}")]
            width = (self.width() - 16) / 3
            places = [QRectF(index * (width + 8), 0, width, self.height()) for index in range(3)]
        for (index, name), place in zip(shown, places, strict=True):
            self._paint_one(painter, place, self._images[index], name)
        painter.end()

    def _paint_one(self, painter: QPainter, place: QRectF, image: QImage | None, name: str) -> None:
        painter.setPen(colour(MARIGOLD if self.flicking else QUIET))
        painter.setFont(font(12, 600, tabular=True))
        painter.drawText(QRectF(place.left(), place.top(), place.width(), _HEAD), Qt.AlignmentFlag.AlignVCenter, name)
        room = place.adjusted(0, _HEAD, 0, 0)
        painter.fillRect(room, colour(SURROUND))
        if image is None:
            painter.setPen(colour(QUIET))
            painter.drawText(room, Qt.AlignmentFlag.AlignCenter, "being drawn…")
            return
        scale = min(room.width() / image.width(), room.height() / image.height())
        width, height = image.width() * scale, image.height() * scale
        middle = room.center()
        painter.drawImage(QRectF(middle.x() - width / 2, middle.y() - height / 2, width, height), image)
