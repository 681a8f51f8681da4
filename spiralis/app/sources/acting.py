"""What can be done to the drawer's rows."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path

from attrs import evolve
from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QInputDialog, QWidget

from spiralis.app.project.importing import Importer
from spiralis.app.session import Session
from spiralis.app.sources.entries import COMPOSITIONS, LAYERED, Entry, folders
from spiralis.app.sources.remaking import Remaking
from spiralis.app.sources.rereading import Rereading
from spiralis.app.widgets.file_dialogs import ask_folder, ask_open, files_with
from spiralis.app.work.background import Background
from spiralis.core.editing.exchanging import size_of
from spiralis.core.editing.flattening import read_one_source
from spiralis.core.editing.sources import (
    FITS,
    LONGEST_NAME,
    collected,
    keys_gone,
    linked,
    relinked,
    renamed,
    replaced,
    unused_removed,
    without_composition,
)
from spiralis.core.editing.table_pictures import tables_naming
from spiralis.core.editing.touching import made_of
from spiralis.core.errors import SpiralisError
from spiralis.core.media.layered_files import LAYERED_SUFFIXES
from spiralis.core.media.sources import source_suffixes
from spiralis.core.model import Project, Source
from spiralis.core.raster.fonts import face_of, families

_NO_FOLDER = "no folder"
_FITS = ("Fit into the old size", "Fill the old size", "Keep the scale")


class SourceActions(QObject):
    """Acts on sources, each as one undo step; files are read in the background."""

    finished = pyqtSignal()

    def __init__(self, session: Session, importer: Importer, window: QWidget) -> None:
        super().__init__(window)
        self.session, self.importer, self.window_ = session, importer, window
        self.background = Background(self, change=True)
        self.remaking = Remaking(session, self)
        self.rereading = Rereading(self, window)

    def possible(self, entry: Entry) -> tuple[str, ...]:
        """Return what can be done to a row, the usual thing first."""
        if entry.group == COMPOSITIONS:
            shown = entry.id == self.session.composition_id
            add = () if shown or not self._may_show(entry.id) else ("Add",)
            return ("Open", *add, "Rename", "Folder", *(() if shown else ("Remove",)))
        if entry.group == LAYERED:
            return ("Refresh",)
        if entry.missing:
            return ("Relink", "Replace", "Rename", "Remove")
        if entry.shows:
            return ("Add", "Replace", *(("Refresh",) if entry.file else ()), "Rename", "Remove")
        return ("Set words", "Remove") if entry.sets_words else ("Rename", "Remove")

    def _may_show(self, composition_id: str) -> bool:
        """Whether the present composition may show another one without a circle."""
        project, target = self.session.project, self.session.composition_id

        def leads_back(piece_id: str) -> bool:
            piece = project.find(piece_id)
            if piece_id == target or piece is None:
                return piece_id == target
            return any(leads_back(inner) for inner in piece.nested)

        return not leads_back(composition_id)

    def act(self, name: str, entry: Entry) -> None:
        """Do one of the possible things."""
        match name:
            case "Add":
                self.importer.place(entry.id)
            case "Set words":
                self.set_words(entry)
            case "Open":
                self.session.show_composition(entry.id)
            case "Rename":
                self._ask_name(entry)
            case "Folder":
                self._ask_piece_folder(entry)
            case "Refresh":
                self.rereading.refresh([entry.file or ""])
            case "Replace":
                self._ask_replace(entry)
            case "Relink":
                self._ask_relink(entry)
            case "Remove":
                self._remove(entry)

    def _ask_name(self, entry: Entry) -> None:
        name, sure = QInputDialog.getText(self.window_, "Rename", f"Another name for {entry.name}:", text=entry.name)
        if sure:
            self.rename(entry, name)

    def rename(self, entry: Entry, name: str) -> None:
        """Give a composition or a source another name; an empty one changes nothing."""
        name = name.strip()[:LONGEST_NAME]
        if name and name != entry.name:
            self.edit(f"Rename {entry.name}", lambda project: renamed(project, entry.id, name))

    def set_words(self, entry: Entry) -> None:
        """Set the chosen words in a font, or say that there are none."""
        source = self.session.project.source(entry.id)
        face = face_of(source) if source is not None else None
        words = [layer.id for layer in self.session.layers if layer.has("font")]
        if face is None or not words:
            self.session.said.emit(f"Choose words first; a double-click then sets them in {entry.name}.")
            return
        self.session.set_property("font", face.family, words)

    def _ask_piece_folder(self, entry: Entry) -> None:
        known = [_NO_FOLDER, *folders(self.session.project)]
        name, sure = QInputDialog.getItem(
            self.window_, "Folder", f"List {entry.name} under (choose, or type a new name):", known, 0, True
        )
        if sure:
            self.put_into_folder(entry, "" if name == _NO_FOLDER else name)

    def put_into_folder(self, entry: Entry, folder: str) -> None:
        """List a composition under a folder of this name; an empty name takes it out of any."""
        folder, piece = folder.strip()[:LONGEST_NAME], self.session.project.composition(entry.id)
        self.edit(
            f"Folder of {entry.name}", lambda project: project.with_composition(evolve(piece, folder=folder))
        )

    def bring_in(self) -> None:
        """Ask for files."""
        self.importer.choose()

    def edit(self, name: str, change: Callable[[Project], Project]) -> bool:
        """Do one undo step, or say why not; return whether it was done."""
        try:
            project = change(self.session.project)
        except SpiralisError as error:
            self.session.failed.emit(str(error))
            return False
        self.session.edit_project(name, project, locked_too=True)
        return True

    def _remove(self, entry: Entry) -> None:
        if entry.group == COMPOSITIONS:
            if len(self.session.project.compositions) > 1:
                self.edit(f"Remove {entry.name}", lambda project: without_composition(project, entry.id))
            return
        kept = tuple(source for source in self.session.project.sources if source.id != entry.id)
        if entry.uses and not self._comes_from_elsewhere(entry, kept):
            layers, them = ("1 layer uses", "it") if entry.uses == 1 else (f"{entry.uses} layers use", "them")
            self.session.failed.emit(f"{layers} “{entry.name}”; delete {them} or give {them} something else first.")
            return
        source = self.session.project.source(entry.id)
        if source is not None and source.shows and (tables := tables_naming(self.session.project, source)):
            self.session.failed.emit(
                f"The table of “{tables[0]}” names “{entry.name}”; take it out of the rows first (Fill-in view)."
            )
            return
        if made := made_of(self.session.project, entry.id):
            self.session.failed.emit(
                f"“{made[0].name}” was made of “{entry.name}” and could not be changed without it; remove that first."
            )
            return
        self.edit(f"Remove {entry.name}", lambda project: evolve(project, sources=kept))

    def _comes_from_elsewhere(self, entry: Entry, others: tuple[Source, ...]) -> bool:
        """Whether an entry is a font whose family ships, or comes from one of the other files as well."""
        project = self.session.project
        source = project.source(entry.id)
        face = face_of(source) if source is not None and source.sort.sets_words else None
        return face is not None and face.family in families(evolve(project, sources=others))

    def collect(self) -> None:
        """Read every linked file into the project."""
        if self.edit("Collect every file", collected):
            self.session.said.emit("Every file that is there now travels inside the project.")

    def link(self) -> None:
        """Keep files outside; those that came from nowhere are written to a folder that is asked for."""
        folder = ask_folder(self.window_, "artwork", "Where should the files go that lie nowhere yet?")
        if folder is not None:
            self.link_to(folder)

    def link_to(self, folder: Path) -> None:
        """Link every file, writing to a folder what lies nowhere."""
        if self.edit("Link files", lambda project: linked(project, folder)):
            self.session.said.emit("The files lie outside now; move them together with the project.")

    def remove_unused(self) -> None:
        """Drop files that nothing shows."""
        before = len(self.session.project.sources)
        if self.edit("Remove unused files", unused_removed):
            count = before - len(self.session.project.sources)
            self.session.said.emit(f"Removed {count} file{'' if count == 1 else 's'} that nothing used.")

    # -- other files for old ones ------------------------------------------------------------------------

    def _ask_file(self, title: str, suffixes: Sequence[str]) -> Path | None:
        return ask_open(self.window_, "artwork", title, files_with("Files", suffixes))

    def _ask_replace(self, entry: Entry) -> None:
        path = self._ask_file(f"Take another file in place of {entry.name}", (*LAYERED_SUFFIXES, *source_suffixes()))
        if path is None:
            return
        label, sure = QInputDialog.getItem(self.window_, "Replace", "Layers that show it:", _FITS, 0, False)
        if sure:
            self.replace(entry.id, path, FITS[_FITS.index(label)])

    def replace(self, source_id: str, path: Path, how: str = "fit") -> None:
        """Take a file in place of a source; placement and motion of its layers stay."""
        project = self.session.project
        # What keeps its scale keeps the size that its file tells.
        room = size_of(project.source(source_id)) if how != "keep" else (0.0, 0.0)
        self.background.run(
            lambda: read_one_source(path, project, room), lambda new: self._replaced(source_id, path, new, how)
        )

    def _replaced(self, source_id: str, path: Path, new: object, how: str) -> None:
        if isinstance(new, Exception):
            self.session.failed.emit(str(new))
        else:
            before = self.session.project
            old = before.source(source_id)
            self.edit(f"Replace by {path.name}", lambda project: replaced(project, source_id, new, how))
            pairs = zip(before.compositions, self.session.project.compositions, strict=True)
            if said := " ".join(filter(None, (keys_gone(a.layers, b.layers) for a, b in pairs))):
                self.session.said.emit(said)
            self.remaking.after(old, source_id)
        self.finished.emit()

    def _ask_relink(self, entry: Entry) -> None:
        path = self._ask_file(f"Where is {entry.name}?", source_suffixes())
        if path is not None:
            self.relink(entry.id, path)

    def relink(self, source_id: str, path: Path) -> None:
        """Find a missing file again; others that were missing are looked for in its folder."""
        project = self.session.project
        self.background.run(
            lambda: relinked(project, source_id, path), lambda found: self._relinked(project, source_id, path, found)
        )

    def _relinked(self, asked: Project, source_id: str, path: Path, found: tuple[Project, int] | Exception) -> None:
        if isinstance(found, Exception):
            self.session.failed.emit(str(found))
        elif self.session.project.source(source_id) is not asked.source(source_id):
            self.session.failed.emit(f"{path.name} was not taken, for what was missing was changed meanwhile.")
        else:
            # Only what was found: all else may have changed while it was looked for.
            fresh = {source.id: source for source in found[0].sources if asked.source(source.id) is not source}
            self.edit(
                f"Relink {path.name}",
                lambda project: evolve(project, sources=tuple(fresh.get(s.id, s) for s in project.sources)),
            )
            others = f" {found[1]} more in that folder followed." if found[1] else ""
            self.session.said.emit(f"Found {path.name}.{others}")
        self.finished.emit()
