"""The curve field: drag its points, click for a new one, drag one off to remove it; behind it what values occur."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from spiralis.app.details.editor import Editor
from spiralis.app.session import Session
from spiralis.app.style import LINE, MARIGOLD, RAISED, TEXT, colour
from spiralis.app.widgets.own_keys import claims
from spiralis.app.widgets.strokes import stroke, through
from spiralis.app.work.background import Background
from spiralis.app.work.gesture import TakesBack
from spiralis.app.work.paced import Paced
from spiralis.app.work.soon import Soon
from spiralis.core.model import Parameter, Value
from spiralis.core.model.parameter import MOST_POINTS, NEAREST_POINTS
from spiralis.core.monotone import STRAIGHT, curve
from spiralis.core.render.acted_on import COLUMNS, histogram, picture_before

Points = tuple[tuple[float, float], ...]
_HEIGHT, _LOW, _EDGE, _NEAR, _OFF = 140, 78, 7, 10, 34
_TINTS = {"red": "#ef6f6f", "green": "#6fcf7f", "blue": "#6f9fef"}


_OWN_KEYS = frozenset((
    Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_PageUp, Qt.Key.Key_PageDown,
    Qt.Key.Key_Delete, Qt.Key.Key_Backspace,
))  # fmt: skip


class CurveField(QWidget):
    """A square of brightness: what comes in goes across, what comes out goes up."""

    changed = pyqtSignal(object)
    finished = pyqtSignal()

    def __init__(self, label: str, tint: str) -> None:
        super().__init__()
        Paced(self)
        TakesBack(self, self._let_go)
        self.label, self.tint = label, tint
        self.value: Points = STRAIGHT
        self.counts: np.ndarray | None = None
        self.chosen = 0
        self._held = False
        self.setFixedHeight(_LOW if tint in _TINTS else _HEIGHT)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(f"Curve: {label}")
        self.setToolTip(
            "Click for a new point, drag points, drag one far off to remove it; "
            "Page up and Page down choose a point, arrows move it, Delete removes it"
        )

    def sizeHint(self) -> QSize:
        return QSize(150, self.minimumHeight())

    def show_value(self, value: Points) -> None:
        """Show points from outside."""
        self.value = value
        self.chosen = min(self.chosen, len(value) - 1)
        self.update()

    def show_counts(self, counts: np.ndarray | None) -> None:
        """Show how often values occur: (channels, columns) of 0 to 1, or nothing."""
        self.counts = counts
        self.update()

    # -- places ----------------------------------------------------------------------------------------

    def _area(self) -> QRectF:
        return QRectF(self.rect()).adjusted(_EDGE, _EDGE, -_EDGE, -_EDGE)

    def place(self, x: float, y: float) -> QPointF:
        """Return where a point of the curve is drawn."""
        area = self._area()
        return QPointF(area.left() + x * area.width(), area.bottom() - y * area.height())

    def _values_at(self, point: QPointF) -> tuple[float, float]:
        area = self._area()
        x = (point.x() - area.left()) / area.width()
        y = (area.bottom() - point.y()) / area.height()
        return round(min(max(x, 0.0), 1.0), 3), round(min(max(y, 0.0), 1.0), 3)

    def _point_at(self, point: QPointF) -> int | None:
        ways = [(self.place(*each) - point).manhattanLength() for each in self.value]
        nearest = min(range(len(ways)), key=ways.__getitem__)
        return nearest if ways[nearest] <= _NEAR else None

    # -- painting --------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        area = self._area()
        painter.setPen(QPen(colour(MARIGOLD if self.hasFocus() else LINE), 1))
        painter.setBrush(colour(RAISED))
        painter.drawRect(area)
        self._paint_counts(painter)
        painter.setPen(QPen(colour(LINE), 1))
        for share in (0.25, 0.5, 0.75):
            painter.drawLine(self.place(share, 0), self.place(share, 1))
            painter.drawLine(self.place(0, share), self.place(1, share))
        across = np.linspace(0, 1, 97)
        line = zip(across.tolist(), curve(self.value)(across).tolist(), strict=True)
        stroke(painter, through(self.place(x, y) for x, y in line), QColor(_TINTS.get(self.tint, TEXT)), 1.6)
        for index, point in enumerate(self.value):
            painter.setPen(QPen(colour(MARIGOLD if index == self.chosen and self.hasFocus() else TEXT), 1.6))
            painter.setBrush(colour(RAISED))
            painter.drawEllipse(self.place(*point), 4.2, 4.2)
        painter.end()

    def _paint_counts(self, painter: QPainter) -> None:
        if self.counts is None:
            return
        painter.setPen(Qt.PenStyle.NoPen)
        names = list(_TINTS) if self.tint not in _TINTS else [self.tint]
        for name in names:
            tint = QColor(_TINTS[name])
            tint.setAlphaF(0.22)
            painter.setBrush(tint)
            # Roots lift what is rare, so that one flat colour does not hide all else.
            heights = np.sqrt(self.counts[list(_TINTS).index(name)]).tolist()
            steps = [self.place(0, 0)]
            for column, height in enumerate(heights):
                steps += [self.place(column / COLUMNS, height), self.place((column + 1) / COLUMNS, height)]
            painter.drawPolygon(QPolygonF([*steps, self.place(1, 0)]))

    def _let_go(self) -> None:
        self._held = False
        self.finished.emit()

    # -- mouse and keys --------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() != Qt.MouseButton.LeftButton:
            return
        found = self._point_at(event.position())
        if found is None:
            x, y = self._values_at(event.position())
            if len(self.value) >= MOST_POINTS or any(abs(x - px) < NEAREST_POINTS for px, _ in self.value):
                return
            points = sorted((*self.value, (x, y)))
            found = points.index((x, y))
            self._set(tuple(points))
        self.chosen, self._held = found, True
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if not self._held:
            return
        if not self._area().adjusted(-_OFF, -_OFF, _OFF, _OFF).contains(event.position()) and self._remove():
            self._held = False
            return
        self._move_to(*self._values_at(event.position()))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton:
            self._held = False
            self.finished.emit()

    def event(self, event: QEvent) -> bool:
        # The keys that work on points must not reach commands that delete or move layers.
        return claims(event, _OWN_KEYS) or super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        steps = {Qt.Key.Key_Left: (-0.01, 0), Qt.Key.Key_Right: (0.01, 0), Qt.Key.Key_Up: (0, 0.01),
                 Qt.Key.Key_Down: (0, -0.01)}  # fmt: skip
        key = Qt.Key(event.key())
        if key in steps:
            (x, y), (dx, dy) = self.value[self.chosen], steps[key]
            self._move_to(round(x + dx, 3), round(y + dy, 3))
        elif key in (Qt.Key.Key_PageUp, Qt.Key.Key_PageDown):
            self.chosen = (self.chosen + (1 if key == Qt.Key.Key_PageUp else -1)) % len(self.value)
            self.update()
            return
        elif key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            self._remove()
        else:
            super().keyPressEvent(event)
            return
        self.finished.emit()

    def _move_to(self, x: float, y: float) -> None:
        """Move the chosen point, but not past its neighbours."""
        points, at = list(self.value), self.chosen
        low = points[at - 1][0] + 2 * NEAREST_POINTS if at > 0 else 0.0
        high = points[at + 1][0] - 2 * NEAREST_POINTS if at + 1 < len(points) else 1.0
        if low <= high:
            points[at] = (min(max(x, low), high), min(max(y, 0.0), 1.0))
            self._set(tuple(points))

    def _remove(self) -> bool:
        if len(self.value) <= 2:
            return False
        self._set(tuple(point for index, point in enumerate(self.value) if index != self.chosen))
        return True

    def _set(self, points: Points) -> None:
        if points != self.value:
            self.show_value(points)
            self.changed.emit(points)


class CurveEditor(Editor):
    """A curve over the values that come in, of the one effect whose parameter it is."""

    def __init__(self, parameter: Parameter, session: Session) -> None:
        super().__init__(parameter, session)
        self.block, _, name = parameter.name.rpartition(".")
        self.field = CurveField(parameter.label, name)
        self.field.changed.connect(lambda value: self.changed.emit(value))
        self.field.finished.connect(self.finished)
        self.row.addWidget(self.field)
        self.setMinimumHeight(self.field.minimumHeight())
        self._background = Background(self)
        self._counted: object = None
        self._soon = Soon(self, self._count, wait=250, rests=True)

    def show_value(self, value: Value) -> None:
        self.field.show_value(value)
        self._soon.ask()

    @property
    def counted(self) -> bool:
        """Whether the values were counted as the piece is now."""
        return self._counted is not None and self._counted == self._now()

    @property
    def counting(self) -> bool:
        """Whether they are being counted."""
        return self._background.busy > 0

    def _now(self) -> object:
        session = self.session
        return (session.version, session.selected[:1], session.frame)

    def _count(self) -> None:
        """Count the values anew where what comes in may have changed; what is folded away counts nothing."""
        session = self.session
        if not session.layers or not self.field.isVisible() or self.counting:
            return
        layer = session.layers[0]
        if not any(block.id == self.block for block in layer.blocks):
            return
        if self.counted:
            return
        self._counted = self._now()
        project, piece, frame = session.project, session.composition, session.frame
        self._background.run(
            lambda: histogram(picture_before(project, piece, layer.id, self.block, frame)), self._take_counts
        )

    def _take_counts(self, counts: object) -> None:
        self.field.show_counts(counts if isinstance(counts, np.ndarray) else None)
        # Something may have changed while it was counted.
        self._soon.ask()
