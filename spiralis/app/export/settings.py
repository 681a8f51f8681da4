"""What an export is asked for: size, frames, and the kind of file's own settings."""

from __future__ import annotations

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QComboBox, QFormLayout, QFrame, QLabel

from spiralis.app.session import Session
from spiralis.app.widgets.fields import CheckBox, ListField, NumberField
from spiralis.core.media.exporters import Exporter
from spiralis.core.model import Kind, Parameter
from spiralis.core.render.plan import output_size


class ExportSettings(QFrame):
    """The fields for one kind of file. ``changed`` tells of every change, ``refused`` why a number is not taken."""

    changed = pyqtSignal()
    refused = pyqtSignal(str)

    def __init__(self, session: Session, kind: Exporter) -> None:
        super().__init__()
        self.session, self.piece, self.kind = session, session.composition, kind
        self.fields: dict[str, NumberField | QComboBox] = {}
        first, last = self.piece.span
        self.first = NumberField("First frame", "", 0, self.piece.length - 1, decimals=0)
        self.last = NumberField("Last frame", "", 0, self.piece.length - 1, decimals=0)
        self.first.show_value(first)
        self.last.show_value(last - 1)
        self.width_field = NumberField("Width", "px", 1, 20_000, decimals=0, whole=self.piece.width)
        self.width_field.show_value(self.piece.width)
        self.height_label = QLabel()
        self.single = CheckBox("Only the frame under the playhead")
        self.single.setChecked(True)
        for field in (self.first, self.last, self.width_field):
            field.changed.connect(self._refresh)
            field.refused.connect(self.refused)
        self.single.clicked.connect(self._refresh)
        self.about = QLabel()
        self.setFixedWidth(270)
        self.form = QFormLayout(self)
        self.form.setContentsMargins(4, 0, 0, 0)
        self.form.setHorizontalSpacing(12)
        self.form.setVerticalSpacing(9)

    def show_kind(self, kind: Exporter) -> None:
        """Show the fields of a kind of file; what is common to all keeps its values."""
        self.kind = kind
        while self.form.rowCount():
            row = self.form.takeRow(0)
            for item in (row.labelItem, row.fieldItem):
                widget = item.widget() if item is not None else None
                if widget is not None:
                    widget.setParent(None)
        title = QLabel(kind.label)
        title.setObjectName("Title")
        self.form.addRow(title)
        self.form.addRow("Width", self.width_field)
        self.form.addRow("Height", self.height_label)
        if kind.many_files:
            self.form.addRow(self.single)
        self.form.addRow("First frame", self.first)
        self.form.addRow("Last frame", self.last)
        self.fields = {p.name: self._field(p) for p in kind.settings}
        for parameter in kind.settings:
            self.form.addRow(parameter.label, self.fields[parameter.name])
        self.about = QLabel()
        self.about.setObjectName("Quiet")
        self.about.setWordWrap(True)
        self.form.addRow(self.about)
        self._refresh()

    def _field(self, parameter: Parameter) -> NumberField | QComboBox:
        if parameter.kind is Kind.CHOICE:
            box = ListField()
            box.setAccessibleName(parameter.label)
            for choice in parameter.choices:
                box.addItem(choice.capitalize(), choice)
            box.setCurrentIndex(box.findData(parameter.default))
            box.setToolTip(parameter.help)
            return box
        field = NumberField(parameter.label, parameter.unit, parameter.minimum, parameter.maximum, decimals=0)
        field.show_value(parameter.default)
        field.refused.connect(self.refused)
        return field

    @property
    def scale(self) -> float:
        """Size of the file beside the composition's."""
        return float(self.width_field.value or self.piece.width) / self.piece.width

    @property
    def one_frame(self) -> bool:
        """Whether only the frame under the playhead is written."""
        return self.kind.many_files and self.single.isChecked()

    @property
    def span(self) -> tuple[int, int]:
        """The frames to write, half open; empty where the last comes before the first."""
        if self.one_frame:
            return self.session.frame, self.session.frame + 1
        return int(self.first.value or 0), int(self.last.value or 0) + 1

    @property
    def values(self) -> dict[str, object]:
        """The kind of file's own settings."""
        return {
            name: field.currentData() if isinstance(field, QComboBox) else field.value
            for name, field in self.fields.items()
        }

    def _refresh(self) -> None:
        width, height = output_size(self.piece, self.scale)
        self.height_label.setText(f"{height} px")
        self.first.setEnabled(not self.one_frame)
        self.last.setEnabled(not self.one_frame)
        first, last = self.span
        if self.one_frame:
            text = f"Frame {first}, with its transparency."
        elif last > first:
            text = f"{last - first} frames, {float((last - first) / self.piece.rate):.2f} s."
        else:
            text = "The last frame comes before the first."
        self.about.setText(f"{text} {self.kind.remark(width, height)}".strip())
        self.changed.emit()
