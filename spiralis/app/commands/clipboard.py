"""Copy and paste of keys and layers, inside this window and between windows (as JSON on the clipboard)."""

from __future__ import annotations

import json
import os
from collections.abc import Callable

from attrs import evolve
from PyQt6.QtCore import QFile, QMimeData
from PyQt6.QtGui import QGuiApplication, QImage

from spiralis.app.commands.outliving import clipboard_mime
from spiralis.app.details.effects import paste_blocks
from spiralis.app.project.importing import Importer
from spiralis.app.session import Session, say_fewer_keys
from spiralis.app.strips.add_strip import add_words
from spiralis.app.widgets.local_files import local_files
from spiralis.core.editing.keys import KeyRef, by_track
from spiralis.core.editing.pasting import put_in, taken_out
from spiralis.core.editing.pasting_keys import Paste, pasted
from spiralis.core.editing.wording import plain_words
from spiralis.core.errors import SpiralisError
from spiralis.core.model import Composition, Layer, Project
from spiralis.core.storage.conversion import from_json, to_json
from spiralis.core.storage.project_file import packed, unpacked

LAYERS, KEYS = "application/x-spiralis-layers", "application/x-spiralis-keys"
_NAME = "the clipboard"
_NOTHING = "Nothing on the clipboard can be pasted here; copy layers, keys, words, a picture, an SVG or files first."


