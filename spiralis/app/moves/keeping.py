"""Keep what the chosen layer's keys do as a move of one's own."""

from __future__ import annotations

from PyQt6.QtWidgets import QDialog, QDialogButtonBox, QFormLayout, QLabel, QVBoxLayout, QWidget

from spiralis.app.library.keeping import Keeper
from spiralis.app.library.moves import OWN_MOVES
from spiralis.app.library.own_list import LONGEST
from spiralis.app.session import Session
from spiralis.app.widgets.fields import ListField
from spiralis.app.widgets.text_fields import TextField
from spiralis.core.editing.kept_moves import KeptMove, kept_move
from spiralis.core.errors import SpiralisError

_FAMILIES = (
    ("entrance", "An entrance: at rest on its last key"), ("loop", "A loop: it comes back to its first key"),
    ("exit", "An exit: at rest on its first key"),
)  # fmt: skip


class KeepMotion(QDialog):
    """Asks for a name and what sort of move it is."""

    def __init__(self, parent: QWidget, session: Session) -> None:
        super().__init__(parent)
        self.setWindowTitle("Keep the motion as a move")
        self.session = session
        self.layer = session.layers[0]
        self.name = TextField(self.layer.name[:LONGEST])
        self.name.setAccessibleName("Name of the move")
        self.family = ListField()
        self.family.setAccessibleName("What it is")
        for name, words in _FAMILIES:
            self.family.addItem(words, name)
        self.problem = QLabel()
        self.problem.setObjectName("Alarm")
        self.problem.setWordWrap(True)
        note = QLabel(f"All keys of place, size, turn, slant and opacity of “{self.layer.name}”, for Motion > Moves.")
        note.setObjectName("Quiet")
        note.setWordWrap(True)
        form = QFormLayout()
        form.addRow("Name", self.name)
        form.addRow("It is", self.family)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Save | QDialogButtonBox.StandardButton.Cancel)
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        column = QVBoxLayout(self)
        column.setSpacing(10)
        column.addWidget(note)
        column.addLayout(form)
        column.addWidget(self.problem)
        column.addWidget(buttons)
        self.name.selectAll()

    def accept(self) -> None:
        name = self.name.text().strip()[:LONGEST]
        session = self.session

        def made() -> KeptMove:
            if not name:
                raise SpiralisError("Give the move a name.")
            return kept_move(session.project, session.composition, self.layer, name, self.family.currentData())

        self.problem.setText("")
        if Keeper(self, OWN_MOVES, self.problem.setText).keep(made):
            session.said.emit(f"“{name}” is among the moves now.")
            super().accept()
