"""Drawing of timeline rows: labels, spans, threads and beads."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QFontMetrics, QPainter, QPen, QPixmap, QPolygonF

from spiralis.app.session import Session
from spiralis.app.style import (
    CHOSEN,
    FAMILY_COLOURS,
    LINE,
    MARIGOLD,
    MARK,
    MINT,
    PANEL,
    QUIET,
    RAISED,
    TEXT,
    TILE,
    TINT_COLOURS,
    colour,
    font,
    icon_pixmap,
)
from spiralis.app.timeline.layout import LABELS, THREAD_ROW, Row, TimeAxis, bead_height, heights
from spiralis.app.timeline.marks import EYE_X, LOCK_X, MARK_STEP, is_own, marks_of, shared_count
from spiralis.app.widgets.strokes import Lines, stroke, through
from spiralis.app.work.cached import Cached
from spiralis.core.animation.drivers import is_driven, values_over
from spiralis.core.editing.keys import KeyRef
from spiralis.core.model import Composition, Parameter, Rule, Track, layer_kind
from spiralis.core.model.drivers import source_of
from spiralis.core.sound.mixing import heard_of
from spiralis.core.sound.outline import heights as heights_of

#: How far the rows of what is in a group stand in, in px a group.
INDENT = 11
#: The x of the rings that tell of keys.
RINGS_X = 26


def draw_layer_row(painter: QPainter, row: Row, axis: TimeAxis, session: Session, thumbnail: QPixmap | None) -> None:
    """Draw a layer's label, marks and span."""
    layer = row.layer
    chosen = layer.id in session.selected
    if chosen:
        painter.fillRect(QRectF(0, row.top, axis.right + 40, row.height), colour(MARIGOLD, 0.10))
        painter.fillRect(QRectF(0, row.top, 3, row.height), colour(MARIGOLD))
    painter.setPen(QPen(colour(RAISED), 1))
    painter.drawLine(QPointF(0, row.top), QPointF(axis.right + 40, row.top))
    if layer.tint:
        painter.fillRect(QRectF(4, row.top + 6, 3, row.height - 12), colour(TINT_COLOURS[layer.tint]))
    picture = QRectF(10 + INDENT * row.depth, row.top + 5, 21, 21)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour(TILE))
    painter.drawRoundedRect(picture, 4, 4)
    if layer.gathers:
        painter.drawPixmap(
            QPointF(picture.left() + 2.5, picture.top() + 2.5), icon_pixmap("right" if layer.folded else "down", TEXT)
        )
    elif not layer_kind(layer.kind).pictured:
        painter.setPen(colour(TEXT))
        painter.setFont(font(11, 700))
        painter.drawText(picture, Qt.AlignmentFlag.AlignCenter, layer_kind(layer.kind).label[:2])
    elif thumbnail is not None:
        size = thumbnail.deviceIndependentSize()
        painter.drawPixmap(
            QPointF(picture.center().x() - size.width() / 2, picture.center().y() - size.height() / 2), thumbnail
        )
    _draw_name(painter, row, session)
    visible = layer.track("visible")
    shown = visible.value or visible.animated
    painter.drawPixmap(
        QPointF(EYE_X, row.middle - 8), icon_pixmap("eye" if shown else "eye-off", QUIET if shown else MARK)
    )
    if layer.locked:
        painter.drawPixmap(QPointF(LOCK_X, row.middle - 8), icon_pixmap("lock", MARIGOLD))
    else:
        painter.drawPixmap(QPointF(LOCK_X, row.middle - 8), icon_pixmap("lock-open", MARK))
    _draw_span(painter, row, axis, chosen)


def shortened(metrics: QFontMetrics, name: str, room: int) -> str:
    """Return a name that fits so many pixels: its end goes first, but not its number, which tells copies apart."""
    head, _, number = name.rpartition(" ")
    if not (head and number.isdigit()) or metrics.horizontalAdvance(name) <= room:
        return metrics.elidedText(name, Qt.TextElideMode.ElideRight, room)
    kept = f" {number}"
    return metrics.elidedText(head, Qt.TextElideMode.ElideRight, room - metrics.horizontalAdvance(kept)) + kept


def _draw_name(painter: QPainter, row: Row, session: Session) -> None:
    layer = row.layer
    marks = marks_of(session, layer)
    shared = shared_count(session, layer)
    left = 38 + INDENT * row.depth
    room = EYE_X - left - 4 - MARK_STEP * len(marks) - (24 if shared > 1 else 0)
    painter.setFont(font(13, 600))
    shown = layer.track("visible").value and layer.id not in session.composition.kept_from_sight
    painter.setPen(colour(TEXT if shown else QUIET))
    text = shortened(painter.fontMetrics(), layer.name, int(room))
    painter.drawText(QRectF(left, row.top, room, row.height), Qt.AlignmentFlag.AlignVCenter, text)
    if shared > 1:
        painter.setFont(font(11, 600, tabular=True))
        painter.setPen(colour(MARIGOLD))
        counter = QRectF(EYE_X - 19 - MARK_STEP * (len(marks) - 1) - 26, row.top, 22, row.height)
        painter.drawText(counter, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, f"×{shared}")
    for index, mark in enumerate(marks):
        place = QPointF(EYE_X - 19 - MARK_STEP * index, row.middle - 8)
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


