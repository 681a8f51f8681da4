"""A form of the piece's slots: what is typed or dropped plays at once; what breaks a limit is marked."""

from __future__ import annotations

from itertools import count
from pathlib import Path

from attrs import evolve
from PyQt6.QtCore import QSize, Qt, pyqtSignal
from PyQt6.QtGui import QDragEnterEvent, QDropEvent, QPixmap, QShowEvent
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QLabel, QPushButton, QScrollArea, QVBoxLayout, QWidget

from spiralis.app.details.editor import Editor
from spiralis.app.details.editors import EDITORS
from spiralis.app.fillin.slot_dialog import home_of
from spiralis.app.session import Session
from spiralis.app.sources.entries import source_picture
from spiralis.app.timeline.thumbnails import layer_picture
from spiralis.app.widgets.fields import ListField
from spiralis.app.widgets.file_dialogs import ask_open, files_with
from spiralis.app.widgets.local_files import local_files
from spiralis.app.work.background import SmallPictures
from spiralis.app.work.beside import beside
from spiralis.app.work.soon import Soon
from spiralis.core.editing.filling_notes import filling_notes
from spiralis.core.editing.flattening import suffixes_for
from spiralis.core.editing.slots import OpenSlot, filled, open_slots, source_in
from spiralis.core.errors import SpiralisError
from spiralis.core.media.sources import kinds_taken
from spiralis.core.model import Kind, Project, Source, Value
from spiralis.core.variants.cells import as_cell
from spiralis.core.variants.problems import slot_problem

_PICTURE = 64
_numbers = count(1)


class PictureSlot(QWidget):
    """A picture or footage: a small picture that takes what is dropped on it, a list, a button for a file."""

    chosen = pyqtSignal(object)
    refused = pyqtSignal(str)

    def __init__(self, session: Session, slot: OpenSlot) -> None:
        super().__init__()
        self.session, self.slot = session, slot
        self.setAcceptDrops(True)
        self.picture = QLabel()
        self.picture.setFixedSize(QSize(_PICTURE, _PICTURE))
        self.picture.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.picture.setObjectName("Card")
        self.list = ListField()
        self.list.setAccessibleName(f"{slot.name}: which picture")
        self.list.activated.connect(self._take)
        self.file = QPushButton("From a file…")
        self.file.setAutoDefault(False)
        self.file.setToolTip("Choose a picture, or drop one here")
        self.file.clicked.connect(self._ask)
        self._pictures = SmallPictures(self)
        self._pictures.made.connect(self._show_picture)
        beside = QVBoxLayout()
        beside.addWidget(self.list)
        beside.addWidget(self.file)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(self.picture)
        row.addLayout(beside, 1)

    def show_slot(self, slot: OpenSlot) -> None:
        """Show which source the slot holds now."""
        self.slot, project = slot, self.session.project
        self.list.clear()
        kinds = kinds_taken(slot.parameter(project))
        for source in project.sources:
            if source.sort in kinds:
                self.list.addItem(source.name, source.id)
        self.list.setCurrentIndex(self.list.findData(slot.value(project)))
        self.list.setPlaceholderText("as it is" if slot.shows_own(project) else "nothing yet")
        self._show_picture()

    def _show_picture(self) -> None:
        project, place = self.session.project, self.slot.places[0]
        source = project.source(self.list.currentData() or "")
        if source is not None:
            made = self._pictures.of(source.digest, lambda: source_picture(project, source, 2 * _PICTURE))
        elif self.slot.shows_own(project):
            piece = project.composition(place.piece)
            layer = piece.layer(place.layer)
            what = id(layer.track(place.slot.property).value)
            made = self._pictures.of((layer.id, what), lambda: layer_picture(project, piece, layer, 2 * _PICTURE))
        else:
            made = QPixmap()
        if made is not None:
            self.picture.setPixmap(made)

    def _take(self, index: int) -> None:
        source = self.session.project.source(self.list.itemData(index))
        if source is not None:
            self.chosen.emit(source)

    def _ask(self) -> None:
        suffixes = suffixes_for(self.slot.parameter(self.session.project))
        path = ask_open(self, "artwork", self.slot.name, files_with("Files", suffixes))
        if path is not None:
            self.take_file(path)

    def take_file(self, path: Path) -> None:
        """Fill the slot from a file."""
        try:
            source = beside(lambda: source_in(self.session.project, path, self.slot))
        except SpiralisError as error:
            self.refused.emit(str(error))
            return
        self.chosen.emit(source)

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        if event is not None and event.mimeData() is not None and event.mimeData().hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        if event is None:
            return
        paths = local_files(event.mimeData())
        event.acceptProposedAction()
        if paths:
            self.take_file(paths[0])


