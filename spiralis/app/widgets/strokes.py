"""Thin lines through many points, and dots on them, drawn piece by piece.

Qt makes one outline of a whole polyline and fills it, which takes four to eight times as long as its pieces do.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from functools import lru_cache
from itertools import pairwise

import numpy as np
from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen, QPixmap

Lines = list[QLineF]
#: A line that turns by so little, in radians, from one of its pieces to the next goes straight on.
_STRAIGHT = 1e-6
#: Width and height of a dot's picture in px.
_TILE = 12


def through(points: Iterable[QPointF], closed: bool = False) -> Lines:
    """Return the pieces of the line through points, back to the first one where it is ``closed``."""
    ways = list(points)
    return [QLineF(a, b) for a, b in pairwise([*ways, ways[0]] if closed and ways else ways)]


def corners_of(places: np.ndarray) -> np.ndarray:
    """Return those of places (n, 2) along a line at which it turns, its ends among them: each straight piece is one."""
    ways = np.diff(places, axis=0)
    lengths = np.hypot(*ways.T)
    # Where it stays there is no way to go on.
    moved = np.append(True, lengths > 1e-9)
    there: np.ndarray = places[moved]
    ways = ways[moved[1:]] / lengths[moved[1:], None]
    if len(there) < 3:
        return there
    cross = ways[:-1, 0] * ways[1:, 1] - ways[:-1, 1] * ways[1:, 0]
    turns = (np.abs(cross) > _STRAIGHT) | ((ways[:-1] * ways[1:]).sum(axis=1) < 0)
    corners: np.ndarray = there[np.concatenate([[True], turns, [True]])]
    return corners


def stroke(painter: QPainter, lines: Lines, tint: QColor, width: float) -> None:
    """Draw the pieces of a line; where one sees through it they only touch, lest their joints be darker."""
    solid = tint.alpha() == 255
    cap = Qt.PenCapStyle.RoundCap if solid and width > 1.5 else Qt.PenCapStyle.FlatCap
    painter.setPen(QPen(tint, width, Qt.PenStyle.SolidLine, cap))
    painter.drawLines(lines)  # type: ignore[call-overload]  # its stubs do not know lists


def draw_dots(painter: QPainter, points: Sequence[QPointF], tint: QColor, width: float) -> None:
    """Draw a round dot of a width in px, 10 at most, on each point."""
    picture = _dot(tint.rgba(), width)
    source = QRectF(picture.rect())
    painter.drawPixmapFragments([QPainter.PixmapFragment.create(point, source) for point in points], picture)


@lru_cache(maxsize=64)
def _dot(tint: int, width: float) -> QPixmap:
    picture = QPixmap(_TILE, _TILE)
    picture.fill(Qt.GlobalColor.transparent)
    painter = QPainter(picture)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(QPen(QColor.fromRgba(tint), width, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
    painter.drawPoint(QPointF(_TILE / 2, _TILE / 2))
    painter.end()
    return picture