def draw_outline(painter: QPainter, row: Row, axis: TimeAxis, session: Session, peaks: np.ndarray) -> None:
    """Draw over a layer's span how loud it is, as its volume and fades let it be heard."""
    layer, piece = row.layer, session.composition
    heard = heard_of(session.project, piece, layer)
    left, right = max(axis.x(layer.first), float(LABELS)), min(axis.x(layer.last), axis.right + 40)
    across = np.arange(left, right, 1.0)
    if heard is None or len(across) < 2:
        return
    tall = heights_of(peaks, heard, piece, layer, (across - axis.left) / axis.per_frame)
    # What is soft is heard well, and is to be seen.
    half = np.minimum(tall, 1.0) ** 0.6 * (row.height / 2 - 9)
    edge = [QPointF(x, row.middle - y) for x, y in zip(across.tolist(), half.tolist(), strict=True)]
    edge += [QPointF(point.x(), 2 * row.middle - point.y() + 0.5) for point in reversed(edge)]
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour(TEXT, 0.45))
    painter.drawPolygon(QPolygonF(edge))


def draw_markers(painter: QPainter, axis: TimeAxis, session: Session, height: int) -> None:
    """Draw markers down through all rows."""
    for marker in session.composition.markers:
        if axis.x(marker.frame) >= LABELS:
            painter.setPen(QPen(colour(MINT, 0.45), 1, Qt.PenStyle.DotLine))
            painter.drawLine(QPointF(axis.x(marker.frame), 0), QPointF(axis.x(marker.frame), height))


def draw_playhead(painter: QPainter, axis: TimeAxis, session: Session, height: int) -> None:
    """Draw the playhead down through all rows."""
    x = axis.x(session.frame)
    if x >= LABELS - 1:
        painter.setPen(QPen(colour(MARIGOLD), 1.5))
        painter.drawLine(QPointF(x, 0), QPointF(x, height))


def line_is_known(row: Row, axis: TimeAxis) -> bool:
    """Whether a thread's line needs no more than to be drawn."""
    assert row.name is not None
    return _lines.holds(row.layer.track(row.name), axis) or is_driven(row.layer, row.name)


def draw_track_row(painter: QPainter, row: Row, axis: TimeAxis, session: Session) -> None:
    """Draw a thread: its name, the line with the small curve of each segment, ghosts outside, beads on the keys."""
    assert row.name is not None
    layer, parameter, track = row.layer, row.layer.parameter(row.name), row.layer.track(row.name)
    if layer.id in session.selected:
        painter.fillRect(QRectF(0, row.top, axis.right + 40, row.height), colour(MARIGOLD, 0.055))
        painter.fillRect(QRectF(0, row.top, 3, row.height), colour(MARIGOLD))
    tint = FAMILY_COLOURS[parameter.family]
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(colour(tint), 1.6))
    painter.drawEllipse(QPointF(RINGS_X, row.middle), 3.6, 3.6)
    painter.setFont(font(12, 400))
    painter.setPen(colour(QUIET))
    left = 38 + INDENT * row.depth
    label = painter.fontMetrics().elidedText(parameter.full_label, Qt.TextElideMode.ElideRight, LABELS - 24 - left)
    painter.drawText(QRectF(left, row.top, LABELS - left, row.height), Qt.AlignmentFlag.AlignVCenter, label)
    painter.setClipRect(QRectF(LABELS - 6, row.top, axis.right + 20 - LABELS, row.height))
    if is_driven(layer, row.name):
        _draw_driven(painter, row, axis, session, tint)
        return
    _draw_line(painter, row, axis, tint)
    shares = _beads.of(track, None, lambda: _bead_shares(track, parameter))
    for key, share in zip(track.keys, shares, strict=True):
        chosen = KeyRef(layer.id, row.name, key.frame) in session.keys
        place = QPointF(axis.x(key.frame), bead_height(row.top, row.height, share))
        painter.setPen(QPen(colour(PANEL), 1.5))
        painter.setBrush(colour(MARIGOLD if chosen else TEXT))
        radius = 5.0 if chosen else 4.2
        painter.drawEllipse(place, radius, radius)
    painter.setClipping(False)
    if (layer.id, row.name) in followed(session.composition):
        painter.drawPixmap(QPointF(LABELS - 24, row.middle - 8), icon_pixmap("chain", QUIET))
    elif is_own(session.composition, layer.id, row.name):
        painter.drawPixmap(QPointF(LABELS - 24, row.middle - 8), icon_pixmap("own", MINT))


