"""What is dropped on the window: files, artwork from another program, rows of the drawer."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QMimeData, QPoint, QPointF, QRect, QSize
from PyQt6.QtWidgets import QWidget

from spiralis.app.canvas.hand import SNAP
from spiralis.app.canvas.picking import layer_at
from spiralis.app.canvas.snapping import snap_point
from spiralis.app.canvas.surroundings import lines_around
from spiralis.app.commands.clipboard import Clipboard
from spiralis.app.project.files import Files
from spiralis.app.project.importing import Importer, Landing
from spiralis.app.sources.acting import SourceActions
from spiralis.app.sources.listing import ENTRY, MIME
from spiralis.app.timeline.layout import Row, row_at
from spiralis.app.widgets.local_files import local_files
from spiralis.app.workspace.drop_light import Target
from spiralis.app.workspace.editor import Editor
from spiralis.core.errors import legible
from spiralis.core.media.sources import sets_words
from spiralis.core.model import Layer
from spiralis.core.storage.project_file import SUFFIX


class Dropping:
    """Takes what is dropped; places are the main window's."""

    def __init__(
        self, window: QWidget, editor: Editor, files: Files, importer: Importer, clipboard: Clipboard,
        sources: SourceActions,
    ) -> None:  # fmt: skip
        self.window, self.editor, self.sources = window, editor, sources
        self.files, self.importer, self.clipboard = files, importer, clipboard

    def takes(self, mime: QMimeData) -> bool:
        """Whether something can be made of what is dragged over the window."""
        clipboard = self.clipboard
        other = self.editor.isVisible() and (clipboard.holds_picture(mime) or clipboard.holds_words(mime))
        return mime.hasFormat(MIME) or bool(local_files(mime)) or other

    def target(self, mime: QMimeData, at: QPointF) -> Target:
        """Return where something would land at a point of the window, and what would become of it."""
        paths = local_files(mime)
        if mime.hasFormat(MIME):
            return self._source_target(mime.data(MIME).data().decode(), at)
        if paths:
            return self._files_target(paths, at)
        # A picture or words dragged out of another program's window.
        here = self._landing(at)
        words = self.clipboard.holds_words(mime) and not self.clipboard.holds_svg(mime)
        label = "Set the words here" if words else "Put it into the piece"
        return Target(self._canvas_area(), label, lambda: self.clipboard.take_artwork(mime, here))

    def take(self, mime: QMimeData, at: QPointF) -> None:
        """Take it where it would land."""
        self.target(mime, at).take()

    def take_files(self, paths: list[Path]) -> None:
        """Open a project, or bring other files in."""
        self._files_target(paths, QPointF(-1, -1)).take()

    # -- targets -----------------------------------------------------------------------------------------

    def _files_target(self, paths: list[Path], at: QPointF) -> Target:
        projects = [path for path in paths if path.suffix.lower() == SUFFIX]
        whole = self.window.rect()
        if projects:
            return Target(whole, f"Open {projects[0].name}", lambda: self.files.open(projects[0]))
        if not self.editor.isVisible():
            return Target(whole, "Begin a piece with it", lambda: self.importer.start_project(paths, self.files))
        return (
            self._on_source(paths, at) or self._on_words(paths, at) or self._between_layers(paths, at)
            or self._on_canvas(paths, at)
        )  # fmt: skip

    def _on_source(self, paths: list[Path], at: QPointF) -> Target | None:
        """A file on a row of the drawer takes that file's place."""
        rows = self.editor.drawer.list
        inside = rows.viewport().mapFrom(self.window, at.toPoint())
        item = rows.itemAt(inside) if rows.isVisible() and rows.viewport().rect().contains(inside) else None
        entry = item.data(ENTRY) if item is not None else None
        if entry is None or len(paths) != 1 or self.editor.session.project.source(entry.id) is None:
            return None
        area = rows.visualItemRect(item)
        place = QRect(rows.viewport().mapTo(self.window, area.topLeft()), area.size())
        return Target(place, f"In place of {entry.name}", lambda: self.sources.replace(entry.id, paths[0]))

    def _on_words(self, paths: list[Path], at: QPointF) -> Target | None:
        """A font on words, on the canvas or in the timeline, becomes theirs."""
        if not all(sets_words(path) for path in paths):
            return None
        session, row = self.editor.session, self._row(at)
        here = self._place_on_canvas(at)
        hit = layer_at(session, here, 3.0) if here is not None else None
        layer = row.layer if row is not None else hit
        if layer is None or not layer.has("font") or layer.locked:
            return None
        area = self._row_area(row) if row is not None else self._layer_area(layer)
        landing = Landing(words=layer.id)
        return Target(area, f"As the font of {layer.name}", lambda: self.importer.bring(paths, landing))

    def _between_layers(self, paths: list[Path], at: QPointF) -> Target | None:
        gap = self._gap(at)
        if gap is None:
            return None
        index, line = gap
        return Target(line, self._order_text(index), lambda: self.importer.bring(paths, Landing(index=index)))

    def _on_canvas(self, paths: list[Path], at: QPointF) -> Target:
        landing = Landing(self._landing(at))
        what = legible(paths[0].name) if len(paths) == 1 else f"{len(paths)} files"
        return Target(self._canvas_area(), f"Bring {what} in", lambda: self.importer.bring(paths, landing))

    def _source_target(self, item_id: str, at: QPointF) -> Target:
        """A row of the drawer lands at a place of the frame, or of the order in the timeline."""
        gap, here = self._gap(at), self._landing(at)
        if gap is not None:
            index, line = gap
            return Target(line, self._order_text(index), lambda: self.importer.place(item_id, None, index))
        return Target(self._canvas_area(), "Add it here", lambda: self.importer.place(item_id, here))

    # -- places ------------------------------------------------------------------------------------------

    def _row(self, at: QPointF) -> Row | None:
        rows = self.editor.timeline.rows
        inside = rows.mapFrom(self.window, at.toPoint())
        return row_at(rows.rows(), inside.y()) if rows.visibleRegion().contains(inside) else None

    def _row_area(self, row: Row) -> QRect:
        rows = self.editor.timeline.rows
        corner = rows.mapTo(self.window, QPoint(0, round(row.top)))
        return QRect(corner, QSize(rows.width(), round(row.height)))

    def _gap(self, at: QPointF) -> tuple[int, QRect] | None:
        """Return how many layers lie in front of the nearest gap between layers in the timeline, and its line."""
        row = self._row(at)
        if row is None:
            return None
        session, rows = self.editor.session, self.editor.timeline.rows
        inside = rows.mapFrom(self.window, at.toPoint())
        own = [each for each in rows.rows() if each.layer.id == row.layer.id]
        top, bottom = own[0].top, own[-1].top + own[-1].height
        after = inside.y() > (top + bottom) / 2
        index = session.composition.place_of[row.layer.id] + after
        corner = rows.mapTo(self.window, QPoint(0, round(bottom if after else top)))
        return index, QRect(corner - QPoint(0, 1), QSize(rows.width(), 3))

    def _order_text(self, index: int) -> str:
        layers = self.editor.session.composition.layers
        return f"In front of {layers[index].name}" if index < len(layers) else "Behind everything"

    def _layer_area(self, layer: Layer) -> QRect:
        canvas, at = self.editor.canvas, self.editor.session.evaluated()
        box = (canvas.viewport.to_widget @ at.matrix(layer)).box(at.box(layer))
        corner = canvas.mapTo(self.window, QPoint(round(box[0]), round(box[1])))
        return QRect(corner, QSize(round(box[2] - box[0]), round(box[3] - box[1]))) & self._canvas_area()

    def _canvas_area(self) -> QRect:
        canvas = self.editor.canvas
        return QRect(canvas.mapTo(self.window, QPoint()), canvas.size())

    def _landing(self, at: QPointF) -> tuple[float, float] | None:
        """Return the whole pixel that the middle of something new is to lie on, pulled to the frame's and to guides."""
        here, session = self._place_on_canvas(at), self.editor.session
        if here is None or not session.view["snap"]:
            return here
        middles = [line for line in lines_around(session, []) if line.label in ("centre", "guide")]
        (x, y), _ = snap_point((float(round(here[0])), float(round(here[1]))), middles,
                               SNAP / self.editor.canvas.viewport.zoom)  # fmt: skip
        return x, y

    def _place_on_canvas(self, at: QPointF) -> tuple[float, float] | None:
        canvas = self.editor.canvas
        inside = canvas.mapFrom(self.window, at.toPoint())
        return canvas.viewport.to_composition(inside.toPointF()) if canvas.rect().contains(inside) else None
