"""The picture going round and round by itself, clean, with its own zoom: in a window of its own, or within another."""

from __future__ import annotations

import time

import numpy as np
from PyQt6.QtCore import QRectF, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QCloseEvent, QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QWheelEvent
from PyQt6.QtWidgets import QWidget

from spiralis.app.canvas.painting import draw_checks
from spiralis.app.session import Session
from spiralis.app.style import GROUND, colour
from spiralis.app.widgets.images import as_image
from spiralis.app.work.playback import Player, frame_due

_SIZE = 540
_LEAST, _MOST = 0.1, 16.0


def switch_full_screen(window: QWidget) -> None:
    """Let a window take the whole screen, or give it back."""
    window.setWindowState(window.windowState() ^ Qt.WindowState.WindowFullScreen)


class LoopingPicture(QWidget):
    """Plays the ready frames by a clock of its own while one works on at another frame in the main window."""

    #: It goes round, or stops, or goes on from elsewhere.
    playingChanged = pyqtSignal()

    #: Whether checks show where nothing is.
    checks = True
    loop = True

    def __init__(self, session: Session, player: Player, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.session, self.player = session, player
        self.setAccessibleName("Picture")
        self.setToolTip("Space stops and plays, the wheel zooms, 0 fits")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        #: Its own zoom; None fits the window.
        self.zoom: float | None = None
        self.frame = session.frame
        self._image: QImage | None = None
        self._pixels: np.ndarray | None = None
        self._began = (time.perf_counter(), self.frame)
        self._clock = QTimer(self)
        self._clock.setTimerType(Qt.TimerType.PreciseTimer)
        self._clock.timeout.connect(self._tick)
        #: Whether the picture on show is of another version than the one that goes round now.
        self._stale = False
        for signal in (session.projectChanged, session.compositionChanged, session.peek.changed):
            signal.connect(self._renew)
        player.pictureChanged.connect(self._take)
        self._renew()
        self.set_playing(True)

    @property
    def playing(self) -> bool:
        """Whether it goes round."""
        return self._clock.isActive()

    def set_playing(self, playing: bool) -> None:
        """Go round from the frame that is shown, or stop at it."""
        self._began = (time.perf_counter(), self.frame)
        self._clock.start(10) if playing else self._clock.stop()
        self.playingChanged.emit()

    @property
    def gone(self) -> float:
        """Seconds of the play span that went by before now, what lies before the frame it began at counted in."""
        piece, (began, frame) = self.session.composition, self._began
        return (frame - piece.span[0]) / float(piece.rate) + time.perf_counter() - began

    def _renew(self) -> None:
        first, last = self.session.composition.span
        self.frame = min(max(self.frame, first), last - 1)
        self._began, self._stale = (time.perf_counter(), self.frame), True
        self._take()

    def _tick(self) -> None:
        began, start = self._began
        frame = frame_due(self.session.composition, start, time.perf_counter() - began)
        if frame != self.frame:
            self.frame = frame
            self._take()

    def _take(self) -> None:
        """Take the ready frame; until there is one the last that was stays, so that nothing flickers.

        After a change the frame under the playhead is ready first, then those after it: it goes on from there.
        """
        pixels = self.player.store.get(self.player.key(self.frame))
        if pixels is None and self._stale:
            pixels = self.player.picture()
            first, last = self.session.composition.span
            if pixels is not None and self.playing and first <= self.session.frame < last:
                self.frame = self.session.frame
                self._began, self._stale = (time.perf_counter(), self.frame), False
                self.playingChanged.emit()
        elif pixels is not None:
            self._stale = False
        if pixels is not None and pixels is not self._pixels:
            # The image does not own its memory, so the array is kept beside it.
            self._pixels, self._image = pixels, as_image(pixels, premultiplied=True)
            self.update()

    def place(self) -> QRectF:
        """Return where the picture lies in the window."""
        piece = self.session.composition
        zoom = self.zoom or min(self.width() / piece.width, self.height() / piece.height)
        width, height = piece.width * zoom, piece.height * zoom
        return QRectF((self.width() - width) / 2, (self.height() - height) / 2, width, height)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), colour(GROUND))
        if self.checks and (self._image is None or self._image.hasAlphaChannel()):
            draw_checks(painter, self.place())
        if self._image is not None:
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            painter.drawImage(self.place(), self._image)
        painter.end()

    def zoom_by(self, factor: float) -> None:
        """Show it larger or smaller than it is."""
        now = self.place().width() / self.session.composition.width
        self.zoom = min(max(now * factor, _LEAST), _MOST)
        self.update()

    def fit(self) -> None:
        """Show the whole picture as large as the window is."""
        self.zoom = None
        self.update()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is not None and event.angleDelta().y():
            self.zoom_by(1.2 ** (event.angleDelta().y() / 120))

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        key = event.key()
        if key == Qt.Key.Key_Space:
            self.set_playing(not self.playing)
        elif key in (Qt.Key.Key_Plus, Qt.Key.Key_Equal):
            self.zoom_by(1.25)
        elif key == Qt.Key.Key_Minus:
            self.zoom_by(0.8)
        elif key == Qt.Key.Key_0:
            self.fit()
        else:
            super().keyPressEvent(event)

    def closeEvent(self, event: QCloseEvent | None) -> None:
        self._clock.stop()
        super().closeEvent(event)


class PictureWindow(LoopingPicture):
    """The same in a window of its own, for another screen."""

    checks = False

    def __init__(self, session: Session, player: Player) -> None:
        super().__init__(session, player)
        self.setWindowFlag(Qt.WindowType.Window)
        self.setToolTip("Space stops and plays, the wheel zooms, 0 fits, double-click or F11 takes the whole screen")
        piece = session.composition
        largest = max(piece.width, piece.height)
        self.resize(round(_SIZE * piece.width / largest), round(_SIZE * piece.height / largest))
        self._name()
        for signal in (session.projectChanged, session.compositionChanged):
            signal.connect(self._name)

    def _name(self) -> None:
        self.setWindowTitle(f"{self.session.composition.name} — {self.session.project.name}")

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        switch_full_screen(self)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() == Qt.Key.Key_F11:
            switch_full_screen(self)
        elif event is not None and event.key() == Qt.Key.Key_Escape:
            self.close()
        else:
            super().keyPressEvent(event)
