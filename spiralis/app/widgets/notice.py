"""A sentence in a strip along the window's lower edge: what went wrong, or what was done."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import Qt, QTimer, pyqtSignal
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QLabel, QPushButton, QToolButton

from spiralis.app.style import icon
from spiralis.core.errors import legible

_DONE_STAYS = 4000


class Notice(QFrame):
    """Problems stay until they are closed; good news goes by itself. The strip covers nothing: it makes room.

    ``roomChanges`` comes before it appears or goes, so that the panels it moves can paint themselves in turns.
    """

    roomChanges = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.label = QLabel()
        self.label.setWordWrap(True)
        self.label.setTextFormat(Qt.TextFormat.PlainText)
        self.close_button = QToolButton()
        self.close_button.setObjectName("Flat")
        self.close_button.setIcon(icon("close"))
        self.close_button.setAccessibleName("Close the message")
        self.close_button.clicked.connect(self.hide)
        self.action = QPushButton()
        self.action.clicked.connect(self._act)
        self._run: Callable[[], object] = self.hide
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 6, 10, 6)
        row.addWidget(self.label, 1)
        row.addWidget(self.action)
        row.addWidget(self.close_button, 0, Qt.AlignmentFlag.AlignTop)
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self.hide)
        self.hide()

    def setVisible(self, visible: bool) -> None:
        if visible != self.isVisible():
            self.roomChanges.emit()
        super().setVisible(visible)

    def show_problem(self, sentence: str) -> None:
        """Show what went wrong."""
        self._timer.stop()
        self._show(sentence, "#ff7a70", "#3a2530")

    def show_done(self, sentence: str) -> None:
        """Show what was done."""
        self._show(sentence, "#7bd0c1", "#243536")
        self._timer.start(_DONE_STAYS)

    def offer(self, sentence: str, action: str, run: Callable[[], object]) -> None:
        """Say something that can be acted on; it stays until that is done or it is closed."""
        self._timer.stop()
        self._show(sentence, "#f5b23d", "#3a3020")
        self.action.setText(action)
        self.action.show()
        self._run = run

    def _act(self) -> None:
        self.hide()
        self._run()

    def _show(self, sentence: str, edge: str, background: str) -> None:
        self.action.hide()
        self.setStyleSheet(f"Notice {{ background: {background}; border-top: 1px solid {edge}; }}")
        self.label.setText("\n".join(map(legible, sentence.split("\n"))))
        self.show()
