"""One tile an effect: the piece as it would be with it, around what is chosen."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen, QPixmap
from PyQt6.QtWidgets import QAbstractButton

from spiralis.app.style import MARIGOLD, RAISED, SURROUND, TEXT, colour, font
from spiralis.core.editing.effecting import with_effect
from spiralis.core.geometry import Box
from spiralis.core.model import Composition, Project
from spiralis.core.model.blocks import EffectKind
from spiralis.core.render.frame import render_rgba8

STAGE = (138, 96)
_LABEL = 22


def picture_with(
    project: Project, piece: Composition, ids: tuple[str, ...], kind: EffectKind | None, frame: int, box: Box
) -> np.ndarray:
    """Return what a part of a piece looks like where layers have one more effect: uint8 (h, w, 4) premultiplied.

    Args:
        ids: the layers that get it.
        kind: the effect or finish; None for the piece as it is.
        box: the part of the frame, in its pixels; it is fitted into a stage of twice STAGE.
    """
    scale = min(2 * STAGE[0] / (box[2] - box[0]), 2 * STAGE[1] / (box[3] - box[1]), 1.0)
    if kind is not None:
        for layer_id in ids:
            piece = piece.with_layer(with_effect(piece.layer(layer_id), kind.name))
    frame_pixels = render_rgba8(project.with_composition(piece), piece.id, frame, scale)
    left, top, right, bottom = (round(side * scale) for side in box)
    return np.ascontiguousarray(frame_pixels[max(top, 0) : max(bottom, top + 1), max(left, 0) : max(right, left + 1)])


class EffectTile(QAbstractButton):
    """A picture with the effect's name under it."""

    def __init__(self, kind: EffectKind) -> None:
        super().__init__()
        self.kind = kind
        self.picture: QPixmap | None = None
        self.setText(kind.label)
        self.setAccessibleName(kind.label)
        self.setToolTip(kind.help)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setFixedSize(self.sizeHint())

    def sizeHint(self) -> QSize:
        return QSize(STAGE[0] + 8, STAGE[1] + _LABEL + 8)

    def show_picture(self, picture: QPixmap | None) -> None:
        """Show a picture, or nothing yet."""
        if picture is not self.picture:
            self.picture = picture
            self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        lit = self.hasFocus() or self.underMouse()
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
        painter.setPen(colour(MARIGOLD if lit else TEXT))
        painter.setFont(font(12, 500))
        label = QRectF(0, self.height() - _LABEL - 1, self.width(), _LABEL - 2)
        painter.drawText(label, Qt.AlignmentFlag.AlignCenter, self.kind.label)
        painter.end()
