"""Crop or enlarge the composition by dragging its edges; Enter takes the new frame, Escape leaves the old one."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QKeyEvent, QPainter, QPainterPath, QPen

from spiralis.app.session import Session
from spiralis.app.style import GROUND, MARIGOLD, TEXT, colour, font
from spiralis.app.work.steps import Steps
from spiralis.core.editing.reformat import cropped_everywhere
from spiralis.core.geometry import Affine, Box

HELP = "Frame: drag an edge or a corner; Enter takes the new frame, Escape keeps the old one."
_LEAST = 8.0


class FrameTool:
    """The frame as it is being dragged, in the composition's pixels."""

    def __init__(self, session: Session) -> None:
        self.session = session
        piece = session.composition
        self.box: Box = (0.0, 0.0, float(piece.width), float(piece.height))
        self._size = (piece.width, piece.height)
        self.done = False
        self.steps = Steps(lambda: self.box, self._put)
        self._held: tuple[bool, bool, bool, bool] | None = None
        session.said.emit(HELP)

    def press(self, point: tuple[float, float], reach: float, alt: bool) -> None:
        """Grab the edges that are near."""
        left, top, right, bottom = self.box
        x, y = point
        across = top - reach <= y <= bottom + reach
        down = left - reach <= x <= right + reach
        held = (abs(x - left) <= reach and across, abs(y - top) <= reach and down,
                abs(x - right) <= reach and across, abs(y - bottom) <= reach and down)  # fmt: skip
        self._held = held if any(held) else None
        if any(held):
            self.steps.keep()

    def move(self, point: tuple[float, float], held: bool, alt: bool) -> None:
        """Drag the grabbed edges to whole pixels."""
        if not held or self._held is None:
            return
        left, top, right, bottom = self.box
        x, y = round(point[0]), round(point[1])
        if self._held[0]:
            left = min(x, right - _LEAST)
        if self._held[1]:
            top = min(y, bottom - _LEAST)
        if self._held[2]:
            right = max(x, left + _LEAST)
        if self._held[3]:
            bottom = max(y, top + _LEAST)
        self.box = (left, top, right, bottom)

    def release(self) -> None:
        """Let go of the edges."""
        if self._held is not None and self.steps.before and self.steps.before[-1] == self.box:
            self.steps.before.pop()  # Nothing was dragged.
        self._held = None

    def double_click(self, point: tuple[float, float], reach: float) -> None:
        """Take the frame."""
        self.take()

    def key(self, event: QKeyEvent) -> bool:
        """Take keys; False for those that are not the tool's."""
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.take()
        elif event.key() == Qt.Key.Key_Escape:
            self.done = True
        else:
            return False
        return True

    def _put(self, box: Box) -> None:
        self.box, self._held = box, None

    def take(self) -> None:
        """Make the frame the composition's."""
        self.done = True
        piece, box = self.session.composition, self.box
        if box != (0, 0, piece.width, piece.height):
            shown = piece.id
            self.session.edit_whole(
                "Crop or enlarge the frame", lambda p: (cropped_everywhere(p, shown, box), None), locked_too=True
            )

    def settle(self) -> bool:
        """Begin again where the composition has another size now."""
        piece = self.session.composition
        if (piece.width, piece.height) != self._size:
            self._size = (piece.width, piece.height)
            self.steps = Steps(lambda: self.box, self._put)
            self.box = (0.0, 0.0, float(piece.width), float(piece.height))
        return True

    def paint(self, painter: QPainter, to_widget: Affine) -> None:
        """Shade what falls away, draw the frame and its size."""
        left, top, right, bottom = to_widget.box(self.box)
        area = QRectF(left, top, right - left, bottom - top)
        shade = QPainterPath()
        shade.addRect(QRectF(painter.window()))
        shade.addRect(area)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour(GROUND, 0.6))
        painter.drawPath(shade)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(colour(MARIGOLD), 2))
        painter.drawRect(area)
        painter.setBrush(colour(MARIGOLD))
        middle = area.center()
        for x in (left, middle.x(), right):
            for y in (top, middle.y(), bottom):
                if (x, y) != (middle.x(), middle.y()):
                    painter.drawRect(QRectF(x - 3, y - 3, 6, 6))
        text = f"{self.box[2] - self.box[0]:.0f} × {self.box[3] - self.box[1]:.0f} px"
        label = QRectF(middle.x() - 60, middle.y() - 12, 120, 24)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour(GROUND, 0.9))
        painter.drawRoundedRect(label, 6, 6)
        painter.setPen(colour(TEXT))
        painter.setFont(font(13, 600, tabular=True))
        painter.drawText(label, Qt.AlignmentFlag.AlignCenter, text)
