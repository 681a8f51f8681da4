"""Small pictures of what each layer shows, made in a background thread."""

from __future__ import annotations

from collections.abc import Hashable
from concurrent.futures import ThreadPoolExecutor
from fractions import Fraction

import numpy as np
from attrs import evolve
from PyQt6.QtCore import QObject, Qt, pyqtSignal
from PyQt6.QtGui import QPixmap

from spiralis.app.images import as_image
from spiralis.app.session import Session
from spiralis.core.geometry import outward
from spiralis.core.model import Composition, Layer, Project, Track
from spiralis.core.model.kinds import LOOK, PLACE
from spiralis.core.render.frame import render_rgba8
from spiralis.core.render.layers import Evaluated

SIZE = 19
_PLACED = {parameter.name for parameter in (*PLACE, *LOOK)}


def layer_picture(project: Project, composition: Composition, layer: Layer, size: int) -> np.ndarray:
    """Return what a layer shows by itself at its first key or frame, uint8 (h, w, 4), fitted into a square."""
    frame = layer.first
    content = {n: t for n, t in layer.properties.items() if n not in _PLACED}
    plain = evolve(layer, parent=None, first=0, last=composition.length, properties=content)
    at = Evaluated(project, composition, frame)
    box = outward(at.box(plain))
    width, height = min(max(box[2] - box[0], 1), 20_000), min(max(box[3] - box[1], 1), 20_000)
    scale = size / max(width, height)
    if layer.kind == "backdrop":
        placed = plain.with_track("position", Track((composition.width / 2, composition.height / 2)))
        alone = evolve(composition, layers=(placed,), background=None)
    else:
        placed = plain.with_track("position", Track((width / 2, height / 2)))
        alone = Composition("one layer", width, height, Fraction(25), composition.length, layers=(placed,))
    return render_rgba8(project.with_composition(alone), alone.id, min(frame, alone.length - 1), scale)


class Thumbnails(QObject):
    """Hands out pixmaps; what is not there yet is made in the background and announced by ``made``."""

    made = pyqtSignal()
    _finished = pyqtSignal(object, object)

    def __init__(self, session: Session, parent: QObject) -> None:
        super().__init__(parent)
        self.session = session
        self._pixmaps: dict[Hashable, QPixmap] = {}
        self._asked: set[Hashable] = set()
        self._pool = ThreadPoolExecutor(max_workers=1, thread_name_prefix="thumbnails")
        self._finished.connect(self._take, Qt.ConnectionType.QueuedConnection)

    def of(self, layer: Layer) -> QPixmap | None:
        """Return the layer's thumbnail, or None while it is being made."""
        content = tuple((n, t.value, t.keys) for n, t in sorted(layer.properties.items()) if n not in _PLACED)
        piece = self.session.composition
        key = (layer.kind, content, (piece.width, piece.height) if layer.kind == "backdrop" else None)
        if key not in self._pixmaps and key not in self._asked:
            if len(self._pixmaps) > 600:
                self._pixmaps.clear()
            self._asked.add(key)
            project = self.session.project
            self._pool.submit(self._make, key, project, piece, layer)
        return self._pixmaps.get(key)

    def _make(self, key: Hashable, project: Project, piece: Composition, layer: Layer) -> None:
        try:
            pixels = layer_picture(project, piece, layer, 2 * SIZE)
        except (ValueError, MemoryError):
            return
        self._finished.emit(key, pixels)

    def _take(self, key: Hashable, pixels: np.ndarray) -> None:
        pixmap = QPixmap.fromImage(as_image(pixels, premultiplied=True))
        pixmap.setDevicePixelRatio(2.0)
        self._pixmaps[key] = pixmap
        self._asked.discard(key)
        self.made.emit()
