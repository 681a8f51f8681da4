"""Fill-in view: the piece large, going round, beside its slots, its table of variants, or its formats."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QButtonGroup,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QSplitter,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from spiralis.app.canvas.picture_window import LoopingPicture
from spiralis.app.export.queue import ExportQueue
from spiralis.app.fillin.form import SlotForm
from spiralis.app.fillin.formats import FormatsPanel
from spiralis.app.fillin.variants import VariantsTable
from spiralis.app.fillin.writing import WritingLine
from spiralis.app.session import Session
from spiralis.app.strips.sound_button import SoundButton
from spiralis.app.widgets.asking import sure
from spiralis.app.work.playback import Player

_PARTS = (("Fill in", "What is to be filled in"), ("Variants", "A table of versions"), ("Formats", "Other sizes"))


class FillInPage(QWidget):
    """``editAsked`` asks for the editor."""

    editAsked = pyqtSignal()

    def __init__(self, session: Session, player: Player, queue: ExportQueue) -> None:
        super().__init__()
        self.session, self.player = session, player
        self.picture = LoopingPicture(session, player)
        self.picture.set_playing(False)
        self.form, self.table, self.formats = SlotForm(session), VariantsTable(session), FormatsPanel(session)
        self.writing = WritingLine(session, self.table, queue)
        self.parts = QStackedWidget()
        variants = QWidget()
        under = QVBoxLayout(variants)
        under.setContentsMargins(0, 0, 0, 0)
        under.addWidget(self.table, 1)
        under.addWidget(self.writing)
        for part in (self.form, variants, self.formats):
            self.parts.addWidget(part)
        right = QWidget()
        column = QVBoxLayout(right)
        column.setContentsMargins(14, 10, 14, 12)
        column.setSpacing(10)
        column.addLayout(self._head())
        column.addWidget(self.parts, 1)
        self.split = QSplitter(Qt.Orientation.Horizontal)
        self.split.addWidget(self.picture)
        self.split.addWidget(right)
        self.split.setStretchFactor(0, 1)
        self.split.setSizes([480, 780])
        self.split.setChildrenCollapsible(False)
        whole = QHBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.addWidget(self.split)
        self.show_part(0)

    def _head(self) -> QHBoxLayout:
        row = QHBoxLayout()
        self.buttons = QButtonGroup(self)
        for place, (label, tip) in enumerate(_PARTS):
            button = QPushButton(label)
            button.setCheckable(True)
            button.setAutoDefault(False)
            button.setToolTip(tip)
            button.clicked.connect(lambda _=False, place=place: self.show_part(place))
            self.buttons.addButton(button, place)
            row.addWidget(button)
        self.template = QLabel()
        self.template.setObjectName("Quiet")
        self.edit = QPushButton("Edit the piece")
        self.edit.setAutoDefault(False)
        self.edit.setToolTip("Back to layers, keys and pace (Alt+8)")
        self.edit.clicked.connect(self.leave)
        self.sound = SoundButton(self.session, self.picture)
        self.sound.setFixedHeight(self.edit.sizeHint().height())
        row.addStretch(1)
        row.addWidget(self.sound)
        row.addWidget(self.template)
        row.addWidget(self.edit)
        return row

    def show_part(self, place: int) -> None:
        """Show the form, the table or the formats."""
        self.buttons.button(place).setChecked(True)
        self.parts.setCurrentIndex(place)

    def begin(self) -> None:
        """Play, and show what is there now."""
        self.template.setText("Template" if self.session.project.template else "")
        self.player.refresh()
        self.picture.set_playing(True)

    def end(self) -> None:
        """Stop playing; the piece is as it is in the project again."""
        self.picture.set_playing(False)
        self.session.peek.end()

    def leave(self) -> None:
        """Go to the editor; a template asks first."""
        if self.session.project.template and not self._sure():
            return
        self.editAsked.emit()

    def _sure(self) -> bool:
        return sure(
            self, "Edit the template", "This is a template, to be filled in.", "Change its layers and its motion?",
            "Edit it",
        )  # fmt: skip
