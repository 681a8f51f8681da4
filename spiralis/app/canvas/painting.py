"""What is drawn over the picture: outline and handles, guides, motion path, caret. Each is a function."""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import cache

import numpy as np
from PyQt6.QtCore import QLineF, QPointF, QRect, QRectF, Qt
from PyQt6.QtGui import QBrush, QColor, QPainter, QPen, QPixmap, QPolygonF

from spiralis.app.canvas.group_handles import GroupFrame
from spiralis.app.canvas.handles import Frame
from spiralis.app.canvas.path_editing import path_grips
from spiralis.app.canvas.sight import in_space, positions_seen
from spiralis.app.canvas.snapping import Gap, Mark
from spiralis.app.canvas.text_editing import TextEditing
from spiralis.app.colours.converting import as_qcolor
from spiralis.app.session import Session
from spiralis.app.style import ALARM, GROUND, MARIGOLD, MINT, TEXT, colour, font
from spiralis.app.widgets.still import Still
from spiralis.app.widgets.strokes import corners_of, draw_dots, stroke, through
from spiralis.app.work.cached import Cached
from spiralis.core.animation.drivers import values_over
from spiralis.core.animation.placing import is_separate, position_frames, positions
from spiralis.core.geometry import Affine, Box
from spiralis.core.model import Layer
from spiralis.core.model.adding import Grip
from spiralis.core.render.layers import matrices_over, parents_of


@cache
def _check_tile() -> QPixmap:
    tile = QPixmap(20, 20)
    tile.fill(QColor("#5a5a5a"))
    painter = QPainter(tile)
    for x, y in ((0, 0), (10, 10)):
        painter.fillRect(x, y, 10, 10, QColor("#6a6a6a"))
    painter.end()
    return tile


def draw_checks(painter: QPainter, area: QRectF) -> None:
    """Fill the area with the squares that mean: see-through."""
    painter.setBrushOrigin(area.topLeft())
    painter.fillRect(area, QBrush(_check_tile()))


def draw_outline(painter: QPainter, to_widget: Affine, box: Box, width: float = 1.4, alpha: float = 1.0) -> None:
    """Draw the outline of a layer's box."""
    stroke(painter, through(_placed(box, to_widget), closed=True), colour(MARIGOLD, alpha), width)


def _placed(box: Box, to_widget: Affine) -> QPolygonF:
    corners = [(box[0], box[1]), (box[2], box[1]), (box[2], box[3]), (box[0], box[3])]
    return QPolygonF([QPointF(*to_widget.apply(*corner)) for corner in corners])


def draw_missing(painter: QPainter, to_widget: Affine, box: Box, name: str) -> None:
    """Mark where a file is missing: a dashed frame, crossed out, with the file's name."""
    corners = _placed(box, to_widget)
    painter.setBrush(colour(ALARM, 0.10))
    painter.setPen(QPen(colour(ALARM), 1.4, Qt.PenStyle.DashLine))
    painter.drawPolygon(corners)
    painter.drawLine(corners[0], corners[2])
    painter.drawLine(corners[1], corners[3])
    middle = corners.boundingRect().center()
    painter.setFont(font(12, 600))
    text = f"{name} is missing"
    width = painter.fontMetrics().horizontalAdvance(text) + 16
    label = QRectF(middle.x() - width / 2, middle.y() - 12, width, 24)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour(GROUND, 0.85))
    painter.drawRoundedRect(label, 6, 6)
    painter.setPen(colour(ALARM))
    painter.drawText(label, Qt.AlignmentFlag.AlignCenter, text)


def draw_handles(painter: QPainter, frame: Frame) -> None:
    """Draw the handles of the chosen layer: squares scale, the round one turns, the diamond moves the pivot."""
    places = frame.handles()
    painter.setPen(QPen(colour(MARIGOLD), 1.4))
    painter.drawLine(QPointF(*places["n"]), QPointF(*places["turn"]))
    painter.setBrush(colour(GROUND))
    for name, place in places.items():
        if name not in ("turn", "pivot"):
            painter.drawEllipse(QPointF(*place), 4.0, 4.0)
    painter.setBrush(colour(MARIGOLD))
    painter.drawEllipse(QPointF(*places["turn"]), 4.5, 4.5)
    _draw_pivot(painter, QPointF(*frame.pivot_place), QPointF(*places["pivot"]))


