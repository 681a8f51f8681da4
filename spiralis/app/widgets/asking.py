"""A small dialog of numbers and choices whose effect is seen while one changes them; Cancel takes it back."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from itertools import count
from typing import Any

from attrs import frozen
from PyQt6.QtWidgets import (
    QApplication,
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QFormLayout,
    QLabel,
    QMessageBox,
    QVBoxLayout,
    QWidget,
)

from spiralis.app.session import Session
from spiralis.app.widgets.fields import ListField, NumberField

_numbers = count(1)


@frozen
class Ask:
    """One thing to ask for: a number with its unit and range, or one of ``choices``."""

    name: str
    label: str
    value: float | str
    unit: str = ""
    minimum: float = 0.0
    maximum: float = 1000.0
    decimals: int = 0
    choices: tuple[str, ...] = ()


class LiveDialog(QDialog):
    """Applies ``change`` with the values as they are, each time anew from where the project stood."""

    def __init__(
        self, parent: QWidget, session: Session, title: str, help: str, asks: tuple[Ask, ...],
        change: Callable[[Mapping[str, Any], str], object],
    ) -> None:  # fmt: skip
        super().__init__(parent)
        self.setWindowTitle(title)
        self.session, self._change = session, change
        self._before = session.version
        self._merge = f"live-{next(_numbers)}"
        self.fields: dict[str, NumberField | QComboBox] = {}
        form = QFormLayout()
        form.setHorizontalSpacing(14)
        for ask in asks:
            form.addRow(ask.label, self._field(ask))
        note = QLabel(help)
        note.setObjectName("Quiet")
        note.setWordWrap(True)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel)
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        column = QVBoxLayout(self)
        column.setSpacing(10)
        column.addWidget(note)
        column.addLayout(form)
        column.addWidget(buttons)
        self.setMinimumWidth(340)
        self.apply()

    def _field(self, ask: Ask) -> NumberField | QComboBox:
        if ask.choices:
            box = ListField()
            for choice in ask.choices:
                box.addItem(choice.capitalize(), choice)
            box.setCurrentIndex(ask.choices.index(str(ask.value)))
            box.setAccessibleName(ask.label)
            box.activated.connect(self.apply)
            self.fields[ask.name] = box
            return box
        field = NumberField(ask.label, ask.unit, ask.minimum, ask.maximum, decimals=ask.decimals)
        field.show_value(float(ask.value))
        field.changed.connect(self.apply)
        self.fields[ask.name] = field
        return field

    def values(self) -> dict[str, Any]:
        """Return what is asked for, by name."""
        return {
            name: field.currentData() if isinstance(field, QComboBox) else float(field.value or 0.0)
            for name, field in self.fields.items()
        }

    def apply(self) -> None:
        """Take back what was applied and apply the present values."""
        self._undo()
        self._change(self.values(), self._merge)

    def _undo(self) -> None:
        if self.session.version != self._before:
            self.session.undo()

    def reject(self) -> None:
        self._undo()
        super().reject()

    def accept(self) -> None:
        self.session.close_step()
        super().accept()


def sure(parent: QWidget | None, title: str, text: str, more: str, go_on: str, stay: str = "Cancel") -> bool:
    """Ask before something goes; True where the person answers ``go_on``, and not with Escape."""
    box = QMessageBox(parent)
    box.setWindowTitle(title)
    box.setText(text)
    box.setInformativeText(more)
    yes = box.addButton(go_on, QMessageBox.ButtonRole.AcceptRole)
    box.addButton(stay, QMessageBox.ButtonRole.RejectRole)
    box.exec()
    return box.clickedButton() is yes


def may_lose(what: str, lost: list[str]) -> bool:
    """Say what an edit keeps and what it would lose, before it happens; True where the person wants it all the same."""
    told = "\n".join(lost[:8]) + ("\nand more" if len(lost) > 8 else "")
    return sure(
        QApplication.activeWindow(), "Something would be lost", f"{what}; this would go:", told, "Go on", "Leave it"
    )
