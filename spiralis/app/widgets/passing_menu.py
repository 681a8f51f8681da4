"""A menu that is asked for, answered and gone."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QMenu, QWidget


class PassingMenu(QMenu):
    """Goes once it is closed: its parent would hold it, and each one after it, for as long as that lives."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