class SlotRow(QFrame):
    """A slot: its name, its help, what it holds, and what is wrong with that."""

    filled = pyqtSignal(object, str)
    ended = pyqtSignal()

    def __init__(self, session: Session, slot: OpenSlot) -> None:
        super().__init__()
        self.session, self.slot = session, slot
        self.setObjectName("Card")
        name = QLabel(slot.name)
        name.setStyleSheet("font-weight: 600;")
        self.problem = QLabel()
        self.problem.setObjectName("Alarm")
        self.problem.setWordWrap(True)
        self.problem.hide()
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 8, 12, 8)
        column.setSpacing(4)
        column.addWidget(name)
        if slot.slot.help:
            help_ = QLabel(slot.slot.help)
            help_.setObjectName("Quiet")
            help_.setWordWrap(True)
            column.addWidget(help_)
        column.addWidget(self._editor())
        column.addWidget(self.problem)
        self._gesture = next(_numbers)

    def _editor(self) -> QWidget:
        first, kind = self.slot.places[0], self.slot.kind(self.session.project)
        if kind is Kind.SOURCE:
            picture = PictureSlot(self.session, self.slot)
            picture.chosen.connect(self._take)
            picture.refused.connect(self.session.failed)
            self.editor: QWidget = picture
            return picture
        if self.slot.slot.choices and kind is Kind.TEXT:
            made = ListField()
            made.addItems(self.slot.slot.choices)
            made.setAccessibleName(self.slot.name)
            made.activated.connect(lambda index: self._take(made.itemText(index)))
            self.editor = made
            return made
        parameter = self.session.project.composition(first.piece).layer(first.layer).parameter(first.slot.property)
        editor = EDITORS[kind](parameter, self.session)
        editor.changed.connect(self._take)
        editor.finished.connect(self._end)
        self.editor = editor
        return editor

    def _take(self, value: object) -> None:
        self.filled.emit(value, f"slot-{self.slot.name}-{self._gesture}")

    def _end(self) -> None:
        self._gesture = next(_numbers)
        self.ended.emit()

    def refresh(self, slot: OpenSlot, project: Project) -> None:
        """Show what the slot holds now."""
        self.slot = slot
        value = slot.value(project)
        if isinstance(self.editor, ListField):
            self.editor.setCurrentIndex(self.editor.findText(str(value)))
        elif isinstance(self.editor, PictureSlot):
            self.editor.show_slot(slot)
        elif isinstance(self.editor, Editor):
            self.editor.show_value(value)

    def show_problem(self, problem: str) -> None:
        """Mark what the slot holds as breaking a limit, or not."""
        self.problem.setText(problem[:1].upper() + problem[1:])
        self.problem.setVisible(bool(problem))


def _asked(project: Project, slot: OpenSlot) -> tuple[object, ...]:
    """Return what a row is made for; a file may be filled in where outlines were, which is another property."""
    kind, asked = slot.kind(project), slot.slot.asked()
    return slot.name, evolve(asked, property="") if kind is Kind.SOURCE else asked, kind


class SlotForm(QScrollArea):
    """All slots of the piece on the canvas."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.rows: dict[str, SlotRow] = {}
        self._shown: tuple[object, ...] = ()
        self._soon = Soon(self, self._judge, wait=150, rests=True)
        session.projectChanged.connect(self.refresh)
        session.compositionChanged.connect(self.refresh)

    def refresh(self) -> None:
        """Show the slots as they are now."""
        if not self.isVisible():
            return
        project = self.session.project
        home = home_of(self.session)
        slots = open_slots(project, home)
        wanted = (home.id, *(_asked(project, slot) for slot in slots))
        if wanted != self._shown:
            self._shown = wanted
            self._build(slots)
        for slot in slots:
            self.rows[slot.name].refresh(slot, project)
        self._soon.ask()

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.refresh()

    def _build(self, slots: tuple[OpenSlot, ...]) -> None:
        stage = QWidget()
        column = QVBoxLayout(stage)
        column.setContentsMargins(0, 0, 6, 0)
        column.setSpacing(8)
        self.rows = {}
        for slot in slots:
            row = self.rows[slot.name] = SlotRow(self.session, slot)
            row.filled.connect(lambda value, merge, name=slot.name: self.fill(name, value, merge))
            row.ended.connect(self.session.close_step)
            column.addWidget(row)
        if not slots:
            hint = QLabel(
                "This piece has no slots yet. While you edit it, the ⋮ beside words, a picture, a colour, a font or a "
                "number in Details makes one: “Make it a slot…”."
            )
            hint.setObjectName("Quiet")
            hint.setWordWrap(True)
            column.addWidget(hint)
        column.addStretch(1)
        before = self.takeWidget()
        if before is not None:
            before.deleteLater()  # What was chosen in it may be why there is another form.
        self.setWidget(stage)

    def fill(self, name: str, value: Value | Source, merge: str | None = None) -> None:
        """Fill a slot, also one of a locked layer: that is what it is there for."""
        before, home = self.session.project, home_of(self.session)
        try:
            project = filled(before, home.id, {name: value})
        except SpiralisError as error:
            self.session.failed.emit(str(error))
            return
        self.session.edit_project(f"Fill in “{name}”", project, merge, locked_too=True)
        for note in filling_notes(before, project, home):
            self.session.said.emit(note)

    def _judge(self) -> None:
        """Mark what breaks a limit, when typing rests."""
        project = self.session.project
        for name, row in self.rows.items():
            slot = row.slot
            row.show_problem(slot_problem(project, slot, as_cell(project, slot), None))
            row.setAccessibleName(name)
