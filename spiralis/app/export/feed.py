"""Feed preview: a file that was written, going round at the size of a phone among neutral shapes, light or dark."""

from __future__ import annotations

import time
from fractions import Fraction
from pathlib import Path

import numpy as np
from PyQt6.QtCore import QRectF, QSize, Qt, QTimer
from PyQt6.QtGui import QImage, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QDialog, QHBoxLayout, QVBoxLayout, QWidget

from spiralis.app.style import MARIGOLD, colour
from spiralis.app.widgets.fields import CheckBox
from spiralis.app.widgets.images import as_image
from spiralis.app.widgets.short_label import ShortLabel
from spiralis.app.work.background import Background
from spiralis.app.work.loudspeaker import Outlet
from spiralis.core.media.playing import FileFrames, frames_of

#: A phone's screen in points, and how the feed lies on it.
_WIDTH, _HEIGHT, _BAR = 360, 720, 56
_LIGHT = {"ground": "#ffffff", "shape": "#e4e6ea", "line": "#c4c8d0"}
_DARK = {"ground": "#101114", "shape": "#26282e", "line": "#3a3d45"}


class Phone(QWidget):
    """Draws the feed: posts above and below are plain shapes, the one in the middle is the file."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedSize(_WIDTH + 24, _HEIGHT + 24)
        self.setAccessibleName("Feed preview")
        self.image: QImage | None = None
        self.dark, self.safe = False, False

    def show_frame(self, pixels: np.ndarray) -> None:
        """Show a frame, straight uint8 (h, w, 4)."""
        self.image = as_image(np.ascontiguousarray(pixels)).copy()
        self.update()

    def place(self) -> QRectF:
        """Return where the file shows: as wide as the screen, no taller than a feed lets it be."""
        screen = QRectF(12, 12, _WIDTH, _HEIGHT)
        if self.image is None:
            return screen
        height = _WIDTH * self.image.height() / max(self.image.width(), 1)
        if height > _HEIGHT - 2 * _BAR:
            # What is upright takes the whole screen.
            scale = min(_WIDTH / self.image.width(), _HEIGHT / self.image.height())
            wide, tall = self.image.width() * scale, self.image.height() * scale
            return QRectF(screen.center().x() - wide / 2, screen.center().y() - tall / 2, wide, tall)
        return QRectF(screen.left(), screen.top() + _BAR + 44, _WIDTH, height)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        look = _DARK if self.dark else _LIGHT
        screen = QRectF(12, 12, _WIDTH, _HEIGHT)
        painter.setPen(QPen(colour(look["line"]), 2))
        painter.setBrush(colour(look["ground"]))
        painter.drawRoundedRect(screen, 18, 18)
        place = self.place()
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour(look["shape"]))
        for box in self._shapes(screen, place):
            painter.drawRoundedRect(box, 6, 6)
        if self.image is not None:
            painter.drawImage(place, self.image)
        if self.safe and self.image is not None:
            painter.setPen(QPen(colour(MARIGOLD), 1, Qt.PenStyle.DashLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(place.adjusted(0.06 * place.width(), 0.12 * place.height(), -0.06 * place.width(),
                                            -0.18 * place.height()))  # fmt: skip
        painter.end()

    def _shapes(self, screen: QRectF, place: QRectF) -> list[QRectF]:
        """Return the shapes that stand for everything else in a feed."""
        left = screen.left() + 12
        if place.height() >= _HEIGHT - 2 * _BAR:
            return []
        boxes = [QRectF(left, screen.top() + 16, 120, 22), QRectF(left, place.top() - 34, 26, 26),
                 QRectF(left + 36, place.top() - 28, 140, 12)]  # fmt: skip
        below = place.bottom() + 12
        boxes += [QRectF(left, below, 90, 14), QRectF(left, below + 24, 240, 12), QRectF(left, below + 42, 180, 12)]
        following = below + 74
        if following < screen.bottom() - 40:
            tall = max(screen.bottom() - following - 50, 10)
            boxes += [QRectF(left, following, 26, 26), QRectF(screen.left(), following + 36, _WIDTH, tall)]
        return boxes


class FeedPreview(QDialog):
    """Plays a written file over and over at its own rate, without its sound until somebody asks for it."""

    def __init__(self, parent: QWidget, path: Path) -> None:
        super().__init__(parent)
        self.setWindowTitle(f"Feed preview · {path.name}")
        self.phone = Phone()
        self.dark, self.safe = CheckBox("Dark"), CheckBox("Safe area")
        self.dark.setToolTip("Show it among dark shapes")
        self.safe.setToolTip("Feeds tend to lay their own words and buttons over what lies outside of it")
        self.dark.toggled.connect(self._look)
        self.safe.toggled.connect(self._look)
        self.sound = CheckBox("Sound")
        self.sound.setToolTip("Feeds begin without it; what is heard comes out of the file, too")
        self.sound.toggled.connect(self._hear)
        self.sound.hide()
        self.words = ShortLabel(f"{path.name}, from its own bytes")
        self.words.setObjectName("Quiet")
        row = QHBoxLayout()
        row.addWidget(self.dark)
        row.addWidget(self.safe)
        row.addWidget(self.sound)
        row.addWidget(self.words, 1)
        column = QVBoxLayout(self)
        column.addWidget(self.phone, 0, Qt.AlignmentFlag.AlignHCenter)
        column.addLayout(row)
        self.frames: FileFrames | None = None
        self.shown = -1
        self._since = 0.0
        self._outlet = Outlet()
        self._clock = QTimer(self)
        self._clock.setInterval(10)
        self._clock.timeout.connect(self._tick)
        self._background = Background(self)
        # No larger than the screen of the phone at twice its points.
        self._background.run(lambda: frames_of(path, 2 * _WIDTH), self._take)

    def sizeHint(self) -> QSize:
        return QSize(_WIDTH + 60, _HEIGHT + 90)

    def _take(self, found: object) -> None:
        if isinstance(found, FileFrames) and found.pictures:
            self.frames, self._since = found, time.perf_counter()
            self.words.setText(f"{len(found.pictures)} frames, {float(found.seconds):.2f} s")
            self._clock.start()
            self.sound.setVisible(found.sound is not None)
        else:
            self.words.setText(str(found) if isinstance(found, Exception) else "There is nothing in this file to play.")

    def _tick(self) -> None:
        if self.frames is None:
            return
        turn = Fraction(time.perf_counter() - self._since).limit_denominator(10_000) % self.frames.seconds
        index = self.frames.at(turn)
        if index != self.shown:
            self.shown = index
            self.phone.show_frame(self.frames.pictures[index])

    def _hear(self) -> None:
        """Let its sound be heard from where it plays, or end it."""
        if self.sound.isChecked() and self.frames is not None and self.frames.sound is not None:
            self._outlet.play(self.frames.sound, True, time.perf_counter() - self._since)
        else:
            self._outlet.end()
        if self._outlet.nowhere:
            self.words.setText("There is no loudspeaker on this machine.")

    def _look(self) -> None:
        self.phone.dark, self.phone.safe = self.dark.isChecked(), self.safe.isChecked()
        self.phone.update()

    def done(self, result: int) -> None:
        """Stop, by whatever way it is closed."""
        self._clock.stop()
        self._outlet.end()
        super().done(result)