def _draw_pivot(painter: QPainter, pivot: QPointF, knob: QPointF) -> None:
    """Draw where a pivot is, and the knob beside it that moves it."""
    for tint, width in ((colour(GROUND, 0.7), 3.4), (colour(MARIGOLD), 1.6)):
        painter.setPen(QPen(tint, width))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(pivot, 4.0, 4.0)
        painter.drawLine(pivot + (knob - pivot) * 0.25, knob)
    painter.setBrush(colour(MARIGOLD))
    painter.drawPolygon(QPolygonF([knob + QPointF(*d) for d in ((0, -5), (5, 0), (0, 5), (-5, 0))]))


def draw_group(painter: QPainter, frame: GroupFrame) -> None:
    """Draw the box around several chosen layers, its handles and the pivot that they share."""
    places = {name: QPointF(*place) for name, place in frame.handles().items()}
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(colour(MARIGOLD), 1.2, Qt.PenStyle.DashLine))
    painter.drawRect(QRectF(places["nw"], places["se"]))
    painter.setPen(QPen(colour(MARIGOLD), 1.4))
    painter.drawLine((places["nw"] + places["ne"]) / 2, places["turn"])
    painter.setBrush(colour(GROUND))
    for name, place in places.items():
        if name not in ("turn", "pivot"):
            painter.drawEllipse(place, 4.0, 4.0)
    painter.setBrush(colour(MARIGOLD))
    painter.drawEllipse(places["turn"], 4.5, 4.5)
    _draw_pivot(painter, QPointF(*frame.pivot_place), places["pivot"])


def draw_content_grips(painter: QPainter, grips: list[Grip]) -> None:
    """Draw the line and stops of a gradient, or the points of a colour field."""
    ends = [QPointF(*grip.place) for grip in grips if grip.what in ("start", "centre", "end")]
    if len(ends) == 2:
        for tint, width in ((colour(GROUND, 0.7), 4.0), (colour(TEXT), 1.4)):
            painter.setPen(QPen(tint, width))
            painter.drawLine(ends[0], ends[1])
    for grip in grips:
        place, end = QPointF(*grip.place), grip.colour is None
        painter.setPen(QPen(colour(GROUND, 0.8), 4.5))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(place, 6.5, 6.5)
        painter.setPen(QPen(colour(MARIGOLD if end else TEXT), 2))
        painter.setBrush(colour(GROUND) if grip.colour is None else as_qcolor((*grip.colour[:3], 1.0)))
        painter.drawEllipse(place, 4.0 if end else 6.5, 4.0 if end else 6.5)


def draw_guides(painter: QPainter, marks: Sequence[Mark], to_widget: Affine, size: tuple[float, float]) -> None:
    """Draw the lines and gaps that a drag has snapped to, with what they are and how far."""
    painter.setFont(font(11, 500))
    for mark in marks:
        if isinstance(mark, Gap):
            for low, high in mark.spans:
                _draw_gap(painter, mark, low, high, to_widget)
            continue
        low, high = mark.reach if mark.reach is not None else (0.0, size[1 - mark.axis])
        place = mark.place
        ends = ((place, low), (place, high)) if mark.axis == 0 else ((low, place), (high, place))
        a, b = (QPointF(*to_widget.apply(*end)) for end in ends)
        painter.setPen(QPen(colour(MINT), 1, Qt.PenStyle.DashLine))
        painter.drawLine(a, b)
        _label(painter, f"{mark.label} · {place:g} px", a + (QPointF(0, 13) if mark.axis == 0 else QPointF(52, 0)))


