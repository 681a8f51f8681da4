"""Rulers, guides, grid, thirds, safe area over the canvas: drawn, and guides dragged by mouse."""

from __future__ import annotations

import math

from attrs import evolve
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen

from spiralis.app.session import Session
from spiralis.app.style import GROUND, LINE, MINT, PANEL, QUIET, TEXT, colour, font
from spiralis.core.geometry import Affine
from spiralis.core.model import Composition

RULER = 18
_STEPS = (1, 2, 5, 10, 20, 50, 100, 200, 500, 1000, 2000, 5000)
GUIDE_TINT = "#6fd3a0"


def ruler_marks(low: float, high: float, zoom: float) -> list[tuple[int, bool]]:
    """Return (place in px, whether it carries its number) of the marks between two places."""
    labelled = next((step for step in _STEPS if step * zoom >= 56), _STEPS[-1])
    small = max(labelled // 5, 1)
    first = math.floor(low / small) * small
    return [(place, place % labelled == 0) for place in range(int(first), int(high) + 1, small)]


def draw_aids(painter: QPainter, session: Session, to_widget: Affine, width: int, height: int) -> None:
    """Draw what the view options ask for."""
    piece, view = session.composition, session.view
    if view["grid"] and piece.grid > 0 and piece.grid * to_widget.a >= 4:
        painter.setPen(QPen(colour(TEXT, 0.14), 1))
        for axis, size in enumerate((piece.width, piece.height)):
            for step in range(1, math.ceil(size / piece.grid)):
                _draw_line(painter, to_widget, axis, step * piece.grid, piece)
    if view["thirds"]:
        painter.setPen(QPen(colour(TEXT, 0.34), 1, Qt.PenStyle.DotLine))
        for axis, size in enumerate((piece.width, piece.height)):
            for share in (1, 2):
                _draw_line(painter, to_widget, axis, size * share / 3, piece)
    if view["safe"]:
        inset = [s * p / 100 for s, p in zip((piece.width, piece.height), piece.safe_area, strict=True)]
        area = to_widget.box((inset[0], inset[1], piece.width - inset[0], piece.height - inset[1]))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(colour(MINT, 0.7), 1, Qt.PenStyle.DashLine))
        painter.drawRect(QRectF(QPointF(area[0], area[1]), QPointF(area[2], area[3])))
    if view["guides"]:
        painter.setPen(QPen(colour(GUIDE_TINT, 0.85), 1))
        for axis, place in piece.guides:
            x, y = to_widget.apply(place, place)
            if axis == 0:
                painter.drawLine(QPointF(x, 0), QPointF(x, height))
            else:
                painter.drawLine(QPointF(0, y), QPointF(width, y))
    if view["rulers"]:
        _draw_rulers(painter, to_widget, width, height)


def _draw_line(painter: QPainter, to_widget: Affine, axis: int, place: float, piece: Composition) -> None:
    ends = ((place, 0.0), (place, piece.height)) if axis == 0 else ((0.0, place), (piece.width, place))
    painter.drawLine(*(QPointF(*to_widget.apply(*end)) for end in ends))


def _draw_rulers(painter: QPainter, to_widget: Affine, width: int, height: int) -> None:
    inverse = to_widget.inverse() or Affine()
    left, top = inverse.apply(0, 0)
    right, bottom = inverse.apply(width, height)
    painter.setFont(font(10, 400, tabular=True))
    for area in (QRectF(0, 0, width, RULER), QRectF(0, 0, RULER, height)):
        painter.fillRect(area, colour(PANEL))
    painter.setPen(QPen(colour(LINE), 1))
    painter.drawLine(QPointF(0, RULER - 0.5), QPointF(width, RULER - 0.5))
    painter.drawLine(QPointF(RULER - 0.5, 0), QPointF(RULER - 0.5, height))
    for place, labelled in ruler_marks(left, right, to_widget.a):
        x = to_widget.apply(place, 0)[0]
        if x >= RULER:
            painter.setPen(QPen(colour(QUIET if labelled else LINE), 1))
            painter.drawLine(QPointF(x, RULER - (9 if labelled else 4)), QPointF(x, RULER - 1))
            if labelled:
                painter.drawText(QPointF(x + 3, 10), str(place))
    for place, labelled in ruler_marks(top, bottom, to_widget.d):
        y = to_widget.apply(0, place)[1]
        if y >= RULER:
            painter.setPen(QPen(colour(QUIET if labelled else LINE), 1))
            painter.drawLine(QPointF(RULER - (9 if labelled else 4), y), QPointF(RULER - 1, y))
            if labelled:
                painter.save()
                painter.translate(10, y + 3)
                painter.rotate(90)
                painter.drawText(QPointF(0, 0), str(place))
                painter.restore()
    painter.fillRect(QRectF(0, 0, RULER - 1, RULER - 1), colour(GROUND))


class GuideDrag:
    """A guide on its way: new from a ruler, moved, or dropped back on the ruler to take it away."""

    def __init__(self, session: Session, axis: int, index: int | None) -> None:
        self.session, self.axis, self.index = session, axis, index
        self._merge = f"guide-{session.version}"

    def move(self, place: float, gone: bool) -> None:
        """Put the guide at a place of the composition; ``gone`` where the pointer is back on the ruler."""
        guides = list(self.session.composition.guides)
        if self.index is not None and (self.index >= len(guides) or guides[self.index][0] != self.axis):
            # It was taken back in the midst of the drag, and comes anew.
            self.index = None
        if gone:
            if self.index is not None:
                guides.pop(self.index)
                self.index = None
        elif self.index is None:
            guides.append((self.axis, float(round(place))))
            self.index = len(guides) - 1
        else:
            guides[self.index] = (self.axis, float(round(place)))
        self.session.edit("Guide", lambda piece: evolve(piece, guides=tuple(guides)), self._merge)


def guide_press(session: Session, to_widget: Affine, point: QPointF) -> GuideDrag | None:
    """Return the drag of a guide that begins at a point of the widget, or None: on a ruler, or on a guide."""
    view, piece = session.view, session.composition
    if view["rulers"] and (point.x() < RULER or point.y() < RULER):
        # A level ruler gives level guides.
        return GuideDrag(session, 1 if point.y() < RULER else 0, None)
    if view["guides"] and view["rulers"]:
        for index, (axis, place) in enumerate(piece.guides):
            at = to_widget.apply(place, place)[axis]
            if abs(at - (point.x() if axis == 0 else point.y())) <= 3:
                return GuideDrag(session, axis, index)
    return None
