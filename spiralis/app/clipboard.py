"""Copy and paste of keys and layers, inside this window and between windows (as JSON on the clipboard)."""

from __future__ import annotations

import json
from pathlib import Path

from attrs import evolve
from PyQt6.QtCore import QBuffer, QByteArray, QMimeData
from PyQt6.QtGui import QGuiApplication, QImage

from spiralis.app.importing import Importer
from spiralis.app.session import KeyRef, Session
from spiralis.app.timeline.key_edits import by_thread
from spiralis.core.editing.edits import unused_name
from spiralis.core.editing.sources import sources_of
from spiralis.core.errors import SpiralisError
from spiralis.core.model import Composition, Layer, Project, new_id
from spiralis.core.storage.conversion import from_json, to_json

LAYERS, KEYS = "application/x-spiralis-layers", "application/x-spiralis-keys"


class Clipboard:
    """What Copy and Paste do."""

    def __init__(self, session: Session, importer: Importer) -> None:
        self.session, self.importer = session, importer

    def copy(self) -> None:
        """Copy the chosen keys, or else the chosen layers."""
        session = self.session
        if not session.layers:
            return
        piece = session.composition
        layers, kind = tuple(session.layers), LAYERS
        if session.keys:
            layers, kind = tuple(self._only_keys(layer) for layer in layers), KEYS
        sources = () if kind == KEYS else session.project.sources
        data = to_json(Project("clipboard", (evolve(piece, layers=_orphaned(layers)),), sources))
        mime = QMimeData()
        mime.setData(kind, json.dumps(data).encode())
        mime.setText(", ".join(layer.name for layer in layers))
        QGuiApplication.clipboard().setMimeData(mime)

    def _only_keys(self, layer: Layer) -> Layer:
        tracks = {}
        for (layer_id, name), frames in by_thread(self.session.keys).items():
            if layer_id == layer.id:
                track = layer.track(name)
                tracks[name] = evolve(track, keys=tuple(key for key in track.keys if key.frame in frames))
        return evolve(layer, properties=tracks)

    def paste(self) -> None:
        """Paste keys onto the chosen layers at the playhead, or layers above the chosen one."""
        mime = QGuiApplication.clipboard().mimeData()
        kind = next((k for k in (KEYS, LAYERS) if mime is not None and mime.hasFormat(k)), None)
        if mime is None:
            return
        if kind is None:
            self.take_artwork(mime)
            return
        try:
            held = from_json(json.loads(bytes(mime.data(kind)).decode()), "the clipboard")
        except (SpiralisError, ValueError) as error:
            self.session.failed.emit(f"What is on the clipboard cannot be pasted: {error}")
            return
        piece = held.compositions[0]
        if kind == KEYS:
            self._paste_keys(piece)
        else:
            self._paste_layers(held, piece)

    def holds_artwork(self, mime: QMimeData) -> bool:
        """Whether there is a picture or an SVG to bring in."""
        return mime.hasImage() or mime.hasFormat("image/png") or mime.hasFormat("image/svg+xml")

    def take_artwork(self, mime: QMimeData) -> None:
        """Bring a picture, an SVG or copied files in."""
        files = [Path(url.toLocalFile()) for url in mime.urls() if url.isLocalFile()] if mime.hasUrls() else []
        try:
            if files:
                self.importer.bring(files)
            elif mime.hasFormat("image/svg+xml"):
                self.importer.paste_svg(mime.data("image/svg+xml").data())
            elif mime.hasText() and "<svg" in mime.text()[:4000]:
                self.importer.paste_svg(mime.text().encode())
            elif self.holds_artwork(mime):
                self.importer.paste_picture(_png(mime))
        except SpiralisError as error:
            self.session.failed.emit(str(error))

    def _paste_keys(self, held: Composition) -> None:
        session = self.session
        frames = [k.frame for layer in held.layers for t in layer.properties.values() for k in t.keys]
        if not frames or not session.layers:
            return
        shift = session.frame - min(frames)
        chosen: set[KeyRef] = set()
        targets = session.layers

        def change(piece: Composition) -> Composition:
            for index, target in enumerate(targets):
                source = held.layers[index % len(held.layers)]
                layer = piece.layer(target.id)
                for name, track in source.properties.items():
                    if layer.locked or not _has(layer, name):
                        continue
                    own = layer.track(name)
                    for key in track.keys:
                        own = own.with_key(evolve(key, frame=key.frame + shift))
                        chosen.add(KeyRef(layer.id, name, key.frame + shift))
                    layer = layer.with_track(name, own)
                piece = piece.with_layer(layer)
            return piece

        if session.edit("Paste keys", change):
            session.select([layer.id for layer in targets], chosen)

    def _paste_layers(self, held: Project, piece: Composition) -> None:
        session = self.session
        ids = {source.id for source in session.project.sources}
        taken = {layer.name for layer in session.composition.layers}
        made = []
        for layer in piece.layers:
            name = unused_name(layer.name, taken)
            taken.add(name)
            made.append(evolve(layer, id=new_id(), name=name))
        unknown = [s.name for s in held.sources if s.id not in ids and _uses(piece, s.id)]
        if unknown:
            session.failed.emit(f"The pasted layers show files this project does not have: {', '.join(unknown)}.")
        layers = list(session.composition.layers)
        index = min((i for i, layer in enumerate(layers) if layer.id in session.selected), default=0)
        layers[index:index] = made
        session.edit("Paste layers", lambda old: evolve(old, layers=tuple(layers)))
        session.select([layer.id for layer in made])


def _png(mime: QMimeData) -> bytes:
    """Return the picture on the clipboard as PNG, losing nothing where it is one already."""
    if mime.hasFormat("image/png"):
        return mime.data("image/png").data()
    packed = QByteArray()
    buffer = QBuffer(packed)
    buffer.open(QBuffer.OpenModeFlag.WriteOnly)
    QImage(mime.imageData()).save(buffer, "PNG")
    return packed.data()


def _orphaned(layers: tuple[Layer, ...]) -> tuple[Layer, ...]:
    ids = {layer.id for layer in layers}
    return tuple(layer if layer.parent in ids else evolve(layer, parent=None) for layer in layers)


def _has(layer: Layer, name: str) -> bool:
    try:
        layer.parameter(name)
    except SpiralisError:
        return False
    return True


def _uses(piece: Composition, source_id: str) -> bool:
    return any(source_id in sources_of(layer) for layer in piece.layers)
