"""Drawing of timeline rows: labels, spans, threads and beads."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPixmap, QPolygonF

from spiralis.app.session import KeyRef, Session
from spiralis.app.style import (
    CHOSEN,
    FAMILY_COLOURS,
    GROUND,
    LINE,
    MARIGOLD,
    PANEL,
    QUIET,
    RAISED,
    TEXT,
    colour,
    font,
    icon_pixmap,
)
from spiralis.app.timeline.layout import LABELS, Row, TimeAxis, bead_height, heights
from spiralis.core.model import Rule

EYE_X, LOCK_X = LABELS - 44, LABELS - 23


def draw_layer_row(painter: QPainter, row: Row, axis: TimeAxis, session: Session, thumbnail: QPixmap | None) -> None:
    """Draw a layer's label, marks and span."""
    layer = row.layer
    chosen = layer.id in session.selected
    if chosen:
        painter.fillRect(QRectF(0, row.top, axis.right + 40, row.height), colour(MARIGOLD, 0.10))
        painter.fillRect(QRectF(0, row.top, 3, row.height), colour(MARIGOLD))
    painter.setPen(QPen(colour(RAISED), 1))
    painter.drawLine(QPointF(0, row.top), QPointF(axis.right + 40, row.top))
    picture = QRectF(10, row.top + 5, 21, 21)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour(GROUND))
    painter.drawRoundedRect(picture, 4, 4)
    if thumbnail is not None:
        size = thumbnail.deviceIndependentSize()
        painter.drawPixmap(
            QPointF(picture.center().x() - size.width() / 2, picture.center().y() - size.height() / 2), thumbnail
        )
    _draw_name(painter, row, session)
    visible = layer.track("visible")
    shown = visible.value or visible.animated
    painter.drawPixmap(
        QPointF(EYE_X, row.middle - 8), icon_pixmap("eye" if shown else "eye-off", QUIET if shown else LINE)
    )
    if layer.locked:
        painter.drawPixmap(QPointF(LOCK_X, row.middle - 8), icon_pixmap("lock", MARIGOLD))
    else:
        painter.drawPixmap(QPointF(LOCK_X, row.middle - 8), icon_pixmap("lock-open", LINE))
    _draw_span(painter, row, axis, chosen)


def _draw_name(painter: QPainter, row: Row, session: Session) -> None:
    layer = row.layer
    marks = []
    if layer.parent is not None:
        marks.append("parent")
    if layer.track("motion_blur").value:
        marks.append("blur")
    room = EYE_X - 42 - 18 * len(marks)
    painter.setFont(font(13, 600))
    shown = layer.track("visible").value
    painter.setPen(colour(TEXT if shown else QUIET))
    text = painter.fontMetrics().elidedText(layer.name, Qt.TextElideMode.ElideRight, int(room))
    painter.drawText(QRectF(38, row.top, room, row.height), Qt.AlignmentFlag.AlignVCenter, text)
    for index, mark in enumerate(marks):
        place = QPointF(EYE_X - 19 - 18 * index, row.middle - 8)
        painter.drawPixmap(place, icon_pixmap(mark, QUIET))


def _draw_span(painter: QPainter, row: Row, axis: TimeAxis, chosen: bool) -> None:
    left, right = axis.x(row.layer.first), axis.x(row.layer.last)
    bar = QRectF(left, row.top + 8, right - left, row.height - 16)
    painter.setPen(QPen(colour(MARIGOLD if chosen else LINE), 1))
    painter.setBrush(colour(CHOSEN if chosen else RAISED))
    painter.setClipRect(QRectF(LABELS, row.top, axis.right + 40 - LABELS, row.height))
    painter.drawRoundedRect(bar, 4, 4)
    painter.setPen(QPen(colour(TEXT, 0.75), 1.5))
    for x in (left + 4, right - 4):
        painter.drawLine(QPointF(x, bar.top() + 4), QPointF(x, bar.bottom() - 4))
    painter.setClipping(False)


def draw_thread_row(painter: QPainter, row: Row, axis: TimeAxis, session: Session) -> None:
    """Draw a thread: its name, the line with the small curve of each segment, ghosts outside, beads on the keys."""
    assert row.name is not None
    layer, parameter, track = row.layer, row.layer.parameter(row.name), row.layer.track(row.name)
    if layer.id in session.selected:
        painter.fillRect(QRectF(0, row.top, axis.right + 40, row.height), colour(MARIGOLD, 0.055))
        painter.fillRect(QRectF(0, row.top, 3, row.height), colour(MARIGOLD))
    tint = FAMILY_COLOURS[parameter.family]
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(colour(tint), 1.6))
    painter.drawEllipse(QPointF(26, row.middle), 3.6, 3.6)
    if track.index_at(session.frame) is not None:
        painter.setBrush(colour(tint))
        painter.drawEllipse(QPointF(26, row.middle), 2.0, 2.0)
    painter.setFont(font(12, 400))
    painter.setPen(colour(QUIET))
    painter.drawText(QRectF(38, row.top, LABELS - 44, row.height), Qt.AlignmentFlag.AlignVCenter, parameter.label)
    painter.setClipRect(QRectF(LABELS - 6, row.top, axis.right + 20 - LABELS, row.height))
    _draw_line(painter, row, axis, tint)
    for key in track.keys:
        chosen = KeyRef(layer.id, row.name, key.frame) in session.keys
        share = heights(track, parameter, np.array([float(key.frame)]))[0]
        if track.after.rule not in (Rule.ONCE, Rule.CARRY_ON) and key is track.keys[-1] and len(track.keys) > 1:
            # In a repeated thread the last key's frame already shows the next cycle; its bead stays on its value.
            share = heights(track, parameter, np.array([key.frame - 1e-3]))[0]
        place = QPointF(axis.x(key.frame), bead_height(row, float(share)))
        painter.setPen(QPen(colour(PANEL), 1.5))
        painter.setBrush(colour(MARIGOLD if chosen else TEXT))
        radius = 5.0 if chosen else 4.2
        painter.drawEllipse(place, radius, radius)
    painter.setClipping(False)


def _draw_line(painter: QPainter, row: Row, axis: TimeAxis, tint: str) -> None:
    assert row.name is not None
    parameter, track = row.layer.parameter(row.name), row.layer.track(row.name)
    first, last = track.keys[0].frame, track.keys[-1].frame
    step = max(1.0 / max(axis.per_frame, 1e-6), 1e-3) * 1.5
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for low, high, alpha in (
        (0.0, float(first), 0.3),
        (float(first), float(last), 1.0),
        (float(last), float(axis.length), 0.3),
    ):
        if high - low < 1e-6:
            continue
        frames = np.append(np.arange(low, high, step), high - 1e-3)
        shares = heights(track, parameter, frames)
        points = [QPointF(axis.x(f), bead_height(row, float(s))) for f, s in zip(frames, shares, strict=True)]
        painter.setPen(QPen(colour(tint, alpha), 1.6))
        painter.drawPolyline(QPolygonF(points))
