"""What is dropped on the window: files, artwork from another program, rows of the drawer."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QMimeData, QPointF
from PyQt6.QtWidgets import QWidget

from spiralis.app.commands.clipboard import Clipboard
from spiralis.app.project.files import Files
from spiralis.app.project.importing import Importer
from spiralis.app.sources.listing import MIME
from spiralis.app.timeline.layout import row_at
from spiralis.app.workspace.editor import Editor
from spiralis.core.storage.project_file import SUFFIX


class Dropping:
    """Takes what is dropped; places are the main window's."""

    def __init__(self, window: QWidget, editor: Editor, files: Files, importer: Importer, clipboard: Clipboard) -> None:
        self.window, self.editor = window, editor
        self.files, self.importer, self.clipboard = files, importer, clipboard

    def takes(self, mime: QMimeData) -> bool:
        """Whether something can be made of what is dragged over the window."""
        files = mime.hasUrls() and any(url.isLocalFile() for url in mime.urls())
        return mime.hasFormat(MIME) or files or (self.editor.isVisible() and self.clipboard.holds_artwork(mime))

    def take(self, mime: QMimeData, at: QPointF) -> None:
        """Take it."""
        paths = [Path(url.toLocalFile()) for url in mime.urls() if url.isLocalFile()]
        if mime.hasFormat(MIME):
            self._take_source(mime.data(MIME).data().decode(), at)
        elif paths:
            self.take_files(paths, at)
        else:
            # A picture dragged out of another program's window.
            self.clipboard.take_artwork(mime)

    def take_files(self, paths: list[Path], at: QPointF | None = None) -> None:
        """Open a dropped project, or bring other files in; over the canvas they land where they are dropped."""
        projects = [path for path in paths if path.suffix.lower() == SUFFIX]
        if projects:
            self.files.open(projects[0])
        elif not self.editor.isVisible():
            self.importer.start_project(paths, self.files)
        else:
            self.importer.bring(paths, self._place_on_canvas(at) if at is not None else None)

    def _take_source(self, item_id: str, at: QPointF) -> None:
        """Add a row of the drawer where it is dropped: a place of the frame, or of the order in the timeline."""
        rows = self.editor.timeline.rows
        inside = rows.mapFrom(self.window, at.toPoint())
        row = row_at(rows.rows(), inside.y()) if rows.visibleRegion().contains(inside) else None
        if row is not None:
            self.importer.place(item_id, None, self.editor.session.composition.layers.index(row.layer))
        else:
            self.importer.place(item_id, self._place_on_canvas(at))

    def _place_on_canvas(self, at: QPointF) -> tuple[float, float] | None:
        canvas = self.editor.canvas
        inside = canvas.mapFrom(self.window, at.toPoint())
        return canvas.viewport.to_composition(inside.toPointF()) if canvas.rect().contains(inside) else None
