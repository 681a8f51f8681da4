"""Fit under: a limit in MB, what is to stay as it is, and the ways that were looked at with their pictures."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QPaintEvent, QPixmap
from PyQt6.QtWidgets import (
    QAbstractButton,
    QButtonGroup,
    QDialog,
    QFormLayout,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from spiralis.app.style import ALARM, MARIGOLD, MINT, QUIET, TEXT, colour, font
from spiralis.app.widgets.cards import begin_card
from spiralis.app.widgets.fields import CheckBox, NumberField
from spiralis.app.widgets.images import as_image
from spiralis.app.work.background import Background
from spiralis.core.arithmetic import size_text
from spiralis.core.errors import Cancelled, SpiralisError
from spiralis.core.media.exporters import Exporter, ExportJob
from spiralis.core.media.fitting import Candidate, Fit, fit

_PICTURE = 220


class CandidateCard(QAbstractButton):
    """One way: a frame of it from real bytes, what it gives up, how large it is."""

    def __init__(self, candidate: Candidate, limit: int) -> None:
        super().__init__()
        self.candidate, self.fits = candidate, candidate.bytes <= limit
        pixels = candidate.pixels
        self.picture = QPixmap.fromImage(as_image(pixels).copy()) if pixels is not None else QPixmap()
        self.setCheckable(True)
        self.size_words = f"{'' if candidate.exact else 'about '}{size_text(candidate.bytes)}"
        self.setAccessibleName(f"{candidate.gives_up}: {self.size_words}")
        self.setToolTip(f"{candidate.gives_up}: {self.size_words}, {'fits' if self.fits else 'too large'}")
        self.setFixedSize(self.sizeHint())

    def sizeHint(self) -> QSize:
        return QSize(_PICTURE + 16, _PICTURE + 56)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter, _ = begin_card(self, 8)
        if self.isChecked():
            painter.setPen(colour(MARIGOLD))
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(2, 2, -2, -2), 7, 7)
        size = self.picture.deviceIndependentSize()
        if size.width() > 0:
            scale = _PICTURE / max(size.width(), size.height())
            width, height = size.width() * scale, size.height() * scale
            place = QRectF((self.width() - width) / 2, 8 + (_PICTURE - height) / 2, width, height)
            painter.drawPixmap(place, self.picture, QRectF(self.picture.rect()))
        painter.setPen(colour(MINT if self.fits else ALARM))
        painter.setFont(font(12, 600, tabular=True))
        words = QRectF(6, _PICTURE + 12, self.width() - 12, 16)
        painter.drawText(words, Qt.AlignmentFlag.AlignCenter, self.size_words)
        painter.setPen(colour(TEXT if self.isChecked() else QUIET))
        painter.setFont(font(11))
        lines = QRectF(6, _PICTURE + 28, self.width() - 12, 26)
        flags = Qt.AlignmentFlag.AlignHCenter | Qt.TextFlag.TextWordWrap
        painter.drawText(lines, flags, self.candidate.gives_up)
        painter.end()


class FitDialog(QDialog):
    """``taken`` carries the candidate that a person takes."""

    taken = pyqtSignal(object)
    _told = pyqtSignal(str)

    def __init__(self, parent: QWidget, kind: Exporter, job: ExportJob) -> None:
        super().__init__(parent)
        self.kind, self.job = kind, job
        self.setWindowTitle(f"Fit {kind.label} under a limit")
        self.resize(780, 500)
        self.limit = NumberField("At most", "MB", 0.01, 10_000, 0.1)
        self.limit.show_value(3.0)
        self.limit.setFixedWidth(110)
        form = QFormLayout()
        form.addRow("At most", self.limit)
        self.pins = {name: CheckBox(text) for name, text in self._pinnable().items()}
        pins = QHBoxLayout()
        for box in self.pins.values():
            pins.addWidget(box)
        pins.addStretch(1)
        form.addRow("Stays as it is", pins)
        self.state = QLabel("The best way that fits is looked for; what it gives up is shown before it is taken.")
        self.state.setObjectName("Quiet")
        self.state.setWordWrap(True)
        self.search, self.stop = QPushButton("Look for it"), QPushButton("Stop")
        self.take, close = QPushButton("Take these settings"), QPushButton("Close")
        self.search.setObjectName("Primary")
        self.search.clicked.connect(self.look)
        self.stop.clicked.connect(self._stop)
        self.take.clicked.connect(self._take)
        close.clicked.connect(self.reject)
        row = QHBoxLayout()
        row.addStretch(1)
        for button in (self.stop, self.search, self.take, close):
            button.setAutoDefault(False)
            row.addWidget(button)
        self.cards: list[CandidateCard] = []
        self._group = QButtonGroup(self)
        self.area = QScrollArea()
        self.area.setWidgetResizable(True)
        column = QVBoxLayout(self)
        column.addLayout(form)
        column.addWidget(self.state)
        column.addWidget(self.area, 1)
        column.addLayout(row)
        self._background = Background(self)
        self._asked = 0
        self.looking = False
        self._told.connect(self._say, Qt.ConnectionType.QueuedConnection)
        self._show_buttons()

    def _pinnable(self) -> dict[str, str]:
        """Return what of the ladder can be held: settings by their names, then size and rate."""
        changed = {name for step in self.kind.ladder for name in step.settings}
        found = {p.name: p.label for p in self.kind.settings if p.name in changed and p.needs is None}
        if any(step.scale != 1.0 for step in self.kind.ladder):
            found["size"] = "Size"
        if any(step.rate != 1.0 for step in self.kind.ladder):
            found["rate"] = "Frame rate"
        return found

    def look(self) -> None:
        """Look for the best way under the limit, beside the window."""
        limit = round((self.limit.value or 0.0) * 1e6)
        pinned = [name for name, box in self.pins.items() if box.isChecked()]
        self._asked += 1
        asked, self.looking = self._asked, True
        self._show_buttons()

        def done(found: object) -> None:
            if asked == self._asked:
                self.looking = False
                self._show(found, limit)

        self._background.run(
            lambda: fit(self.kind, self.job, limit, pinned, self._told.emit, lambda: asked != self._asked), done
        )

    def _show(self, found: object, limit: int) -> None:
        if isinstance(found, Fit) and found.chosen is not None:
            self._say(f"{found.chosen.gives_up}: {size_text(found.chosen.bytes)}, written in full to be sure.")
            self._show_cards(found, limit)
        elif isinstance(found, SpiralisError) and not isinstance(found, Cancelled):
            self._say(str(found))
        elif isinstance(found, Exception):
            self._say("Stopped." if isinstance(found, Cancelled) else "It could not be worked out; please try again.")
        self._show_buttons()

    def _show_cards(self, found: Fit, limit: int) -> None:
        stage = QWidget()
        row = QHBoxLayout(stage)
        row.setAlignment(Qt.AlignmentFlag.AlignTop)
        row.setSpacing(8)
        self.cards = [CandidateCard(candidate, limit) for candidate in found.candidates]
        for card in self.cards:
            self._group.addButton(card)
            row.addWidget(card)
            card.setChecked(card.candidate is found.chosen)
            card.clicked.connect(self._show_buttons)
        row.addStretch(1)
        self.area.setWidget(stage)

    def chosen(self) -> Candidate | None:
        """Return the way that is chosen among the cards."""
        return next((card.candidate for card in self.cards if card.isChecked()), None)

    def _say(self, text: str) -> None:
        self.state.setText(text)

    def _stop(self) -> None:
        self._asked += 1
        self.looking = False
        self._say("Stopped.")
        self._show_buttons()

    def _show_buttons(self) -> None:
        self.stop.setVisible(self.looking)
        self.search.setVisible(not self.looking)
        self.take.setEnabled(not self.looking and self.chosen() is not None)

    def _take(self) -> None:
        chosen = self.chosen()
        if chosen is not None:
            self.taken.emit(chosen)
            self.accept()

    def reject(self) -> None:
        self._asked += 1
        super().reject()
