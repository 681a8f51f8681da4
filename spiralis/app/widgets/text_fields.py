"""Fields for words. What is dragged over them belongs to the window: a file is never typed into a field."""

from __future__ import annotations

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtGui import QFocusEvent
from PyQt6.QtWidgets import QApplication, QLineEdit, QPlainTextEdit, QWidget


class TextField(QLineEdit):
    """One line of words."""

    def __init__(self, text: str = "", parent: QWidget | None = None) -> None:
        super().__init__(text, parent)
        self.setAcceptDrops(False)


def take_typed() -> None:
    """Take what is typed in a field and not entered yet, as leaving the field would."""
    field = QApplication.focusWidget()
    if isinstance(field, QLineEdit):
        field.editingFinished.emit()


class TextArea(QPlainTextEdit):
    """Several lines of words; ``left`` once one is no longer in them."""

    left = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.setAcceptDrops(False)
        self.viewport().setAcceptDrops(False)

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        super().focusOutEvent(event)
        self.left.emit()
