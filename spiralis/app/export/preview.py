"""Pictures for the export window: the frame as rendered, and as it stands in the written file."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np
from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QImage, QPainter, QPaintEvent
from PyQt6.QtWidgets import QWidget

from spiralis.app.canvas.painting import draw_checks
from spiralis.app.style import MARIGOLD, QUIET, SURROUND, colour, font
from spiralis.app.widgets.images import as_image
from spiralis.app.work.background import Background
from spiralis.core.media.exporters import Exporter
from spiralis.core.model import Composition, Project
from spiralis.core.render.frame import render_straight8

_LARGEST = 700


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


class ExportPreview(FramePair):
    """The frame as it is rendered, and beside it the one read back from the file once that is written."""

    def __init__(self) -> None:
        super().__init__()
        self._background = Background(self)
        self._asked = 0

    def show_rendered(self, project: Project, piece: Composition, frame: int) -> None:
        """Show a frame as it is rendered."""
        self._show_soon(lambda: [(f"as rendered · frame {frame}", _rendered(project, piece, frame), True)])

    def show_written(
        self, project: Project, piece: Composition, kind: Exporter, path: Path, frame: int, index: int
    ) -> None:
        """Show a frame as it is rendered, and the one at an index of the written file where that can be read."""

        def work() -> list[tuple[str, np.ndarray, bool]]:
            made = [(f"as rendered · frame {frame}", _rendered(project, piece, frame), False)]
            read = kind.read(path, index) if path.exists() else None
            return made if read is None else [*made, ("as written", read, True)]

        self._show_soon(work)

    def _show_soon(self, work: Callable[[], list[tuple[str, np.ndarray, bool]]]) -> None:
        self._asked += 1
        asked = self._asked

        def done(made: object) -> None:
            if isinstance(made, list) and asked == self._asked:
                self.show_images([(label, as_image(pixels).copy(), lit) for label, pixels, lit in made])

        self._background.run(work, done)


def _rendered(project: Project, piece: Composition, frame: int) -> np.ndarray:
    scale = min(1.0, _LARGEST / max(piece.width, piece.height))
    return render_straight8(project, piece.id, frame, scale)
