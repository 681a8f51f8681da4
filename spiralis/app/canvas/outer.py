"""The outer piece, faint around a nested composition that one has gone into."""

from __future__ import annotations

from typing import Any

import numpy as np
from PyQt6.QtCore import QObject, QRectF, pyqtSignal
from PyQt6.QtGui import QImage, QPainter, QTransform

from spiralis.app.session import Session
from spiralis.app.widgets.images import as_image
from spiralis.app.work.background import Background
from spiralis.app.work.renderers import RENDERERS
from spiralis.core.geometry import Affine
from spiralis.core.model import Track
from spiralis.core.render.layers import Evaluated

_SCALE = 0.5
_STRENGTH = 0.38


class OuterPicture(QObject):
    """Draws the composition one came from, without the layer one is in, where that lies around the present one."""

    made = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self._background = Background(self)
        self._key: object = None
        self._pixels: np.ndarray | None = None
        self._image: QImage | None = None

    def paint(self, painter: QPainter, to_widget: Affine) -> None:
        """Draw it, or ask for it; nothing where one is not in a nest."""
        session = self.session
        if not session.view["outer"] or not session.trail:
            return
        outer = session.project.find(session.trail[-1])
        layer = outer.find(session.trail_layers[-1]) if outer is not None else None
        if outer is None or layer is None:
            return
        start = float(layer.track("start").value)
        frame = start + session.frame * float(outer.rate / session.composition.rate)
        at = Evaluated(session.project, outer, frame)
        inverse = at.matrix(layer).inverse()
        if inverse is None:
            return
        key = (session.version, outer.id, layer.id, frame)
        if key != self._key:
            self._key = key
            hidden = outer.with_layer(layer.with_track("visible", Track(False)))
            project = session.project.with_composition(hidden)
            self._background.run_newest(lambda: (key, RENDERERS.picture(project, hidden.id, frame, _SCALE)), self._take)
        if self._image is not None:
            m = to_widget @ inverse
            painter.save()
            painter.setOpacity(_STRENGTH)
            painter.setTransform(QTransform(m.a, m.b, m.c, m.d, m.e, m.f), True)
            painter.drawImage(QRectF(0, 0, outer.width, outer.height), self._image)
            painter.restore()

    def _take(self, result: Any) -> None:
        if isinstance(result, Exception) or result[0] != self._key:
            return
        # The image does not own its memory, so the array is kept beside it.
        self._pixels = result[1]
        self._image = as_image(result[1], premultiplied=True)
        self.made.emit()
