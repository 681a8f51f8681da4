"""One file for each row of a table and each format: what is to be written where, filled in only when its turn comes."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any

from attrs import frozen

from spiralis.core.editing.reframing import settled
from spiralis.core.editing.slots import OpenSlot, open_slots
from spiralis.core.errors import ModelError
from spiralis.core.media.exporters import Exporter, ExportJob
from spiralis.core.model import Composition, Project
from spiralis.core.model.slots import Variant
from spiralis.core.variants.cells import as_cell, filled_by
from spiralis.core.variants.naming import file_name, unlike


def pictures_folder(piece: Composition, file: Path | None) -> Path | None:
    """Return where the pictures of a piece's table lie: where they were, as long as that is there, or beside the
    project's ``file``; None where there is neither."""
    noted = Path(piece.variants_folder) if piece.variants_folder else None
    if noted is not None and noted.is_dir():
        return noted
    return file.parent if file is not None else noted


@frozen
class Order:
    """A file to be: the row (its number counts from 0), the composition that is written, and where to."""

    number: int
    row: Variant
    piece: str
    path: Path


@frozen(eq=False)
class Batch:
    """A table to be written: the piece whose slots its rows fill, and where its pictures lie."""

    project: Project
    piece: Composition
    rows: tuple[Variant, ...]
    folder: Path | None = None

    @property
    def slots(self) -> tuple[OpenSlot, ...]:
        """The slots that the rows fill."""
        return open_slots(self.project, self.piece)

    def orders(self, formats: Sequence[Composition], goal: Path, pattern: str, kind: Exporter) -> tuple[Order, ...]:
        """Return one order for each row and format, every file under another name.

        Raises:
            ModelError: the pattern knows no such field, or there are no rows.
        """
        if not self.rows:
            raise ModelError("The table has no rows; add one, or open a table.")
        slots = self.slots
        usual = {slot.name: as_cell(self.project, slot) for slot in slots}
        made = []
        for number, row in enumerate(self.rows):
            cells = {**usual, **{name: text for name, text in row.cells if text.strip()}}
            for form in formats:
                size = f"{form.width}x{form.height}"
                made.append((number, row, form.id, file_name(pattern, cells, number, size, self.piece.name)))
        names = unlike([name for *_, name in made])
        return tuple(
            Order(number, row, form, goal / f"{name}{kind.suffix}")
            for (number, row, form, _), name in zip(made, names, strict=True)
        )

    def project_for(self, row: Variant) -> Project:
        """Return the project with a row filled in, its formats along; raises SpiralisError with one sentence."""
        return settled(self.project, filled_by(self.project, self.piece.id, self.slots, row, self.folder))

    def job(self, order: Order, settings: Mapping[str, Any], scale: float = 1.0) -> ExportJob:
        """Return what writes an order's file; raises SpiralisError where a cell means nothing."""
        project = self.project_for(order.row)
        first, last = project.composition(order.piece).span
        return ExportJob(project, order.piece, order.path, first, last, scale, dict(settings))