def _draw_gap(painter: QPainter, gap: Gap, low: float, high: float, to_widget: Affine) -> None:
    ends = ((low, gap.level), (high, gap.level)) if gap.axis == 0 else ((gap.level, low), (gap.level, high))
    a, b = (QPointF(*to_widget.apply(*end)) for end in ends)
    painter.setPen(QPen(colour(MINT), 1.6))
    painter.drawLine(a, b)
    tick = QPointF(0, 5) if gap.axis == 0 else QPointF(5, 0)
    for end in (a, b):
        painter.drawLine(end - tick, end + tick)
    _label(painter, f"{high - low:.0f} px", (a + b) / 2 + (QPointF(0, 14) if gap.axis == 0 else QPointF(30, 0)))


def draw_choice(painter: QPainter, box: Box, to_widget: Affine) -> None:
    """Draw the box that chooses."""
    painter.setPen(QPen(colour(MARIGOLD), 1, Qt.PenStyle.DashLine))
    painter.setBrush(colour(MARIGOLD, 0.08))
    painter.drawPolygon(_placed(box, to_widget))


def draw_saying(painter: QPainter, text: str, pointer: QPointF) -> None:
    """Write what a drag makes beside the pointer."""
    painter.setFont(font(11, 500, tabular=True))
    _label(painter, text, pointer + QPointF(0, 26))


def _label(painter: QPainter, text: str, middle: QPointF) -> None:
    width = painter.fontMetrics().horizontalAdvance(text) + 12
    area = QRectF(middle.x() - width / 2, middle.y() - 9, width, 18)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour(GROUND, 0.9))
    painter.drawRoundedRect(area, 4, 4)
    painter.setPen(colour(MINT))
    painter.drawText(area, Qt.AlignmentFlag.AlignCenter, text)


#: The places on a layer's way in the composition, frame by frame, by the composition.
_ways: Cached[list[tuple[float, float]]] = Cached(50)
_LONGEST_WAY = 2000


def way_points(session: Session, layer: Layer) -> list[tuple[float, float]]:
    """Return where a layer's pivot is on each frame from its first key to its last, through all its parents."""
    frames = position_frames(layer)
    for parent in parents_of(session.composition, layer):
        frames += position_frames(parent)
    if len(frames) < 2 or max(frames) - min(frames) > _LONGEST_WAY:
        return []
    numbers = np.arange(min(frames), max(frames) + 1, dtype=np.float64)

    def make() -> list[tuple[float, float]]:
        places = positions(layer, numbers).tolist()
        if not layer.parent:
            return [(x, y) for x, y in places]
        at = session.evaluated()
        parent = session.composition.find(layer.parent)
        maps = matrices_over(at, parent, numbers) if parent is not None else [Affine()] * len(places)
        return [m.apply(*place) for m, place in zip(maps, places, strict=True)]

    # Without parents the way hangs on the layer's own thread alone, which other edits leave as it is.
    alone = not layer.parent and not is_separate(layer)
    return _ways.of(layer.track("position") if alone else session.composition, layer.id, make)


#: The same of layers in depth by what the canvas looks at, which the camera and all that they hang on belong to.
_ways_in_space: Cached[list[tuple[float, float]]] = Cached(4)


def way_in_space(session: Session, layer: Layer) -> list[tuple[float, float]]:
    """Return where the pivot of a layer in depth is seen on each frame from its first key to its last, as what it hangs
    on and the camera stand now; nothing where some of it is behind the eye."""
    return _ways_in_space.of(session.looked_at(), layer.id, lambda: _seen_way(session, layer))


def _seen_way(session: Session, layer: Layer) -> list[tuple[float, float]]:
    frames = position_frames(layer) + [key.frame for key in layer.track("position_z").keys]
    if len(frames) < 2 or max(frames) - min(frames) > _LONGEST_WAY:
        return []
    numbers = np.arange(min(frames), max(frames) + 1, dtype=np.float64)
    deep = values_over(session.composition, layer, "position_z", numbers)[:, 0] * layer.track("depth").value
    space = np.column_stack([positions(layer, numbers), deep, np.ones(len(numbers))])
    places = space @ positions_seen(session, layer).T
    if places[:, 2].min() < 1e-3:
        return []
    return [(x / w, y / w) for x, y, w in places.tolist()]


#: The way as it was drawn last: edits that leave it as it is only show it again.
_way = Still()
#: How wide its dots are, in px.
_DOT = 3.4


