"""Pictures for the export window: the frame as rendered, and as it stands in the written file."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QImage, QPainter, QPaintEvent
from PyQt6.QtWidgets import QWidget

from spiralis.app.canvas.painting import draw_checks
from spiralis.app.style import MARIGOLD, QUIET, SURROUND, colour, font


class FramePair(QWidget):
    """One or two frames side by side on neutral grey, with what they are."""

    def __init__(self) -> None:
        super().__init__()
        self.setMinimumSize(300, 300)
        self.images: list[tuple[str, QImage, bool]] = []

    def show_images(self, images: list[tuple[str, QImage, bool]]) -> None:
        """Show (label, image, lit) entries."""
        self.images = images
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour(SURROUND))
        painter.drawRoundedRect(QRectF(self.rect()), 8, 8)
        count = max(len(self.images), 1)
        cell = (self.width() - 16 * (count + 1)) / count
        for index, (label, image, lit) in enumerate(self.images):
            left = 16 + index * (cell + 16)
            painter.setPen(colour(MARIGOLD if lit else QUIET))
            painter.setFont(font(12, 600))
            painter.drawText(QRectF(left, 8, cell, 20), Qt.AlignmentFlag.AlignVCenter, label)
            scale = min(cell / image.width(), (self.height() - 48) / image.height())
            width, height = image.width() * scale, image.height() * scale
            area = QRectF(left + (cell - width) / 2, 34 + (self.height() - 48 - height) / 2, width, height)
            if image.hasAlphaChannel():
                draw_checks(painter, area)
            painter.drawImage(area, image)
        painter.end()
