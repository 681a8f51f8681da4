"""Small pictures of what each layer shows, made in a background thread."""

from __future__ import annotations

from fractions import Fraction

import numpy as np
from attrs import evolve
from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtGui import QPixmap

from spiralis.app.session import Session
from spiralis.app.work.background import SmallPictures
from spiralis.app.work.renderers import RENDERERS
from spiralis.core.geometry import rounded_out
from spiralis.core.model import Composition, Layer, Project, Track, layer_kind
from spiralis.core.model.kinds import LOOK, PLACE
from spiralis.core.render.layers import Evaluated

SIZE = 19
#: Where a layer is and how it comes into sight; its picture shows it there and whole.
_PLACED = {parameter.name for parameter in (*PLACE, *LOOK)} | {"spread_by"}


def layer_picture(project: Project, composition: Composition, layer: Layer, size: int) -> np.ndarray:
    """Return what a layer shows by itself at its first key or frame, uint8 (h, w, 4), fitted into a square."""
    # What moves inside often begins with nothing, so its picture is taken a third of the way in.
    frame = layer.first if layer_kind(layer.kind).moment is None else composition.length // 3
    content = {n: t for n, t in layer.properties.items() if n not in _PLACED}
    plain = evolve(layer, parent=None, first=0, last=composition.length, properties=content)
    at = Evaluated(project, composition, frame)
    box = rounded_out(at.box(plain))
    width, height = min(max(box[2] - box[0], 1), 20_000), min(max(box[3] - box[1], 1), 20_000)
    scale = size / max(width, height)
    if layer_kind(layer.kind).fills_frame:
        placed = plain.with_track("position", Track((composition.width / 2, composition.height / 2)))
        alone = evolve(composition, layers=(placed,), background=None)
    else:
        placed = plain.with_track("position", Track((width / 2, height / 2)))
        alone = Composition("one layer", width, height, Fraction(25), composition.length, layers=(placed,))
    return RENDERERS.picture(project.with_composition(alone), alone.id, min(frame, alone.length - 1), scale)


class Thumbnails(QObject):
    """Hands out the layers' pixmaps; what is not there yet is made in the background and announced by ``made``."""

    made = pyqtSignal()

    def __init__(self, session: Session, parent: QObject) -> None:
        super().__init__(parent)
        self.session = session
        self._pictures = SmallPictures(self)
        self._pictures.made.connect(self.made)

    def of(self, layer: Layer) -> QPixmap | None:
        """Return the layer's thumbnail, or None while it is being made."""
        if not layer_kind(layer.kind).pictured:
            return None
        content = tuple((n, t.value, t.keys) for n, t in sorted(layer.properties.items()) if n not in _PLACED)
        piece, project = self.session.composition, self.session.project
        shown: object = (piece.width, piece.height) if layer_kind(layer.kind).fills_frame else None
        if layer.has("composition"):
            shown = id(project.find(layer.track("composition").value))
        found = self._pictures.of((layer.kind, content, shown), lambda: layer_picture(project, piece, layer, 2 * SIZE))
        return found if found is not None and not found.isNull() else None