def draw_way(painter: QPainter, session: Session, to_widget: Affine) -> bool:
    """Draw the way of the one chosen layer's pivot with a dot for each frame: their distance is its speed.

    Returns:
        Whether there is one.
    """
    if len(session.layers) != 1:
        return False
    layer = session.layers[0]
    way = way_in_space(session, layer) if in_space(session, layer) else way_points(session, layer)
    if not way:
        return False
    area = _around(way, to_widget).intersected(painter.viewport())
    if not area.isEmpty():
        _way.paint(painter, area, (way,), to_widget, lambda inner: _draw_way(inner, way, to_widget))
    return True


def draw_motion_path(painter: QPainter, session: Session, to_widget: Affine) -> None:
    """Draw the way of the one chosen layer's pivot, and what can be grabbed on it."""
    if not draw_way(painter, session, to_widget):
        return
    grips = path_grips(session, to_widget)
    keys = {grip.frame: QPointF(*grip.place) for grip in grips if grip.kind == "key"}
    for grip in grips:
        place = QPointF(*grip.place)
        if grip.kind != "key":
            painter.setPen(QPen(colour(TEXT, 0.8), 1))
            painter.drawLine(keys[grip.frame], place)
        painter.setPen(QPen(colour(GROUND), 1.2))
        painter.setBrush(colour(MARIGOLD if grip.kind == "key" and grip.frame == session.frame else TEXT))
        radius = 4.0 if grip.kind == "key" else 3.0
        painter.drawEllipse(place, radius, radius)


def _around(way: list[tuple[float, float]], to_widget: Affine) -> QRect:
    """Return the whole pixels of the widget in which a way is drawn."""
    places = np.array(way)
    left, top, right, bottom = to_widget.box((*places.min(axis=0).tolist(), *places.max(axis=0).tolist()))
    return QRectF(left, top, right - left, bottom - top).adjusted(-_DOT, -_DOT, _DOT, _DOT).toAlignedRect()


def _draw_way(painter: QPainter, way: list[tuple[float, float]], to_widget: Affine) -> None:
    places = to_widget.apply_all(np.array(way))
    lines = through([QPointF(x, y) for x, y in corners_of(places).tolist()])
    stroke(painter, lines, colour(GROUND, 0.55), 2.6)
    stroke(painter, lines, colour(MINT, 0.85), 1.1)
    # Where it rests the dots of all its frames are one.
    dots = dict.fromkeys((x, y) for x, y in places.round(2).tolist())
    draw_dots(painter, [QPointF(*dot) for dot in dots], colour(MINT), _DOT)


def draw_caret(painter: QPainter, editing: TextEditing, to_widget: Affine, lit: bool) -> None:
    """Draw the caret and the chosen letters."""
    setting = editing.setting()
    first, last = editing.span
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour(MARIGOLD, 0.35))
    for index in range(first, last):
        (x, y, turn), (end, end_y, _) = setting.carets[index], setting.carets[index + 1]
        line = setting.lines[setting.line_of(index)]
        if not turn and index + 1 == line.last and end_y > y:
            # A line that is wrapped within a word ends where the next one begins.
            end, end_y = (line.left if x < line.left + line.width / 2 and x > line.left else line.left + line.width), y
        if turn or abs(end_y - y) < 1e-6:
            here = to_widget @ Affine.shift(x, y) @ Affine.rotation(turn)
            breadth = math.hypot(end - x, end_y - y) if turn else end - x
            painter.drawPolygon(_placed((min(0.0, breadth), -line.ascent, max(0.0, breadth), line.descent), here))
    if lit:
        x, y, turn = setting.carets[editing.caret]
        line = setting.lines[setting.line_of(editing.caret)]
        here = to_widget @ Affine.shift(x, y) @ Affine.rotation(turn)
        stroke = QLineF(QPointF(*here.apply(0, -line.ascent * 0.86)), QPointF(*here.apply(0, line.descent * 0.7)))
        for tint, width in ((colour(GROUND, 0.8), 4), (colour(MARIGOLD), 2)):
            painter.setPen(QPen(tint, width))
            painter.drawLine(stroke)
