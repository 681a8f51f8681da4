"""A sentence that floats over the lower edge of the picture: what went wrong, or what was done."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PyQt6.QtCore import QEvent, QObject, QPoint, Qt, QTimer
from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QLabel, QPushButton, QToolButton, QWidget

from spiralis.app.style import icon
from spiralis.core.errors import legible

_DONE_STAYS = 4000
#: So far from the edges of what it floats over, in px.
_GAP = 10


#: What may leave it in another place than over the picture.
_MOVING = (QEvent.Type.Resize, QEvent.Type.Move, QEvent.Type.Show, QEvent.Type.Hide)


class Notice(QFrame):
    """Problems stay until they are closed; good news goes by itself. Nothing moves when it comes or goes: a picture
    that made room would be drawn in another size, and slip from under the hand.

    It lies over the lower edge of whichever of ``places`` is the first to be seen.
    """

    def __init__(self, parent: QWidget, places: Sequence[QWidget]) -> None:
        super().__init__(parent)
        self._places = tuple(places)
        for place in self._places:
            place.installEventFilter(self)
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
        row.setContentsMargins(14, 4, 6, 4)
        row.addWidget(self.label, 1)
        row.addWidget(self.action)
        row.addWidget(self.close_button, 0, Qt.AlignmentFlag.AlignTop)
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.timeout.connect(self.hide)
        self.hide()

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if event is not None and event.type() in _MOVING and self.isVisible():
            QTimer.singleShot(0, self._float)
        return False

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self._float()

    def _float(self) -> None:
        parent, layout = self.parentWidget(), self.layout()
        place = next((place for place in self._places if place.isVisible()), parent)
        if parent is None or place is None or layout is None:
            return
        corner = place.mapTo(parent, QPoint(0, 0))
        text = max(self.label.fontMetrics().horizontalAdvance(line) for line in self.label.text().split("\n"))
        room = place.width() - 2 * _GAP
        width = min(room, self.sizeHint().width() - self.label.sizeHint().width() + text + 2)
        height = layout.totalHeightForWidth(width)
        self.setGeometry(corner.x() + (place.width() - width) // 2, corner.y() + place.height() - height - _GAP,
                         width, height)  # fmt: skip
        self.raise_()

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
        self.action.setText(action)
        self._run = run
        self._show(sentence, "#f5b23d", "#3a3020", acts=True)

    def _act(self) -> None:
        self.hide()
        self._run()

    def _show(self, sentence: str, edge: str, background: str, acts: bool = False) -> None:
        self.action.setVisible(acts)
        self.setStyleSheet(f"Notice {{ background: {background}; border: 1px solid {edge}; border-radius: 6px; }}")
        self.label.setText("\n".join(map(legible, sentence.split("\n"))))
        self.show()
        self._float()
