"""How the ruler's parts look: numbers and ticks, the play span, chosen keys, markers, ready frames, the notch."""

from __future__ import annotations

from collections.abc import Iterable
from fractions import Fraction

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QFont, QPainter, QPen, QPolygonF

from spiralis.app.style import GROUND, LINE, MARIGOLD, MINT, QUIET, colour, font
from spiralis.app.timeline.layout import LABELS, TimeAxis, label_frames, small_ticks
from spiralis.core.animation.timecode import time_text
from spiralis.core.model import Marker

#: The height at which the play span lies.
SPAN_Y = 8.0


def paint_ticks(painter: QPainter, axis: TimeAxis, rate: Fraction, unit: str, width: float) -> list[QRectF]:
    """Paint ticks, and numbers where there is room for them within ``width``; return where the numbers are."""
    low, high = axis.frame(LABELS - 20), axis.frame(width + 20)
    painter.setPen(QPen(colour(LINE), 1))
    step = small_ticks(axis)
    for frame in range(max(low // step * step, 0), min(high, axis.length) + 1, step):
        painter.drawLine(QPointF(axis.x(frame), 31), QPointF(axis.x(frame), 34))
    painter.setFont(font(11, 400, tabular=True))
    numbers: list[QRectF] = []
    for frame in label_frames(axis, float(rate), unit):
        if not low <= frame <= high:
            continue
        x = axis.x(frame)
        painter.setPen(QPen(colour(LINE), 1))
        painter.drawLine(QPointF(x, 27), QPointF(x, 34))
        painter.setPen(colour(QUIET))
        text = f"{frame / float(rate):g} s" if unit == "seconds" else time_text(frame, rate, unit)
        text = text[3:] if unit == "timecode" else text
        wide = painter.fontMetrics().horizontalAdvance(text) + 2
        left = x + 3 if x + wide + 3 < width else x - wide - 3
        if not numbers or left > numbers[-1].right() + 4:
            numbers.append(QRectF(left, 15, wide, 14))
            painter.drawText(numbers[-1], Qt.AlignmentFlag.AlignLeft, text)
    return numbers


def paint_span(painter: QPainter, axis: TimeAxis, span: tuple[int, int]) -> None:
    """Paint the line of the play span with its two ends."""
    first, last = span
    painter.setPen(QPen(colour(MARIGOLD), 2))
    painter.drawLine(QPointF(axis.x(first), SPAN_Y), QPointF(axis.x(last), SPAN_Y))
    for end in span:
        painter.drawLine(QPointF(axis.x(end), SPAN_Y - 4), QPointF(axis.x(end), SPAN_Y + 4))


def paint_chosen(painter: QPainter, axis: TimeAxis, chosen: tuple[int, int]) -> None:
    """Paint the bar over the chosen keys, with the ends that stretch them."""
    left, right = (axis.x(frame) for frame in chosen)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour(MARIGOLD, 0.30))
    painter.drawRect(QRectF(left, 35, right - left, 7))
    painter.setBrush(colour(MARIGOLD))
    for x in (left, right):
        painter.drawRoundedRect(QRectF(x - 3, 34, 6, 8), 2, 2)


def paint_markers(painter: QPainter, axis: TimeAxis, markers: Iterable[Marker]) -> None:
    """Paint markers with their names."""
    painter.setFont(font(10, 600))
    for marker in markers:
        x = axis.x(marker.frame)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour(MINT))
        painter.drawPolygon(QPolygonF([QPointF(x, 30), QPointF(x - 4, 24), QPointF(x, 18), QPointF(x + 4, 24)]))
        if marker.name:
            painter.setPen(colour(MINT))
            painter.drawText(QPointF(x + 7, 28), marker.name)


def paint_ready(painter: QPainter, axis: TimeAxis, runs: Iterable[tuple[int, int]]) -> None:
    """Paint runs of frames that are ready, each from its first frame to the one after its last."""
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour(MINT))
    gap = 1 if axis.per_frame > 4 else 0
    for first, end in runs:
        left, right = axis.x(first), axis.x(end) - gap
        painter.drawRect(QRectF(left, 37, max(right - left, 1.0), 2))


def paint_notch(painter: QPainter, x: float, notch: QRectF, text: str, letters: QFont) -> None:
    """Paint the playhead at ``x`` under its notch with the time in it."""
    painter.setFont(letters)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour(MARIGOLD))
    painter.drawRoundedRect(notch, 3, 3)
    painter.drawPolygon(QPolygonF([QPointF(x - 5, 30), QPointF(x + 5, 30), QPointF(x, 37)]))
    painter.drawRect(QRectF(x - 0.75, 30, 1.5, 12))
    painter.setPen(colour(GROUND))
    painter.drawText(notch, Qt.AlignmentFlag.AlignCenter, text)
