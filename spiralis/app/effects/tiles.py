"""One tile of the effects chooser: the piece as it would be, around what is chosen; it moves while one points at it."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import (
    QContextMenuEvent,
    QEnterEvent,
    QFocusEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPixmap,
)
from PyQt6.QtWidgets import QAbstractButton

from spiralis.app.effects.offers import Offer
from spiralis.app.style import MARIGOLD, QUIET, RAISED, SURROUND, TEXT, colour, font, icon_pixmap
from spiralis.core.geometry import Box
from spiralis.core.model import Composition, Layer, Project
from spiralis.core.render.frame import render_region8

STAGE = (138, 96)
_LABEL = 22
#: What the arrow keys mean: across, down.
_WAYS = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1)}


def picture_with(
    project: Project, piece: Composition, ids: tuple[str, ...], change: Callable[[Layer], Layer], frame: int, box: Box
) -> np.ndarray:
    """Return what a part of a piece looks like where layers are changed: uint8 (h, w, 4) premultiplied.

    Args:
        ids: the layers that are changed.
        change: what is done to each.
        box: the part of the frame, in its pixels; it is fitted into a stage of twice STAGE.
    """
    scale = min(2 * STAGE[0] / (box[2] - box[0]), 2 * STAGE[1] / (box[3] - box[1]), 1.0)
    for layer_id in ids:
        piece = piece.with_layer(change(piece.layer(layer_id)))
    left, top, right, bottom = (round(side * scale) for side in box)
    region = (left, top, max(right, left + 1), max(bottom, top + 1))
    return render_region8(project.with_composition(piece), piece.id, frame, scale, region)


class EffectTile(QAbstractButton):
    """A picture with a name under it and a star in its corner; ``pointed`` tells that one looks at it, or no more."""

    pointed = pyqtSignal(bool)
    starred = pyqtSignal(bool)
    menuAsked = pyqtSignal(object)
    #: By an arrow key to another tile: across, down.
    walked = pyqtSignal(int, int)

    def __init__(self, offer: Offer, favourite: bool) -> None:
        super().__init__()
        self.offer, self.favourite = offer, favourite
        self.picture: QPixmap | None = None
        self._best = False
        self.setText(offer.label)
        self.setAccessibleName(offer.label)
        self.setToolTip(f"{offer.help}. The star, or S, makes it a favourite")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setFixedSize(self.sizeHint())

    def sizeHint(self) -> QSize:
        return QSize(STAGE[0] + 8, STAGE[1] + _LABEL + 8)

    @property
    def lit(self) -> bool:
        """Whether one points at it or has come to it by the keyboard."""
        return self.hasFocus() or self.underMouse()

    def show_best(self, best: bool) -> None:
        """Show that Enter takes this one, or not."""
        if best != self._best:
            self._best = best
            self.update()

    def star_place(self) -> QRectF:
        """Return where the star is."""
        return QRectF(STAGE[0] - 16, 6, 18, 18)

    def show_picture(self, picture: QPixmap | None) -> None:
        """Show a picture, or nothing yet."""
        if picture is not self.picture:
            self.picture = picture
            self.update()

    def show_favourite(self, favourite: bool) -> None:
        """Fill the star, or empty it."""
        self.favourite = favourite
        self.update()

    # -- events ----------------------------------------------------------------------------------------

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self.isDown() and self.star_place().contains(event.position()):
            self.setDown(False)
            self.starred.emit(not self.favourite)
            return
        super().mouseReleaseEvent(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_S:
            self.starred.emit(not self.favourite)
            return
        if event.key() in _WAYS:
            self.walked.emit(*_WAYS[Qt.Key(event.key())])
            return
        super().keyPressEvent(event)

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        self.menuAsked.emit(event.globalPos())

    def enterEvent(self, event: QEnterEvent) -> None:
        super().enterEvent(event)
        self.pointed.emit(True)

    def leaveEvent(self, event: object) -> None:
        super().leaveEvent(event)
        self.pointed.emit(self.lit)

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        self.pointed.emit(True)

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self.pointed.emit(self.lit)

    # -- painting --------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        lit = self.lit or self._best
        painter.setPen(QPen(colour(MARIGOLD if lit else RAISED), 1.2))
        painter.setBrush(colour(RAISED))
        painter.drawRoundedRect(QRectF(self.rect()).adjusted(0.6, 0.6, -0.6, -0.6), 6, 6)
        stage = QRectF(4, 4, *STAGE)
        painter.fillRect(stage, colour(SURROUND))
        if self.picture is not None and not self.picture.isNull():
            size = self.picture.deviceIndependentSize()
            share = min(stage.width() / size.width(), stage.height() / size.height(), 1.0)
            width, height = size.width() * share, size.height() * share
            corner = stage.center() - QPointF(width / 2, height / 2)
            painter.drawPixmap(QRectF(corner.x(), corner.y(), width, height), self.picture,
                               QRectF(self.picture.rect()))  # fmt: skip
        if self.lit or self.favourite:
            self._paint_star(painter)
        painter.setPen(colour(MARIGOLD if lit else TEXT))
        painter.setFont(font(12, 500))
        label = QRectF(0, self.height() - _LABEL - 1, self.width(), _LABEL - 2)
        painter.drawText(label, Qt.AlignmentFlag.AlignCenter, self.offer.label)
        painter.end()

    def _paint_star(self, painter: QPainter) -> None:
        place = self.star_place()
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour(SURROUND, 0.75))
        painter.drawEllipse(place)
        pixmap = icon_pixmap("star", MARIGOLD if self.favourite else QUIET, 12)
        painter.drawPixmap(place.center() - QPointF(6, 6), pixmap)
