"""The base of all editors in Details."""

from __future__ import annotations

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QWidget

from spiralis.app.session import Session
from spiralis.app.widgets.fields import NumberField
from spiralis.core.model import Parameter, Value


class Editor(QWidget):
    """Base: a row's right side. ``changed(value)`` while it changes, ``finished`` at the end of the gesture."""

    changed = pyqtSignal(object)
    #: The value that is shown was typed: all of it (-1), or the component of a pair.
    same = pyqtSignal(object, int)
    #: A change of what each chosen layer has of its own, (Value) -> Value: a drawing is not the others' drawing.
    each = pyqtSignal(object)
    finished = pyqtSignal()
    #: Whether the row's name may reach below it, as it is small and stands at the right.
    narrow = False

    def __init__(self, parameter: Parameter, session: Session) -> None:
        super().__init__()
        self.parameter, self.session = parameter, session
        self.row = QHBoxLayout(self)
        self.row.setContentsMargins(0, 0, 0, 0)
        self.row.setSpacing(4)
        self.setMinimumHeight(26)

    def show_value(self, value: Value) -> None:
        """Show a value from outside."""
        raise NotImplementedError

    def _field(self, label: str, whole: float = 100.0) -> NumberField:
        p = self.parameter
        field = NumberField(label, p.unit, p.minimum, p.maximum, p.step, whole)
        field.finished.connect(self.finished)
        field.refused.connect(self.session.failed)
        self.row.addWidget(field)
        return field