class Clipboard:
    """What Copy and Paste do."""

    def __init__(self, session: Session, importer: Importer) -> None:
        self.session, self.importer = session, importer

    def copy(self) -> None:
        """Copy the chosen keys, or else the chosen layers."""
        session = self.session
        if not session.layers:
            return
        mime = QMimeData()
        if session.keys:
            layers = tuple(self._only_keys(layer) for layer in session.layers)
            data = to_json(Project("clipboard", (evolve(session.composition, layers=_orphaned(layers)),)))
            mime.setData(KEYS, json.dumps(data).encode())
        else:
            held = taken_out(session.project, session.composition_id, session.selected)
            mime.setData(LAYERS, packed(held))
        mime.setText(", ".join(layer.name for layer in session.layers))
        QGuiApplication.clipboard().setMimeData(mime)

    def cut(self, delete: Callable[[], None]) -> None:
        """Copy the chosen keys or layers, and delete them here."""
        self.copy()
        delete()

    def _only_keys(self, layer: Layer) -> Layer:
        tracks = {}
        for (layer_id, name), frames in by_track(self.session.keys).items():
            if layer_id == layer.id:
                track = layer.track(name)
                tracks[name] = evolve(track, keys=tuple(key for key in track.keys if key.frame in frames))
        return evolve(layer, properties=tracks)

    def paste(self) -> None:
        """Paste keys onto the chosen layers at the playhead, or layers above the chosen one."""
        mime = clipboard_mime()
        if paste_blocks(self.session):
            return
        kind = next((k for k in (KEYS, LAYERS) if mime is not None and mime.hasFormat(k)), None)
        if mime is None:
            self.session.failed.emit(_NOTHING)
            return
        if kind is None:
            self.take_artwork(mime)
            return
        data = mime.data(kind).data()
        try:
            held = from_json(json.loads(data.decode()), _NAME) if kind == KEYS else unpacked(data, _NAME)
        except (SpiralisError, ValueError) as error:
            self.session.failed.emit(f"What is on the clipboard cannot be pasted: {error}")
            return
        if kind == KEYS:
            self._paste_keys(held.compositions[0], Paste("values", self.session.frame))
        else:
            self._paste_layers(held)

    def holds_picture(self, mime: QMimeData) -> bool:
        """Whether there is a picture or an SVG to bring in."""
        return mime.hasImage() or mime.hasFormat("image/png") or mime.hasFormat("image/svg+xml")

    def holds_svg(self, mime: QMimeData) -> bool:
        """Whether there is an SVG written out as text."""
        return mime.hasText() and "<svg" in mime.text()[:4000]

    def holds_words(self, mime: QMimeData) -> bool:
        """Whether there are words to make a layer of, and nothing else."""
        other = self.holds_picture(mime) or mime.hasUrls()
        return not other and mime.hasText() and bool(mime.text().strip())

    def take_artwork(self, mime: QMimeData, at: tuple[float, float] | None = None) -> None:
        """Bring a picture, an SVG, copied files or words in, those ``at`` a place of the frame."""
        files = local_files(mime)
        try:
            if files:
                self.importer.bring(files)
            elif mime.hasFormat("image/svg+xml"):
                self.importer.paste_svg(mime.data("image/svg+xml").data())
            elif self.holds_svg(mime):
                self.importer.paste_svg(mime.text().encode())
            elif self.holds_picture(mime):
                self.importer.paste_picture(_picture(mime))
            elif self.holds_words(mime):
                add_words(self.session, plain_words(mime.text().strip()), at)
            else:
                self.session.failed.emit(_NOTHING)
        except SpiralisError as error:
            self.session.failed.emit(str(error))

    def paste_keys(self, way: str, at_playhead: bool) -> None:
        """Paste copied keys in another way: see ``pasting_keys.WAYS``; at the playhead or on their own frames."""
        mime = clipboard_mime()
        if mime is None or not mime.hasFormat(KEYS):
            self.session.failed.emit("There are no keys on the clipboard; choose some and copy them first.")
            return
        try:
            held = from_json(json.loads(mime.data(KEYS).data().decode()), _NAME)
        except (SpiralisError, ValueError) as error:
            self.session.failed.emit(f"What is on the clipboard cannot be pasted: {error}")
            return
        self._paste_keys(held.compositions[0], Paste(way, self.session.frame if at_playhead else None))

    def _paste_keys(self, held: Composition, how: Paste) -> None:
        session = self.session
        targets = [layer.id for layer in session.layers]
        if not targets:
            session.failed.emit("Choose the layers that the keys are to go to.")
            return
        chosen: set[KeyRef] = set()
        before = session.composition

        def change(piece: Composition) -> Composition:
            changed, found = pasted(piece, held, targets, how)
            chosen.update(found)
            return changed

        if session.edit("Paste pace" if how.way == "pace" else "Paste keys", change):
            session.select(targets, chosen)
            say_fewer_keys(session, before, (), chosen)

    def _paste_layers(self, held: Project) -> None:
        session = self.session
        layers = session.composition.layers
        index = min((i for i, layer in enumerate(layers) if layer.id in session.selected), default=0)
        notes: list[str] = []

        def change(project: Project) -> tuple[Project, tuple[str, ...]]:
            pasted = put_in(project, session.composition_id, held, index)
            notes.extend(pasted.notes)
            return pasted.project, pasted.layers

        if session.edit_whole("Paste layers", change) and notes:
            session.said.emit(" ".join(notes[:4]))


def _picture(mime: QMimeData) -> Callable[[], bytes]:
    """Return what gives the picture on the clipboard as PNG, losing nothing where it is one already."""
    if mime.hasFormat("image/png"):
        held = mime.data("image/png")
        return lambda: held.data()
    image = QImage(mime.imageData())

    def pack() -> bytes:
        # Through a file in memory: taking many bytes out of a Qt array would hold the interpreter's lock.
        with open(os.memfd_create("spiralis-clipboard"), "rb+", buffering=0) as memory:
            file = QFile()
            if not file.open(memory.fileno(), QFile.OpenModeFlag.WriteOnly) or not image.save(file, "PNG"):
                raise SpiralisError("The picture on the clipboard cannot be read; copy it once more.")
            file.close()
            memory.seek(0)
            return memory.read()

    return pack


def _orphaned(layers: tuple[Layer, ...]) -> tuple[Layer, ...]:
    ids = {layer.id for layer in layers}
    return tuple(layer if layer.parent in ids else evolve(layer, parent=None) for layer in layers)