def draw_key_here(painter: QPainter, row: Row, session: Session) -> None:
    """Fill the ring of a thread that has a key under the playhead."""
    if row.name is not None and row.layer.track(row.name).index_at(session.frame) is not None:
        tint = colour(FAMILY_COLOURS[row.layer.parameter(row.name).family])
        painter.setPen(QPen(tint, 1.6))
        painter.setBrush(tint)
        painter.drawEllipse(QPointF(RINGS_X, row.middle), 2.0, 2.0)


#: What others follow, by the composition.
_followed: Cached[frozenset[tuple[str, str]]] = Cached(50)


def followed(piece: Composition) -> frozenset[tuple[str, str]]:
    """Return the threads, as (layer id, property), from which others take their value."""

    def make() -> frozenset[tuple[str, str]]:
        tracks = ((y.id, track) for y in piece.layers for track in y.properties.values())
        return frozenset(source_of(layer, track.driver) for layer, track in tracks if track.driver is not None)

    return _followed.of(piece, None, make)


#: Where driven threads run, by the composition.
_driven: Cached[QPolygonF] = Cached(400)


def _draw_driven(painter: QPainter, row: Row, axis: TimeAxis, session: Session, tint: str) -> None:
    """Draw a thread whose value comes from elsewhere, dashed, with a link in place of beads."""
    name, layer, piece = row.name or "", row.layer, session.composition

    def make() -> QPolygonF:
        frames = np.arange(0.0, axis.length, max(3 / axis.per_frame, 0.05))
        values = values_over(piece, layer, name, frames)
        column = values[:, int(np.argmax(np.ptp(values, axis=0)))]
        low, high = float(column.min()), float(column.max())
        shares = (column - low) / (high - low) if high - low > 1e-9 else np.full(len(column), 0.5)
        x = axis.left + frames * axis.per_frame
        y = [bead_height(0.0, THREAD_ROW, share) for share in shares.tolist()]
        return QPolygonF([QPointF(*place) for place in zip(x.tolist(), y, strict=True)])

    painter.translate(0, row.top)
    painter.setPen(QPen(colour(tint, 0.9), 1.5, Qt.PenStyle.DashLine))
    painter.drawPolyline(_driven.of(piece, (layer.id, name, axis), make))
    painter.translate(0, -row.top)
    painter.setClipping(False)
    painter.drawPixmap(QPointF(LABELS - 24, row.middle - 8), icon_pixmap("chain", MARIGOLD))


#: A thread's line in pieces with their strength, placed by the row's top, and the share of each bead, by track.
_lines: Cached[list[tuple[Lines, float]]] = Cached()
_beads: Cached[list[float]] = Cached()


def _draw_line(painter: QPainter, row: Row, axis: TimeAxis, tint: str) -> None:
    assert row.name is not None
    parameter, track = row.layer.parameter(row.name), row.layer.track(row.name)
    lines = _lines.of(track, axis, lambda: _thread_lines(track, parameter, axis))
    painter.translate(0, row.top)
    for pieces, alpha in lines:
        stroke(painter, pieces, colour(tint, alpha), 1.6)
    painter.translate(0, -row.top)


def _thread_lines(track: Track, parameter: Parameter, axis: TimeAxis) -> list[tuple[Lines, float]]:
    """Return the line's runs in widget pixels, as for a row whose top is 0."""
    step = max(round(1.5 / max(axis.per_frame, 1e-6), 2), 0.02)
    lines = []
    for frames, shares, alpha in _line_runs(track, parameter, axis.length, step):
        x = axis.left + frames * axis.per_frame
        y = [bead_height(0.0, THREAD_ROW, share) for share in shares.tolist()]
        lines.append((through(QPointF(*place) for place in zip(x.tolist(), y, strict=True)), alpha))
    return lines


def _line_runs(
    track: Track, parameter: Parameter, length: int, step: float
) -> list[tuple[np.ndarray, np.ndarray, float]]:
    """Return the line before, between and after the keys; outside them it is a fainter ghost."""
    first, last = float(track.keys[0].frame), float(track.keys[-1].frame)
    runs = []
    for low, high, alpha in ((0.0, first, 0.3), (first, last, 1.0), (last, float(length), 0.3)):
        if high - low > 1e-6:
            frames = np.append(np.arange(low, high, step), high - 1e-3)
            runs.append((frames, heights(track, parameter, frames), alpha))
    return runs


def _bead_shares(track: Track, parameter: Parameter) -> list[float]:
    """Return how high each bead sits.

    In a repeated thread the last key's frame already shows the next cycle; its bead stays on its own value.
    """
    frames = np.array([float(key.frame) for key in track.keys])
    if len(frames) > 1 and track.after.rule not in (Rule.ONCE, Rule.CARRY_ON):
        frames[-1] -= 1e-3
    return [float(share) for share in heights(track, parameter, frames)]
