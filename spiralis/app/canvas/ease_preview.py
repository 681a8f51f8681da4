"""An ease under the pointer, played on the canvas: the chosen layer's outline moves as it would."""

from __future__ import annotations

import time

from attrs import evolve
from PyQt6.QtCore import QObject, QTimer, pyqtSignal
from PyQt6.QtGui import QPainter

from spiralis.app.canvas.painting import draw_outline
from spiralis.app.pace.segment import shown_segment
from spiralis.app.session import Session
from spiralis.core.animation.easing import Easing
from spiralis.core.editing.shaping import with_easing
from spiralis.core.geometry import Affine
from spiralis.core.model import Composition, Layer
from spiralis.core.render.layers import Evaluated

_REST = 0.35


class EasePreview(QObject):
    """Plays the shown segment with another ease, over and over, until the pointer leaves the tile."""

    moved = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self._piece: Composition | None = None
        self._layer: Layer | None = None
        self._frames = (0, 1)
        self._started = 0.0
        self._timer = QTimer(self)
        self._timer.setInterval(16)
        self._timer.timeout.connect(self.moved)

    @property
    def playing(self) -> bool:
        """Whether an ease is being played."""
        return self._piece is not None

    def play(self, easing: Easing | None) -> None:
        """Play an ease, or stop with None."""
        segment = shown_segment(self.session)
        if easing is None or segment is None:
            self._piece = None
            self._timer.stop()
            self.moved.emit()
            return
        name = segment.parameter.name
        track = with_easing(segment.track, {segment.left.frame}, easing)
        self._layer = segment.layer.with_track(name, track)
        self._piece = evolve(self.session.composition.with_layer(self._layer))
        self._frames = (segment.left.frame, segment.right.frame)
        self._started = time.perf_counter()
        self._timer.start()

    def frame(self) -> float:
        """Return the frame that is due: through the segment at true speed, then a short rest."""
        first, last = self._frames
        rate = float(self.session.composition.rate)
        length = (last - first) / rate
        passed = (time.perf_counter() - self._started) % (length + _REST)
        return first + min(passed / length, 1.0) * (last - first) - 1e-4

    def paint(self, painter: QPainter, to_widget: Affine) -> None:
        """Draw where the layer would be."""
        if self._piece is None or self._layer is None:
            return
        at = Evaluated(self.session.project, self._piece, self.frame())
        strength = max(at.values(self._layer)["opacity"] / 100, 0.15)
        draw_outline(painter, to_widget @ at.matrix(self._layer), at.box(self._layer), 3.0, strength)
