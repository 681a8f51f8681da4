"""Adding layers: the strip above the canvas, files from dialogs and drops."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path

from attrs import evolve
from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QFileDialog, QHBoxLayout, QToolButton, QWidget

from spiralis.app.session import Session
from spiralis.app.style import icon
from spiralis.core.editing.edits import unused_name
from spiralis.core.errors import SpiralisError
from spiralis.core.media.sources import SOURCE_SUFFIXES, read_source
from spiralis.core.model import Composition, Layer, Source, layer_kind

FILE_FILTER = "Pictures and fonts (" + " ".join(f"*{suffix}" for suffix in SOURCE_SUFFIXES) + ")"


def new_layer(session: Session, kind: str, name: str, **values: object) -> Layer:
    """Return a layer in the middle of the frame over the whole composition."""
    piece = session.composition
    name = unused_name(name, {layer.name for layer in piece.layers})
    centre = (piece.width / 2, piece.height / 2)
    return Layer(name, kind, 0, piece.length).with_values(position=centre, **values)


def add_layer(session: Session, layer: Layer, at_back: bool = False) -> None:
    """Put a layer on top of the chosen one (at the back for backdrops) and choose it."""
    layers = list(session.composition.layers)
    ids = [other.id for other in layers]
    index = len(layers) if at_back else min((ids.index(i) for i in session.selected if i in ids), default=0)
    layers.insert(index, layer)
    label = layer_kind(layer.kind).label

    def change(piece: Composition) -> Composition:
        return evolve(piece, layers=tuple(layers))

    if session.edit(f"Add {label}", change):
        session.select([layer.id])


def add_text(session: Session) -> Layer:
    """Add a text layer of a size that suits the frame."""
    piece = session.composition
    layer = new_layer(
        session, "text", "Text", text="Text", size=float(round(min(piece.width, piece.height) / 7)), weight=700.0
    )
    add_layer(session, layer)
    return layer


def add_backdrop(session: Session) -> None:
    """Add a backdrop behind everything."""
    add_layer(session, new_layer(session, "backdrop", "Backdrop"), at_back=True)


def import_files(session: Session, paths: Iterable[Path], at: tuple[float, float] | None = None) -> int:
    """Bring pictures (each becomes a layer that fits the frame) and fonts into the project.

    Files that cannot be read are named in a sentence each; the others still come in. Returns how many did.
    """
    sources, problems = [], []
    for path in paths:
        try:
            sources.append(read_source(path))
        except SpiralisError as error:
            problems.append(str(error))
    if sources:
        _bring_in(session, sources, at)
    if problems:
        session.failed.emit("\n".join(problems))
    return len(sources)


def _bring_in(session: Session, sources: list[Source], at: tuple[float, float] | None) -> None:
    project, piece, made = session.project, session.composition, []
    for source in sources:
        project, source = project.with_source(source)
        if source.kind != "picture":
            session.said.emit(f"The font {source.name} is now among the fonts of text layers.")
            continue
        layer = new_layer(session, "picture", Path(source.name).stem, source=source.id)
        share = min(1.0, 0.8 * piece.width / source.width, 0.8 * piece.height / source.height)
        layer = layer.with_values(scale=(round(100 * share, 2), round(100 * share, 2)))
        made.append(layer.with_values(position=at) if at is not None else layer)
    changed = evolve(piece, layers=(*made, *piece.layers))
    name = f"Import {sources[0].name}" if len(sources) == 1 else f"Import {len(sources)} files"
    session.edit_project(name, project.with_composition(changed))
    if made:
        session.select([layer.id for layer in made])


class AddStrip(QWidget):
    """Buttons in the order of the work."""

    textAdded = pyqtSignal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setObjectName("Panel")
        self.setFixedHeight(40)
        row = QHBoxLayout(self)
        row.setContentsMargins(10, 4, 10, 4)
        row.setSpacing(4)
        self.backdrop = self._button(
            "Backdrop", "backdrop", "Add a backdrop behind everything", lambda: add_backdrop(session)
        )
        self.picture = self._button("Picture", "picture", "Bring pictures or fonts in (Ctrl+I)", self.choose_files)
        self.text = self._button("Text", "text", "Add words and type them (Ctrl+T)", self.add_text)
        for button in (self.backdrop, self.picture, self.text):
            row.addWidget(button)
        row.addStretch(1)

    def _button(self, text: str, picture: str, help: str, action) -> QToolButton:  # type: ignore[no-untyped-def]
        button = QToolButton()
        button.setObjectName("Flat")
        button.setText(text)
        button.setIcon(icon(picture, "#f5b23d"))
        button.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextBesideIcon)
        button.setToolTip(help)
        button.clicked.connect(lambda: action())
        return button

    def add_text(self) -> None:
        """Add words and let the person type them at once."""
        layer = add_text(self.session)
        self.textAdded.emit(layer.id)

    def choose_files(self) -> None:
        """Ask for files and bring them in."""
        names, _ = QFileDialog.getOpenFileNames(self, "Bring pictures and fonts in", "", FILE_FILTER)
        if names:
            import_files(self.session, [Path(name) for name in names])
