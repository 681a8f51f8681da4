"""Where a colour is picked by place: lightness over chroma for a hue, the hue itself, the alpha."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from spiralis.app.style import GROUND, LINE, MARIGOLD, TEXT, colour
from spiralis.app.widgets.images import as_image
from spiralis.app.work.paced import Paced
from spiralis.core.colour import oklab_to_srgb

_CELLS = 96
#: Beyond the most colourful sRGB colour, whose chroma is 0.3225.
_FAR = 0.34


@lru_cache(maxsize=64)
def _reaches(hue: float) -> np.ndarray:
    """Return the highest chroma that sRGB has at lightnesses 1 to 0 of a hue, (n,), by bisection."""
    lightness = np.linspace(1, 0, _CELLS)
    low, high = np.zeros(_CELLS), np.full(_CELLS, _FAR)
    for _ in range(18):
        middle = (low + high) / 2
        inside = np.all(np.abs(_srgb(lightness, middle, hue) - 0.5) < 0.5005, axis=-1)
        low, high = np.where(inside, middle, low), np.where(inside, high, middle)
    return low


def _srgb(lightness: np.ndarray, chroma: np.ndarray, hue: float) -> np.ndarray:
    angle = np.radians(hue)
    return oklab_to_srgb(np.stack([lightness, chroma * np.cos(angle), chroma * np.sin(angle)], axis=-1))


def reach(hue: float, lightness: float) -> float:
    """Return the highest chroma that sRGB has there."""
    return float(np.interp(1 - lightness, np.linspace(0, 1, _CELLS), _reaches(round(hue, 1))))


@lru_cache(maxsize=64)
def plane_pixels(hue: float) -> np.ndarray:
    """Return uint8 (n, n, 4): lightness upwards, to the right the share of the chroma that sRGB has there."""
    share, lightness = np.meshgrid(np.linspace(0, 1, _CELLS), np.linspace(1, 0, _CELLS))
    pixels = np.full((_CELLS, _CELLS, 4), 255, dtype=np.uint8)
    pixels[..., :3] = np.round(np.clip(_srgb(lightness, share * _reaches(hue)[:, None], hue), 0, 1) * 255)
    return pixels


@lru_cache(maxsize=1)
def hue_pixels() -> np.ndarray:
    """Return uint8 (1, 360, 4): every hue at one lightness and chroma."""
    angle = np.radians(np.arange(360.0))
    lab = np.stack([np.full(360, 0.72), 0.13 * np.cos(angle), 0.13 * np.sin(angle)], axis=-1)
    pixels = np.full((1, 360, 4), 255, dtype=np.uint8)
    pixels[0, :, :3] = np.round(np.clip(oklab_to_srgb(lab), 0, 1) * 255)
    return pixels


class Picker(QWidget):
    """Base: a place of a rectangle is picked by pressing and dragging, or by the arrow keys."""

    picked = pyqtSignal(float, float)

    def __init__(self, label: str, width: int, height: int, levels: bool) -> None:
        super().__init__()
        Paced(self)
        self.setFixedSize(width, height)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(label)
        self.setToolTip(label)
        self.place = (0.0, 0.0)
        self._levels = levels

    def show_place(self, x: float, y: float = 0.5) -> None:
        """Show where the colour is: parts of the width and of the height from the top."""
        self.place = (min(max(x, 0.0), 1.0), min(max(y, 0.0), 1.0))
        self.update()

    def image(self) -> QImage:
        """Return what lies under the mark."""
        raise NotImplementedError

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        area = QRectF(self.rect()).adjusted(1, 1, -1, -1)
        painter.fillRect(area, colour(GROUND))
        painter.drawImage(area, self.image())
        painter.setPen(QPen(colour(MARIGOLD if self.hasFocus() else LINE), 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(area)
        mark = QPointF(area.left() + self.place[0] * area.width(), area.top() + self.place[1] * area.height())
        for tint, width in ((GROUND, 4.0), (TEXT, 2.0)):
            painter.setPen(QPen(colour(tint), width))
            if self._levels:
                painter.drawEllipse(mark, 6, 6)
            else:
                painter.drawLine(QPointF(mark.x(), area.top()), QPointF(mark.x(), area.bottom()))
        painter.end()

    def _pick(self, event: QMouseEvent) -> None:
        x, y = event.position().x() / self.width(), event.position().y() / self.height()
        self.show_place(x, y if self._levels else 0.5)
        self.picked.emit(*self.place)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._pick(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if event.buttons() & Qt.MouseButton.LeftButton:
            self._pick(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = 0.05 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 0.01
        moves = {Qt.Key.Key_Left: (-step, 0.0), Qt.Key.Key_Right: (step, 0.0), Qt.Key.Key_Up: (0.0, -step),
                 Qt.Key.Key_Down: (0.0, step)}  # fmt: skip
        if event.key() not in moves:
            super().keyPressEvent(event)
            return
        dx, dy = moves[Qt.Key(event.key())]
        self.show_place(self.place[0] + dx, self.place[1] + dy if self._levels else 0.5)
        self.picked.emit(*self.place)


class Plane(Picker):
    """Lightness over chroma at one hue."""

    def __init__(self) -> None:
        super().__init__("Lightness upwards, colourfulness to the right", 250, 190, True)
        self.hue = 0.0

    def image(self) -> QImage:
        return as_image(plane_pixels(round(self.hue, 1)), premultiplied=True)


class HueStrip(Picker):
    """All hues."""

    def __init__(self) -> None:
        super().__init__("Hue", 250, 18, False)

    def image(self) -> QImage:
        return as_image(hue_pixels(), premultiplied=True)


class AlphaStrip(Picker):
    """How solid the colour is."""

    def __init__(self) -> None:
        super().__init__("Opacity of the colour", 250, 18, False)
        self.shade = (1.0, 1.0, 1.0)

    def image(self) -> QImage:
        alpha = np.linspace(0.0, 1.0, 128)[None, :, None]
        checks = np.where((np.indices((2, 128)).sum(axis=0) // 4) % 2, 0.45, 0.35)[..., None]
        mixed = np.array(self.shade) * alpha + checks * (1 - alpha)
        pixels = np.full((2, 128, 4), 255, dtype=np.uint8)
        pixels[..., :3] = np.round(mixed * 255)
        self._held = pixels
        return as_image(pixels, premultiplied=True)
