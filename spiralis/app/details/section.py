"""A foldable section of Details: a heading, tools beside it, and a grid of rows."""

from __future__ import annotations

from typing import ClassVar

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFrame, QGridLayout, QHBoxLayout, QToolButton, QVBoxLayout, QWidget

from spiralis.app.details.editor import Editor
from spiralis.app.style import icon
from spiralis.app.widgets.short_label import ShortLabel


class Section(QWidget):
    """A heading that folds what lies under it; ``key`` tells sections apart whose folding is remembered."""

    folded: ClassVar[set[str]] = set()

    def __init__(self, title: str, key: str = "", small: bool = False) -> None:
        super().__init__()
        self.key = key or title
        self.head = QToolButton()
        self.head.setObjectName("Flat")
        self.head.setText(title if small else title.upper())
        self.head.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextBesideIcon)
        self.head.setProperty("part", "small-heading" if small else "heading")
        self.head.setToolTip(f"Fold or unfold {title}")
        self.head.clicked.connect(self._toggle)
        self.tools = QHBoxLayout()
        self.tools.setSpacing(2)
        self.body = QWidget()
        self.grid = QGridLayout(self.body)
        self.grid.setContentsMargins(0, 0, 0, 6)
        self.grid.setHorizontalSpacing(4)
        self.grid.setVerticalSpacing(4)
        self.grid.setColumnStretch(2, 1)
        self.grid.setColumnMinimumWidth(0, 24)
        self.grid.setColumnMinimumWidth(1, 76)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(2)
        if not small:
            rule = QFrame()
            rule.setObjectName("Rule")
            layout.addWidget(rule)
        line = QHBoxLayout()
        line.setSpacing(4)
        line.addWidget(self.head)
        line.addStretch(1)
        line.addLayout(self.tools)
        layout.addLayout(line)
        layout.addWidget(self.body)
        self.show_folding()

    def _toggle(self) -> None:
        self.folded ^= {self.key}
        self.show_folding()

    def show_folding(self) -> None:
        """Show or hide what lies under the heading, as it was left here or under a heading of the same key."""
        shut = self.key in self.folded
        self.body.setVisible(not shut)
        self.head.setIcon(icon("right" if shut else "down"))

    def add_tool(self, picture: str, text: str) -> QToolButton:
        """Add a small button at the right of the heading."""
        button = QToolButton()
        button.setObjectName("Flat")
        button.setIcon(icon(picture))
        button.setToolTip(text)
        button.setAccessibleName(text)
        button.setProperty("part", "tool")
        button.setFixedSize(24, 24)
        self.tools.addWidget(button)
        return button

    def add(
        self, label: str, editor: QWidget, bead: QWidget | None = None, help: str = "", more: QWidget | None = None
    ) -> ShortLabel:
        """Add a row: bead, name, editor, and a menu where there is more to do; return its name's label."""
        row = self.grid.rowCount()
        if bead is None:
            bead = QWidget()
            bead.setFixedWidth(24)
        self.grid.addWidget(bead, row, 0)
        name = ShortLabel(label, help)
        narrow = isinstance(editor, Editor) and editor.narrow
        self.grid.addWidget(name, row, 1, 1, 2 if narrow else 1)
        self.grid.addWidget(editor, row, 2, Qt.AlignmentFlag.AlignRight if narrow else Qt.AlignmentFlag(0))
        if more is not None:
            self.grid.addWidget(more, row, 3)
        return name
