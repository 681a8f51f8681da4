"""The dialog that makes a slot of a property, or changes one."""

from __future__ import annotations

from attrs import evolve
from PyQt6.QtWidgets import QDialog, QDialogButtonBox, QFormLayout, QLabel, QVBoxLayout, QWidget

from spiralis.app.session import Session
from spiralis.app.widgets.fields import CheckBox, ListField, NumberField
from spiralis.app.widgets.text_fields import TextField
from spiralis.core.editing.slots import open_slots, with_slot
from spiralis.core.errors import SpiralisError
from spiralis.core.model import Composition, Kind, Layer, Parameter
from spiralis.core.model.slots import PICTURE_FITS, WORD_FITS, Slot

_WORDS = {"as set": "stays as large as it is", "shrink": "gets smaller until it fits", "wrap": "goes on in more lines"}
_PICTURES = {
    "contain": "lies within its place", "cover": "covers its place", "width": "is as wide as its place",
    "as set": "keeps its scale",
}  # fmt: skip


def home_of(session: Session) -> Composition:
    """Return the piece whose slots and variants the one on the canvas has: for a format the piece that it follows."""
    piece = session.composition
    origin = session.project.find(piece.follows.origin) if piece.follows is not None else None
    return origin or piece


class SlotDialog(QDialog):
    """Asks for the name, the help and the limits of a slot."""

    def __init__(self, parent: QWidget, session: Session, layer: Layer, parameter: Parameter) -> None:
        super().__init__(parent)
        self.session, self.layer, self.parameter = session, layer, parameter
        self.setWindowTitle("Slot")
        old = layer.slot(parameter.name) or Slot(self._usual_name(), parameter.name, fit=self._usual_fit())
        self.old = old
        self.name, self.help = TextField(old.name), TextField(old.help)
        self.choices = TextField(", ".join(old.choices))
        self.longest = NumberField("Letters at most", "", 0, 20_000, decimals=0)
        self.longest.show_value(old.longest)
        self.ratio = CheckBox("only of this ratio")
        self.ratio.setChecked(old.ratio > 0)
        self.fit = ListField()
        fits = _WORDS if parameter.kind is Kind.TEXT else _PICTURES
        order = WORD_FITS if parameter.kind is Kind.TEXT else PICTURE_FITS
        for fit in order:
            self.fit.addItem(fits[fit], fit)
        self.fit.setCurrentIndex(max(self.fit.findData(old.fit), 0))
        self._lay_out()

    def _usual_name(self) -> str:
        if self.parameter.kind is Kind.TEXT or self.parameter.all_shown:
            return self.layer.name
        return f"{self.layer.name}: {self.parameter.label.lower()}"[:60]

    def _usual_fit(self) -> str:
        if self.parameter.all_shown:
            # Of a picture any part may do; of a logo that is outlines none is cut off.
            return "cover" if self.parameter.kind is Kind.SOURCE else "contain"
        return "shrink" if self.parameter.kind is Kind.TEXT else "as set"

    def _lay_out(self) -> None:
        form = QFormLayout()
        form.setHorizontalSpacing(14)
        for field, label in ((self.name, "Name"), (self.help, "Help"), (self.choices, "Only one of")):
            field.setAccessibleName(label)
        self.choices.setPlaceholderText("anything; or values with commas")
        form.addRow("Name", self.name)
        form.addRow("Help", self.help)
        kind = self.parameter.kind
        if kind is Kind.TEXT or self.parameter.all_shown:
            self.fit.setAccessibleName("What is too large")
            form.addRow("What is too large", self.fit)
        if kind is Kind.TEXT:
            form.addRow("Letters at most", self.longest)
        if self.parameter.all_shown:
            form.addRow("Pictures", self.ratio)
        if kind in (Kind.TEXT, Kind.COLOUR, Kind.FONT):
            form.addRow("Only one of", self.choices)
        limit = "; 0 letters is no limit." if kind is Kind.TEXT else "."
        note = QLabel(f"Slots of one name are filled together{limit}")
        note.setObjectName("Quiet")
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel)
        buttons.accepted.connect(self._take)
        buttons.rejected.connect(self.reject)
        column = QVBoxLayout(self)
        column.addLayout(form)
        column.addWidget(note)
        column.addWidget(buttons)
        self.resize(420, self.sizeHint().height())

    def _take(self) -> None:
        choices = tuple(part.strip() for part in self.choices.text().split(",") if part.strip())
        home = home_of(self.session)
        try:
            slot = evolve(
                self.old, name=self.name.text().strip(), help=self.help.text().strip(), choices=choices,
                longest=int(self.longest.value or 0), fit=self.fit.currentData() or "as set", ratio=0.0,
            )  # fmt: skip
            project = with_slot(self.session.project, home, self.layer.id, slot)
            if self.ratio.isChecked():
                made = project.composition(home.id)
                layer = made.layer(self.layer.id)
                held = layer.slot(slot.property)
                assert held is not None
                shaped = evolve(held, ratio=held.room[0] / max(held.room[1], 1e-6))
                project = project.with_composition(made.with_layer(layer.with_slot(shaped)))
        except SpiralisError as error:
            self.session.failed.emit(str(error))
            return
        self.session.edit_project(f"Slot “{slot.name}”", project)
        self.accept()


def no_slot(session: Session, layer_id: str, name: str) -> None:
    """Make a property no slot any more; what it holds stays, and so do the cells of tables, which are said."""
    home = home_of(session)
    layer = home.find(layer_id)
    slot = layer.slot(name) if layer is not None else None
    if layer is None or slot is None:
        return
    session.edit_project("No slot", session.project.with_composition(home.with_layer(layer.without_slot(name))))
    after = home_of(session)
    rows = sum(bool(row.cell(slot.name)) for row in after.variants)
    if rows and slot.name not in {open_.name for open_ in open_slots(session.project, after)}:
        held = "1 row of the table holds" if rows == 1 else f"{rows} rows of the table hold"
        session.said.emit(f"{held} something for “{slot.name}” still; it is there again once a slot has that name.")
