"""The table of variants: a row a version, a column a slot; problems marked before anything is drawn; export of all."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial
from pathlib import Path

import numpy as np
from attrs import evolve, frozen
from PyQt6.QtCore import QSize, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QBrush, QGuiApplication, QHideEvent, QPixmap, QShowEvent
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QHeaderView,
    QLabel,
    QPushButton,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from spiralis.app.fillin.grid import VariantsGrid
from spiralis.app.fillin.slot_dialog import home_of
from spiralis.app.session import Session
from spiralis.app.style import ALARM, MINT, TEXT, colour
from spiralis.app.widgets.file_dialogs import ask_folder, ask_open, ask_save
from spiralis.app.widgets.images import true_icon
from spiralis.app.work.background import Background, SmallPictures
from spiralis.app.work.soon import Soon
from spiralis.core.editing.slots import OpenSlot, open_slots
from spiralis.core.errors import SpiralisError
from spiralis.core.media.files import write_whole
from spiralis.core.model import Composition, Kind, Project
from spiralis.core.model.slots import Variant
from spiralis.core.render.frame import render_rgba8
from spiralis.core.variants.cells import as_cell
from spiralis.core.variants.orders import Batch, pictures_folder
from spiralis.core.variants.problems import contrast_problem, row_problems
from spiralis.core.variants.table import as_copied, read_table, with_cells, write_table

_PICTURE = 44
#: The part of the piece's time at which the small pictures are taken.
_MOMENT = 0.4
_READY, _PICTURES_IN = "ready", "Pictures in…"
_HINT = "Each row is a version of the piece. Add a row, open a table, or paste cells that were copied from one."
#: So many rows are judged before the window hears of them.
_AT_ONCE = 12


@frozen(eq=False)
class _Judged:
    """What is wrong with some rows from one on, and with which of their cells."""

    batch: Batch
    first: int
    rows: tuple[tuple[dict[str, str], str], ...]


class VariantsTable(QWidget):
    """Rows as they are in the project; choosing one shows it. ``rowsChanged`` tells of other rows."""

    rowsChanged = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.slots: tuple[OpenSlot, ...] = ()
        self._filling = False
        self.table = VariantsGrid()
        self.table.setIconSize(QSize(_PICTURE, _PICTURE))
        self.table.verticalHeader().setDefaultSectionSize(_PICTURE + 8)
        self.table.pasteAsked.connect(self.paste)
        self.table.copyAsked.connect(self.copy)
        self.table.clearAsked.connect(self.clear)
        self.table.cellChanged.connect(self._take_cell)
        self.table.itemSelectionChanged.connect(self._show_chosen)
        self.table.verticalScrollBar().valueChanged.connect(lambda _: self._show_pictures())
        self.about = QLabel()
        self.about.setObjectName("Quiet")
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addLayout(self._head())
        column.addWidget(self.table, 1)
        self._pictures = SmallPictures(self)
        self._pictures.made.connect(self._show_pictures)
        self._background = Background(self)
        self._soon = Soon(self, self._judge, wait=300, rests=True)
        self._show_soon = QTimer(self)
        self._show_soon.setSingleShot(True)
        self._show_soon.timeout.connect(self._show_chosen)
        session.projectChanged.connect(self.refresh)
        session.compositionChanged.connect(self.refresh)

    def _head(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.addWidget(self.about, 1)
        for label, tip, act in (
            ("Open a table…", "CSV or TSV; its first row names the slots, its pictures lie beside it", self.ask_open),
            (_PICTURES_IN, "The folder of the pictures that the table names", self.ask_folder),
            ("Save as CSV…", "Write the table to a file", self.ask_save),
            ("Add a row", "A row that holds what the slots hold now", self.add_row),
            ("Remove the row", "Take the chosen row out of the table", self.remove_row),
        ):
            button = QPushButton(label)
            button.setAutoDefault(False)
            button.setToolTip(tip)
            button.setStyleSheet("padding: 5px 9px;")
            button.clicked.connect(lambda _=False, act=act: act())
            if label == _PICTURES_IN:
                self.pictures_in = button
            row.addWidget(button)
        return row

    # -- the rows --------------------------------------------------------------------------------------

    @property
    def batch(self) -> Batch:
        """The table as it is now."""
        project, home = self.session.project, home_of(self.session)
        return Batch(project, home, home.variants, pictures_folder(home, self.session.path))

    def refresh(self) -> None:
        """Show the rows as they are now."""
        if not self.isVisible():
            return
        batch = self.batch
        self.slots = batch.slots
        names = [slot.name for slot in self.slots]
        self._filling = True
        self.table.setColumnCount(len(names) + 2)
        self.table.setHorizontalHeaderLabels(["", *names, "State"])
        self.table.setRowCount(len(batch.rows))
        for place, row in enumerate(batch.rows):
            for index, slot in enumerate(self.slots):
                self._put(place, index + 1, row.cell(slot.name) or "", slot, batch.project)
            self._put(place, 0, "", None, batch.project)
            self._put(place, len(names) + 1, "…", None, batch.project)
        self._filling = False
        head = self.table.horizontalHeader()
        for index in range(len(names) + 2):
            mode = QHeaderView.ResizeMode.Stretch if index == len(names) + 1 else QHeaderView.ResizeMode.Interactive
            head.setSectionResizeMode(index, mode)
        self.table.setColumnWidth(0, _PICTURE + 16)
        self.table.widen(len(names))
        count = len(batch.rows)
        shows = any(slot.kind(batch.project) is Kind.SOURCE for slot in self.slots)
        self.pictures_in.setVisible(shows)
        where = f" · pictures from {batch.folder.name}" if shows and batch.folder is not None else ""
        self.about.setText(f"{count} {'row' if count == 1 else 'rows'}{where}" if names else "Make a slot first")
        self.table.hint = _HINT if names else ""
        self.rowsChanged.emit()
        self._soon.ask()

    def _put(self, row: int, column: int, text: str, slot: OpenSlot | None, project: Project) -> None:
        item = self.table.item(row, column)
        if item is None:
            item = QTableWidgetItem()
            self.table.setItem(row, column, item)
        if slot is None:
            item.setFlags(Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable)
        elif not text:
            held = as_cell(project, slot)
            item.setToolTip(f"Stays as it is: {held}" if held else "Stays as it is")
        item.setText(text)
        if slot is not None and slot.kind(project) is Kind.COLOUR and text.startswith("#"):
            swatch = QPixmap(self.table.iconSize())
            swatch.fill(colour(text))
            item.setIcon(true_icon(swatch))
        elif slot is not None:
            item.setData(Qt.ItemDataRole.DecorationRole, None)

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.refresh()

    def hideEvent(self, event: QHideEvent | None) -> None:
        super().hideEvent(event)
        self.session.peek.end()

    def _edit(self, name: str, rows: Sequence[Variant], folder: Path | None = None) -> None:
        home = home_of(self.session)
        where = str(folder.absolute()) if folder is not None else home.variants_folder
        piece = evolve(home, variants=tuple(rows), variants_folder=where)
        self.session.edit_project(name, self.session.project.with_composition(piece))

    def _take_cell(self, row: int, column: int) -> None:
        if self._filling or not 1 <= column <= len(self.slots):
            return
        rows = list(self.batch.rows)
        item = self.table.item(row, column)
        if item is None or row >= len(rows):
            return
        name, text = self.slots[column - 1].name, item.text()
        rows[row] = rows[row].with_cell(name, text or None)
        self._edit(f"“{name}” of row {row + 1}", rows)
        self._show_soon.start(0)

    def add_row(self) -> None:
        """Add a row that holds what the slots hold now, after the chosen one."""
        if not self.slots:
            self.session.failed.emit("This piece has no slots yet; make one with the ⋮ beside a property in Details.")
            return
        project, rows = self.session.project, list(self.batch.rows)
        row = Variant(tuple((slot.name, as_cell(project, slot)) for slot in self.slots))
        place = self.table.currentRow() + 1 if self.chosen is not None else len(rows)
        rows.insert(place, row)
        self._edit("Add a row", rows)
        self.table.selectRow(place)

    def remove_row(self) -> None:
        """Take the chosen row out."""
        place = self.chosen
        if place is None:
            self.session.failed.emit("Choose the row that is to go.")
            return
        self._edit("Remove a row", [row for index, row in enumerate(self.batch.rows) if index != place])

    def paste(self) -> None:
        """Take cells that were copied from a table elsewhere, from the current cell on."""
        board = QGuiApplication.clipboard()
        text = board.text() if board is not None else ""
        if not self.slots or not text.strip():
            self.session.failed.emit("Copy cells of a table first; they go into the slots from the chosen cell on.")
            return
        rows = self.batch.rows
        row = self.chosen if self.chosen is not None else len(rows)
        column = max(self.table.currentColumn() - 1, 0) if self.chosen is not None else 0
        try:
            now = [as_cell(self.session.project, slot) for slot in self.slots]
            table = with_cells(rows, [slot.name for slot in self.slots], text, row, column, now)
        except SpiralisError as error:
            self.session.failed.emit(str(error))
            return
        self._edit("Paste into the table", table.rows)
        if table.strange:
            self.session.said.emit(" ".join(table.notes()))
        self.table.setCurrentCell(row, column + 1)
        self._show_soon.start(0)

    def copy(self) -> None:
        """Copy the chosen row for a table elsewhere."""
        board = QGuiApplication.clipboard()
        if self.chosen is not None and board is not None:
            board.setText(as_copied([slot.name for slot in self.slots], self.batch.rows[self.chosen]))

    def clear(self) -> None:
        """Empty the current cell: its slot stays as it is."""
        item = self.table.currentItem()
        if item is not None and item.flags() & Qt.ItemFlag.ItemIsEditable:
            item.setText("")

    @property
    def chosen(self) -> int | None:
        """The number of the chosen row, from 0."""
        rows = self.table.selectionModel().selectedRows() if self.table.selectionModel() is not None else []
        return rows[0].row() if rows else None

    # -- files -----------------------------------------------------------------------------------------

    def ask_open(self) -> None:
        """Ask for a table and take its rows in place of those that are here."""
        path = ask_open(self, "table", "Open a table", "Tables (*.csv *.tsv *.tab *.txt)")
        if path is not None:
            self.open(path)

    def open(self, path: Path) -> None:
        """Take the rows of a table in place of those that are here; undo brings those back."""
        try:
            table = read_table(path, [slot.name for slot in open_slots(self.session.project, home_of(self.session))])
        except SpiralisError as error:
            self.session.failed.emit(str(error))
            return
        before = len(self.batch.rows)
        self._edit(f"Rows of {path.name}", table.rows, path.parent)
        told = [f"{len(table.rows)} rows from {path.name}.", *table.notes()]
        if before:
            told.append(f"They took the place of {before}; undo brings those back.")
        self.session.said.emit(" ".join(told))
        self.refresh()

    def ask_folder(self) -> None:
        """Ask for the folder that the pictures lie in."""
        folder = ask_folder(self, "table", "The pictures of the table lie in")
        if folder is not None:
            self._edit("Where the pictures lie", self.batch.rows, folder)

    def ask_save(self) -> None:
        """Write the table to a file that is asked for."""
        path = ask_save(self, "table", "Save as CSV", f"{home_of(self.session).name}.csv", "CSV (*.csv)")
        if path is None:
            return
        try:
            write_whole(path, write_table([slot.name for slot in self.slots], self.batch.rows))
        except SpiralisError as error:
            self.session.failed.emit(str(error))
            return
        self.session.said.emit(f"Wrote {path.name}.")

    # -- what the rows look like -----------------------------------------------------------------------

    def _show_chosen(self) -> None:
        """Let the chosen row play beside the table, without an edit."""
        place, batch = self.chosen, self.batch
        if self._filling or not self.isVisible():
            return
        if place is None or place >= len(batch.rows):
            self.session.peek.end()
            return
        try:
            self.session.peek.show_project(batch.project_for(batch.rows[place]))
        except SpiralisError as error:
            self.session.peek.end()
            self.session.failed.emit(f"Row {place + 1}: {error}")

    def _judge(self) -> None:
        """Look for what is wrong with the rows, beside the window."""
        self._judge_from(self.batch, 0)
        self._show_pictures()

    def _judge_from(self, batch: Batch, first: int) -> None:
        """Judge some rows from one on, then those after them, as long as the table stays as it is."""

        def work() -> _Judged:
            made: list[tuple[dict[str, str], str]] = []
            slots = batch.slots
            for row in batch.rows[first : first + _AT_ONCE]:
                found = row_problems(batch.project, slots, row, batch.folder)
                weak = "" if found else contrast_problem(batch.project, batch.piece, slots, row, batch.folder)
                made.append((found, weak))
            return _Judged(batch, first, tuple(made))

        def done(found: object) -> None:
            now = self.batch
            if isinstance(found, _Judged) and batch.project is now.project and batch.folder == now.folder:
                self._show_states(found)
                if first + _AT_ONCE < len(batch.rows) and self.isVisible():
                    self._judge_from(batch, first + _AT_ONCE)

        if batch.rows:
            self._background.run(work, done)

    def _show_states(self, judged: _Judged) -> None:
        self._filling = True
        state = len(self.slots) + 1
        for place, (cells, contrast) in enumerate(judged.rows, judged.first):
            if place >= self.table.rowCount():
                break
            told = "; ".join(f"{name}: {problem}" for name, problem in cells.items()) or contrast
            item = self.table.item(place, state)
            if item is not None:
                item.setText(told or _READY)
                item.setToolTip(told)
                item.setForeground(QBrush(colour(ALARM if told else MINT)))
            for index, slot in enumerate(self.slots):
                cell = self.table.item(place, index + 1)
                if cell is not None:
                    cell.setForeground(QBrush(colour(ALARM if slot.name in cells else TEXT)))
                    cell.setToolTip(cells.get(slot.name, cell.toolTip()))
        self._filling = False
        self.rowsChanged.emit()

    @property
    def states(self) -> list[str]:
        """What is said of each row."""
        last = self.table.columnCount() - 1
        return [item.text() if (item := self.table.item(row, last)) else "" for row in range(self.table.rowCount())]

    def _show_pictures(self) -> None:
        batch, version = self.batch, self.session.version
        self._filling = True
        # Those in sight: a table may have thousands.
        top, bottom = (self.table.rowAt(y) for y in (0, self.table.viewport().height() - 1))
        last = bottom + 1 if bottom >= 0 else self.table.rowCount()
        for place in range(max(top, 0), min(last, len(batch.rows))):
            picture = self._pictures.of((version, place, str(batch.folder)), partial(_small, batch, place))
            item = self.table.item(place, 0)
            if picture is not None and item is not None and not picture.isNull():
                item.setIcon(true_icon(picture))
        self._filling = False


def _small(batch: Batch, place: int) -> np.ndarray | None:
    try:
        project = batch.project_for(batch.rows[place])
    except SpiralisError:
        return None
    piece: Composition = project.composition(batch.piece.id)
    first, last = piece.span
    frame = first + int(_MOMENT * (last - first))
    return render_rgba8(project, piece.id, frame, 2 * _PICTURE / max(piece.width, piece.height))
