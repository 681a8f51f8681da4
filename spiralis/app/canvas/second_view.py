"""A second look at what stands in depth, beside the canvas' own: a small picture in its corner.

A click changes places: what was small is large, where layers are moved and turned, and the other way round.
"""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QEvent, QObject, QRectF, Qt
from PyQt6.QtGui import QImage, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from spiralis.app.canvas.viewpoint_bar import NAMES
from spiralis.app.session import Session
from spiralis.app.style import LINE, SURROUND, TEXT, colour, font
from spiralis.app.widgets.images import as_image
from spiralis.app.work.background import Background
from spiralis.app.work.renderers import RENDERERS
from spiralis.app.work.soon import Soon
from spiralis.core.editing.viewpoints import viewed

#: Its share of the canvas' sides, how far it lies from the edge, and the height of the line that names it, in px.
_SHARE, _GAP, _LINE = 0.36, 14, 20


class SecondView(QWidget):
    """Shows the present frame from ``name``, drawn beside the window; hidden unless it is wanted."""

    def __init__(self, session: Session, canvas: QWidget) -> None:
        super().__init__(canvas)
        self.session, self.name = session, "camera"
        self.wanted = False
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setToolTip("A click lets both views change places")
        self._image: QImage | None = None
        self._pixels: np.ndarray | None = None
        self._background = Background(self)
        self._soon = Soon(self, self._draw)
        canvas.installEventFilter(self)
        for signal in (session.projectChanged, session.compositionChanged, session.frameChanged,
                       session.viewpoint.changed):
            signal.connect(self.refresh)
        self.refresh()

    def want(self, on: bool) -> None:
        """Show it, or not; at first what the camera sees, or where it does not, from above."""
        self.wanted = on
        self.name = "camera"
        self.refresh()

    def swap(self) -> None:
        """Let this and the canvas' view change places."""
        before = self.session.viewpoint.name
        self.name, name = before, self.name
        self.session.viewpoint.look_from(name)
        self.refresh()

    def refresh(self) -> None:
        """Show what is seen now; never the same as the canvas does."""
        large = self.session.viewpoint.name
        if self.name == large:
            self.name = "camera" if large != "camera" else "top"
        shown = self.wanted and self.session.composition.has_depth
        self.setVisible(shown)
        if not shown:
            return
        self.setAccessibleName(f"Second view: {NAMES[self.name]}")
        self._lay_out()
        self._soon.ask()

    def _lay_out(self) -> None:
        canvas, piece = self.parentWidget(), self.session.composition
        scale = min(canvas.width() * _SHARE / piece.width, canvas.height() * _SHARE / piece.height)
        width, height = max(round(piece.width * scale), 24), max(round(piece.height * scale), 24) + _LINE
        self.setGeometry(canvas.width() - width - _GAP, canvas.height() - height - _GAP, width, height)

    def _draw(self) -> None:
        """Have the picture drawn; what is newer takes the place of what waits."""
        if not self.isVisible():
            return
        session, name, turn = self.session, self.name, self.session.viewpoint.turn
        project, piece, frame = session.project, session.composition, session.frame
        scale = self.width() * self.devicePixelRatioF() / piece.width

        def work() -> np.ndarray:
            seen = project if name == "camera" else project.with_composition(viewed(project, piece, name, turn))
            return RENDERERS.picture(seen, piece.id, frame, scale)

        self._background.run_newest(work, self._take)

    def _take(self, found: object) -> None:
        if isinstance(found, np.ndarray):
            # The image does not own its memory, so the array is kept beside it.
            self._pixels, self._image = found, as_image(found, premultiplied=True)
            self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), colour(SURROUND))
        picture = QRectF(0, _LINE, self.width(), self.height() - _LINE)
        if self._image is not None:
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            painter.drawImage(picture, self._image)
        painter.setPen(QPen(colour(LINE), 1))
        painter.drawRect(self.rect().adjusted(0, 0, -1, -1))
        painter.setPen(colour(TEXT))
        painter.setFont(font(12, 600))
        name = QRectF(8, 0, self.width() - 16, _LINE)
        painter.drawText(name, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, NAMES[self.name])

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton:
            self.swap()

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if event is not None and event.type() == QEvent.Type.Resize and self.isVisible():
            self.refresh()
        return super().eventFilter(watched, event)
