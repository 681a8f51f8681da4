"""Onion skin: frames before and after the playhead, tinted and faint, of the chosen layers or of all."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

import numpy as np
from attrs import evolve
from PyQt6.QtCore import QObject, QRectF, pyqtSignal
from PyQt6.QtGui import QImage, QPainter
from PyQt6.QtWidgets import QWidget

from spiralis.app.session import Session
from spiralis.app.widgets.asking import Ask, LiveDialog
from spiralis.app.widgets.images import as_image
from spiralis.app.work.background import Background
from spiralis.app.work.renderers import RENDERERS
from spiralis.core.geometry import Affine
from spiralis.core.model import Composition, Project, layer_kind

#: Tints of what was and of what comes, straight RGB.
BEFORE, AFTER = (0xEF, 0x7F, 0xA6), (0x7B, 0xD0, 0xC1)
_SCALE = 0.5
_ALIKE = 24


Skin = tuple[int, bool, float]


def skin_frames(frame: int, count: int, step: int, length: int) -> list[Skin]:
    """Return (frame, whether it lies before, strength) of the skins, the faintest first; none outside the piece."""
    skins = []
    for distance in range(count, 0, -1):
        strength = 0.62 * (1 - (distance - 1) / count) + 0.08
        for before in (True, False):
            at = frame - distance * step if before else frame + distance * step
            if 0 <= at < length:
                skins.append((at, before, strength))
    return skins


def tinted(pixels: np.ndarray, tint: tuple[int, int, int]) -> np.ndarray:
    """Return premultiplied uint8 pixels halfway to one colour, alpha kept."""
    alpha = pixels[..., 3:].astype(np.uint16)
    flat = np.array(tint, dtype=np.uint16) * alpha // 255
    result = pixels.copy()
    result[..., :3] = (pixels[..., :3].astype(np.uint16) * 2 + flat * 3) // 5
    return result


def only(piece: Composition, ids: tuple[str, ...]) -> Composition:
    """Return the composition with just these layers seen (all but those that fill the frame, where none is named)."""
    wanted = set(ids) or {layer.id for layer in piece.layers if not layer_kind(layer.kind).fills_frame}
    layers = tuple(evolve(layer, solo=layer.id in wanted) for layer in piece.layers)
    return evolve(piece, layers=layers, background=None, loop=False)


class OnionSkin(QObject):
    """Draws the skins over the picture; asks for them in the background and shows them when they are there."""

    made = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.count, self.step = 3, 2
        self._background = Background(self)
        self._key: object = None
        self._images: list[tuple[QImage, np.ndarray, float]] = []

    def paint(self, painter: QPainter, to_widget: Affine) -> None:
        """Draw the skins around the playhead."""
        session = self.session
        if not session.view["onion"]:
            return
        piece, chosen = session.composition, session.selected
        key = (session.version, piece.id, session.frame, chosen, self.count, self.step)
        if key != self._key:
            self._key = key
            skins = skin_frames(session.frame, self.count, self.step, piece.length)
            project = session.project.with_composition(only(piece, chosen))
            self._background.run_newest(lambda: (key, _draw(project, piece.id, session.frame, skins)), self._take)
        left, top, right, bottom = to_widget.box((0, 0, piece.width, piece.height))
        for image, _, strength in self._images:
            painter.setOpacity(strength)
            painter.drawImage(QRectF(left, top, right - left, bottom - top), image)
        painter.setOpacity(1.0)

    def _take(self, result: Any) -> None:
        if isinstance(result, Exception) or result[0] != self._key:
            return
        # The images do not own their memory, so the arrays are kept beside them.
        self._images = [(as_image(pixels, premultiplied=True), pixels, strength) for pixels, strength in result[1]]
        self.made.emit()


def _draw(
    project: Project, piece: str, now: int, skins: list[tuple[int, bool, float]]
) -> list[tuple[np.ndarray, float]]:
    made = []
    here = RENDERERS.picture(project, piece, now, _SCALE).astype(np.int16)
    for frame, before, strength in skins:
        pixels = RENDERERS.picture(project, piece, frame, _SCALE)
        # What stands still would only veil the picture.
        pixels[np.abs(pixels.astype(np.int16) - here).max(axis=-1) < _ALIKE] = 0
        made.append((tinted(pixels, BEFORE if before else AFTER), strength))
    return made


def ask_onion(parent: QWidget, session: Session, onion: OnionSkin, update: Callable[[], object]) -> None:
    """Show the skins and ask how many there are and how far apart."""
    if not session.view["onion"]:
        session.view.toggle("onion")

    def change(values: Mapping[str, Any], merge: str) -> None:
        onion.count, onion.step = int(values["count"]), int(values["step"])
        update()

    asks = (
        Ask("count", "To each side", float(onion.count), "", 1, 12),
        Ask("step", "Frames apart", float(onion.step), "f", 1, 100),
    )
    help = "Frames before are rose, those after are mint: of the chosen layers, or of all that do not fill the frame."
    LiveDialog(parent, session, "Onion skin", help, asks, change).exec()
