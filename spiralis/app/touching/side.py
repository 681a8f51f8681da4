"""The column beside the picture: tools, numbers, and the buttons at its end."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QButtonGroup, QGridLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from spiralis.app.widgets.fields import NumberField

_WIDTH = 230


class Side(QWidget):
    """Tools are names with a label and a help each; what else a kind of window has goes to ``more``."""

    toolTaken = pyqtSignal(str)
    refused = pyqtSignal(str)

    def __init__(self, tools: Sequence[tuple[str, str, str]], finish_label: str) -> None:
        super().__init__()
        self.setFixedWidth(_WIDTH)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        self.buttons: dict[str, QPushButton] = {}
        group = QButtonGroup(self)
        for tool, label, tip in tools:
            button = QPushButton(label)
            button.setCheckable(True)
            button.setAutoDefault(False)
            button.setToolTip(tip)
            button.clicked.connect(lambda _=False, tool=tool: self.take_tool(tool))
            group.addButton(button)
            self.buttons[tool] = button
            column.addWidget(button)
        self._numbers = QGridLayout()
        self._numbers.setHorizontalSpacing(8)
        column.addLayout(self._numbers)
        self.more = QVBoxLayout()
        self.more.setSpacing(8)
        column.addLayout(self.more)
        column.addStretch(1)
        self.back, self.stop, self.finish = (
            QPushButton(label) for label in ("Undo the last stroke", "Cancel", finish_label)
        )
        self.finish.setObjectName("Primary")
        for button in (self.back, self.stop, self.finish):
            button.setAutoDefault(False)
            column.addWidget(button)

    def take_tool(self, tool: str) -> None:
        """Take a brush, or the box, in hand."""
        self.buttons[tool].setChecked(True)
        self.toolTaken.emit(tool)

    def add_number(
        self, label: str, unit: str, least: float, most: float, value: float, change: Callable[[float], object]
    ) -> NumberField:
        """Add a number under those that are there; ``change`` is called with each one that is typed or dragged."""
        row = self._numbers.rowCount()
        field = NumberField(label, unit, least, most, decimals=1)
        field.show_value(value)
        field.changed.connect(change)
        field.refused.connect(self.refused)
        self._numbers.addWidget(QLabel(label), row, 0)
        self._numbers.addWidget(field, row, 1)
        return field
