"""Bringing files in: read in the background, asked about where there is a choice, put in as one step."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path

from attrs import evolve, frozen
from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QWidget

from spiralis.app.project.files import Files
from spiralis.app.project.import_dialog import Choices, ImportDialog, loose_pictures, runs_in_question
from spiralis.app.session import Session
from spiralis.app.widgets.file_dialogs import ask_open, ask_open_several, files_with
from spiralis.app.work.background import Background
from spiralis.app.work.beside import beside
from spiralis.core.editing.artwork import Timing, as_composition, replace_content
from spiralis.core.editing.edits import set_value, unused_name
from spiralis.core.editing.importing import Gathered, brought_in, gather, import_suffixes, new_project
from spiralis.core.editing.sources import picture_layer
from spiralis.core.errors import SpiralisError
from spiralis.core.media.layered_files import LAYERED_SUFFIXES, layers_of
from spiralis.core.media.pictures import picture_source
from spiralis.core.model import Layer, Project
from spiralis.core.raster.fonts import face_of

_MOST_NOTES = 6
Place = tuple[float, float]


@frozen
class Landing:
    """Where files come to lie: at a place of the frame, behind so many layers; ``words`` take a font as theirs.

    ``piece`` is the id of the composition, empty for the one that is on the canvas when they are asked for.
    """

    at: Place | None = None
    index: int = 0
    words: str | None = None
    piece: str = ""


ANYWHERE = Landing()


def _in_font(project: Project, piece_id: str, found: Gathered, words: str | None, frame: int) -> Project:
    """Return the project with a text layer set in the font that was brought in."""
    faces = [face for source in found.sources if source.sort.sets_words and (face := face_of(source)) is not None]
    piece = project.composition(piece_id)
    layer = piece.find(words) if words is not None else None
    if layer is None or not faces:
        return project
    return project.with_composition(piece.with_layer(set_value(layer, "font", faces[0].family, frame)))


class Importer(QObject):
    """Brings files into the session's project. ``ask`` returns the person's choices, or None to stop."""

    progressed = pyqtSignal(int, int)
    finished = pyqtSignal()

    def __init__(self, session: Session, window: QWidget) -> None:
        super().__init__(window)
        self.session, self.window_ = session, window
        self.background = Background(self, change=True)
        self.ask: Callable[[Gathered], Choices | None] = self._ask
        self.progressed.connect(self._say_progress)

    @property
    def busy(self) -> bool:
        """Whether files are still being read."""
        return self.background.busy > 0

    def choose(self) -> None:
        """Ask for files and bring them in."""
        kinds = files_with("Artwork", import_suffixes())
        paths = ask_open_several(self.window_, "artwork", "Bring artwork in", kinds)
        if paths:
            self.bring(paths)

    def choose_piece(self) -> None:
        """Ask for a layered file and open it as a composition of its own size."""
        kinds = files_with("Layered artwork", LAYERED_SUFFIXES)
        path = ask_open(self.window_, "artwork", "Open artwork as a piece", kinds)
        if path is not None:
            self.bring([path], choices=Choices("piece"))

    def bring(self, paths: Sequence[Path], landing: Landing = ANYWHERE, choices: Choices | None = None) -> None:
        """Read files in the background, then bring them in; what fails is said in a sentence each.

        They come into the piece that was on the canvas when they were asked for, and into no other project.
        """
        project, history = self.session.project, self.session.history
        landing = evolve(landing, piece=landing.piece or self.session.composition_id)
        sequences = choices is None or choices.pictures == "footage"

        def take(found: Gathered | Exception) -> None:
            if self.session.history is history:
                self._take(found, paths, landing, choices)
            else:
                names = paths[0].name if len(paths) == 1 else f"{len(paths)} files"
                self.session.failed.emit(f"{names} did not come in: another project was opened meanwhile.")
                self.finished.emit()

        self.background.run(lambda: gather(paths, project, sequences, self.progressed.emit), take)

    def start_project(self, paths: Sequence[Path], files: Files) -> None:
        """Make a new project of artwork: a piece a layered file, and one for everything else."""
        self.background.run(
            lambda: new_project(gather(paths, Project(), progress=self.progressed.emit), paths[0].stem),
            lambda made: self._started(made, files),
        )

    def _started(self, made: tuple[Project, tuple[str, ...]] | Exception, files: Files) -> None:
        if isinstance(made, Exception):
            self.session.failed.emit(str(made))
        else:
            files.start(made[0])
            self._say_notes(made[1])
        self.finished.emit()

    def _say_progress(self, done: int, total: int) -> None:
        if total > 1:
            self.session.said.emit(f"Reading {done + 1} of {total} files …")

    def _take(
        self, found: Gathered | Exception, paths: Sequence[Path], landing: Landing, choices: Choices | None
    ) -> None:
        if isinstance(found, Exception):
            self.session.failed.emit(f"The files could not be read: {found}")
        elif found.names:
            choices = choices or self.ask(found)
            if choices is not None and choices.pictures != "footage" and found.runs:
                # The numbered ones are to be pictures after all.
                self.bring(paths, landing, choices)
                return
            if choices is not None:
                self._apply(found, landing, choices)
        elif not found.problems:
            self.session.failed.emit("There is nothing in there that can be brought in.")
        if isinstance(found, Gathered) and found.problems:
            self.session.failed.emit("\n".join(found.problems))
        self.finished.emit()

    def _ask(self, found: Gathered) -> Choices | None:
        if not found.layered and len(loose_pictures(found)) < 2 and not runs_in_question(found):
            return Choices()
        dialog = ImportDialog(self.window_, found)
        return dialog.choices() if dialog.exec() else None

    def _apply(self, found: Gathered, landing: Landing, choices: Choices) -> None:
        session = self.session
        piece_id = landing.piece if session.project.find(landing.piece) is not None else session.composition_id
        try:
            if choices.layered in ("piece", "replace") and found.layered:
                self._whole_pieces(found, choices, piece_id)
                found = evolve(found, layered=[])
                if not found.names:
                    return
            imported = brought_in(
                session.project, piece_id, found, landing.at, choices.layered, choices.nested,
                choices.pictures == "flipbook", landing.index,
            )  # fmt: skip
        except SpiralisError as error:
            session.failed.emit(str(error))
            return
        names = found.names
        step = f"Import {names[0]}" if len(names) == 1 else f"Import {len(names)} files"
        session.edit_project(step, _in_font(imported.project, piece_id, found, landing.words, session.frame))
        if imported.layers and piece_id == session.composition_id:
            session.select(imported.layers)
        elif imported.layers:
            name = session.project.composition(piece_id).name
            session.said.emit(f"What came in lies in “{name}”, where it was asked for.")
        self._say_notes(imported.notes)

    def _whole_pieces(self, found: Gathered, choices: Choices, piece_id: str) -> None:
        session = self.session
        old = session.project.composition(piece_id)
        for path, layered in found.layered:
            if choices.layered == "replace":
                project = replace_content(session.project, old, layered, str(path), choices.nested)
                session.edit_project(f"Replace the content by {path.name}", project, locked_too=True)
            else:
                timing = Timing(old.rate, old.length)
                project, piece = as_composition(session.project, layered, str(path), timing, choices.nested)
                session.edit_project(f"Open {path.name}", project)
                session.show_composition(piece.id)
            self._say_notes(layered.notes)

    def _say_notes(self, notes: Sequence[str]) -> None:
        if notes:
            more = f" And {len(notes) - _MOST_NOTES} more." if len(notes) > _MOST_NOTES else ""
            self.session.said.emit(" ".join(notes[:_MOST_NOTES]) + more)

    # -- from the clipboard and the drawer ---------------------------------------------------------------

    def paste_picture(self, data: Callable[[], bytes]) -> None:
        """Bring a picture from the clipboard in; ``data`` gives its bytes, beside the window."""
        source = beside(lambda: picture_source(data(), "Pasted picture"))
        self._apply(Gathered([source]), ANYWHERE, Choices())

    def paste_svg(self, data: bytes) -> None:
        """Bring SVG text from the clipboard in."""
        project = self.session.project
        layered = beside(lambda: layers_of(data, "Pasted drawing.svg", project))
        self._apply(Gathered([], [(Path("Pasted drawing.svg"), layered)]), ANYWHERE, Choices())

    def place(self, item_id: str, at: Place | None = None, index: int | None = None) -> None:
        """Add a layer that shows a source or a composition of the project, at a place of the frame or of the order."""
        session = self.session
        project, piece = session.project, session.composition
        layer = self._layer_of(project, item_id, at)
        if layer is None:
            return
        layers = list(piece.layers)
        layers.insert(index or 0, layer)
        if session.edit(f"Add {layer.name}", lambda old: evolve(old, layers=tuple(layers))):
            session.select([layer.id])

    def _layer_of(self, project: Project, item_id: str, at: Place | None) -> Layer | None:
        piece = self.session.composition
        source, inner = project.source(item_id), project.find(item_id)
        taken = {layer.name for layer in piece.layers}
        if source is not None and source.shows:
            layer = picture_layer(source, piece, at)
        elif inner is not None:
            share = min(1.0, piece.width / inner.width, piece.height / inner.height)
            layer = Layer(inner.name, "nested", 0, piece.length).with_values(
                composition=inner.id, position=at or (piece.width / 2, piece.height / 2),
                scale=(round(100 * share, 2),) * 2,
            )  # fmt: skip
        else:
            return None
        return evolve(layer, name=unused_name(layer.name, taken))
