"""The ground of cards and tiles that are pressed: lit under the pointer and where the keyboard is."""

from __future__ import annotations

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QPainter, QPen
from PyQt6.QtWidgets import QWidget

from spiralis.app.style import GROUND, LINE, MARIGOLD, RAISED, colour


def begin_card(widget: QWidget, radius: float, edge: float = 1.2) -> tuple[QPainter, bool]:
    """Paint the ground of a card and return its painter, and whether it is lit."""
    painter = QPainter(widget)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
    lit = widget.underMouse() or widget.hasFocus()
    painter.setPen(QPen(colour(MARIGOLD if lit else LINE), edge))
    painter.setBrush(colour(RAISED if lit else GROUND))
    painter.drawRoundedRect(QRectF(widget.rect()).adjusted(1, 1, -1, -1), radius, radius)
    return painter, lit
