"""The line under the table: as what, in which formats, under which names, and the button that puts all on the list."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PyQt6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QWidget

from spiralis.app.export.queue import ExportQueue
from spiralis.app.fillin.slot_dialog import home_of
from spiralis.app.fillin.variants import VariantsTable
from spiralis.app.library.targets import OWN_TARGETS, Target
from spiralis.app.session import Session
from spiralis.app.widgets.asking import sure
from spiralis.app.widgets.fields import CheckBox, ListField
from spiralis.app.widgets.file_dialogs import ask_folder
from spiralis.app.widgets.text_fields import TextField
from spiralis.core.editing.reframing import formats_of
from spiralis.core.errors import SpiralisError
from spiralis.core.media.exporters import ExportJob, exporter, exporters
from spiralis.core.model import Composition
from spiralis.core.variants.naming import usual_pattern
from spiralis.core.variants.orders import Batch, Order


class WritingLine(QWidget):
    """Puts a file for each row and format on the export list."""

    def __init__(self, session: Session, table: VariantsTable, queue: ExportQueue) -> None:
        super().__init__()
        self.session, self.table, self.queue = session, table, queue
        self.kinds = [kind for kind in exporters() if not kind.many_files]
        self.kind = ListField()
        self.kind.setAccessibleName("Kind of file")
        self.kind.setToolTip("As what each row is written")
        self._list_kinds()
        self.kind.opening.connect(self._list_kinds)
        self.formats = CheckBox()
        self.formats.setToolTip("Write each row in the formats of the piece, too")
        self.formats.clicked.connect(self.refresh)
        self.names = TextField()
        self.names.setAccessibleName("File names")
        self.names.setToolTip("Names from columns: {piece}, {row}, {format}, and each slot in braces")
        self.names.setMinimumWidth(150)
        self.begin = QPushButton()
        self.begin.setObjectName("Primary")
        self.begin.setAutoDefault(False)
        self.begin.clicked.connect(self.ask)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 4, 0, 0)
        row.addWidget(self.kind)
        row.addWidget(self.formats)
        row.addWidget(QLabel("Names"))
        row.addWidget(self.names, 1)
        row.addWidget(self.begin)
        table.rowsChanged.connect(self.refresh)
        self.refresh()

    def _list_kinds(self) -> None:
        """Offer the kinds of files as they are by default, and a person's own targets."""
        chosen = self.kind.currentText()
        self.kind.clear()
        for kind in self.kinds:
            self.kind.addItem(kind.label, Target("", kind.name, {s.name: s.default for s in kind.settings}))
        names = {kind.name for kind in self.kinds}
        for target in OWN_TARGETS.all():
            if target.kind in names:
                self.kind.addItem(target.name, target)
        self.kind.setCurrentIndex(max(self.kind.findText(chosen), 0))

    @property
    def pieces(self) -> tuple[Composition, ...]:
        """What each row is written in: the piece, and its formats where they are asked for."""
        home = home_of(self.session)
        more = formats_of(self.session.project, home) if self.formats.isChecked() else ()
        return (home, *more)

    def refresh(self) -> None:
        """Say how many files there will be."""
        home = home_of(self.session)
        others = len(formats_of(self.session.project, home))
        self.formats.setText(f"in all {others + 1} formats")
        self.formats.setVisible(others > 0)
        count = len(home.variants) * len(self.pieces)
        self.begin.setText("Export 1 file…" if count == 1 else f"Export {count} files…")
        self.begin.setEnabled(count > 0)
        self.names.setPlaceholderText(self._usual())

    def _usual(self) -> str:
        return usual_pattern(tuple(slot.name for slot in self.table.slots), len(self.pieces))

    def ask(self) -> None:
        """Ask for the folder, then put everything on the list."""
        goal = ask_folder(self, "export", "Write the files into")
        if goal is not None:
            self.write(goal)

    def write(self, goal: Path) -> None:
        """Put a file for each row and format on the export list; those that fail say so there, the others go on."""
        batch, target = self.table.batch, self.kind.currentData()
        kind = exporter(target.kind)
        try:
            orders = batch.orders(self.pieces, goal, self.names.text().strip() or self._usual(), kind)
        except SpiralisError as error:
            self.session.failed.emit(str(error))
            return
        listed = [order.path.name for order in orders if self.queue.promises(order.path)]
        if listed:
            hint = "let the list end, or choose another folder"
            self.session.failed.emit(f"{_told(listed)} on the export list already; {hint}.")
            return
        there = [order.path.name for order in orders if order.path.exists()]
        if there and not self._may_replace(there):
            return
        for order in orders:
            self.queue.add_later(kind, order.path, partial(_asked, target, batch, order))
        self.session.said.emit(f"{len(orders)} files are on the export list; they are written beside your work.")

    def _may_replace(self, names: list[str]) -> bool:
        return sure(self, "Replace files", f"{_told(names)} there already.", "Replace what is there?", "Replace")


def _told(names: list[str]) -> str:
    return f"{len(names)} of the files are" if len(names) > 1 else f"{names[0]} is"


def _asked(target: Target, batch: Batch, order: Order) -> ExportJob:
    """Return what writes an order's file, when its turn comes."""
    return target.asked(batch.job(order, target.settings))
