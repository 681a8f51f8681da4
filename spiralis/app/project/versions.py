"""The window of versions: earlier states of the project with their pictures, to go back to or to write out."""

from __future__ import annotations

import time
from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QPaintEvent, QPixmap
from PyQt6.QtWidgets import (
    QAbstractButton,
    QButtonGroup,
    QDialog,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from spiralis.app.project.recent import stored_thumbnail
from spiralis.app.session import Session
from spiralis.app.style import MARIGOLD, QUIET, TEXT, colour, font
from spiralis.app.widgets.cards import begin_card
from spiralis.app.work.beside import beside
from spiralis.core.errors import SpiralisError
from spiralis.core.storage.versions import Version, versions

_COLUMNS = 4
_STAGE = 150


def told(when: float) -> str:
    """Return a moment in words: the time of day, with the date where it is not today."""
    then, now = time.localtime(when), time.localtime()
    clock = time.strftime("%H:%M:%S", then)
    return clock if then[:3] == now[:3] else f"{time.strftime('%Y-%m-%d', then)}, {clock}"


class VersionCard(QAbstractButton):
    """One version: its picture, when it was kept and why."""

    def __init__(self, version: Version) -> None:
        super().__init__()
        self.version = version
        image = stored_thumbnail(version.path)
        self.picture = QPixmap.fromImage(image) if image is not None else None
        self.setCheckable(True)
        self.setAccessibleName(f"{told(version.when)}, {version.why}")
        self.setToolTip(f"{version.why}, {told(version.when)}: {version.path.stat().st_size / 1e6:.1f} MB")
        self.setFixedSize(self.sizeHint())

    def sizeHint(self) -> QSize:
        return QSize(_STAGE + 16, _STAGE + 52)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter, _ = begin_card(self, 8)
        if self.isChecked():
            painter.setPen(colour(MARIGOLD))
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(2, 2, -2, -2), 7, 7)
        if self.picture is not None:
            size = self.picture.deviceIndependentSize()
            scale = _STAGE / max(size.width(), size.height())
            width, height = size.width() * scale, size.height() * scale
            place = QRectF((self.width() - width) / 2, 8 + (_STAGE - height) / 2, width, height)
            painter.drawPixmap(place, self.picture, QRectF(self.picture.rect()))
        for y, text, shade, weight in (
            (_STAGE + 14, told(self.version.when), TEXT, 600), (_STAGE + 30, self.version.why, QUIET, 400),
        ):  # fmt: skip
            painter.setPen(colour(shade))
            painter.setFont(font(12, weight, tabular=True))
            painter.drawText(QRectF(4, y, self.width() - 8, 16), Qt.AlignmentFlag.AlignCenter, text)
        painter.end()


class VersionsWindow(QDialog):
    """``copy`` asks for a file and writes a project to it."""

    def __init__(self, parent: QWidget, session: Session, copy: Callable[[Path], None]) -> None:
        super().__init__(parent)
        self.session, self._copy = session, copy
        self.setWindowTitle("Versions")
        self.resize(760, 520)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.cards: list[VersionCard] = []
        self._group = QButtonGroup(self)
        self._grid = QGridLayout()
        self._grid.setSpacing(10)
        self._grid.setColumnStretch(_COLUMNS, 1)
        stage = QWidget()
        filled = QVBoxLayout(stage)
        filled.addLayout(self._grid)
        filled.addStretch(1)
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setWidget(stage)
        self.note = QLabel()
        self.note.setObjectName("Quiet")
        self.note.setWordWrap(True)
        self.back, self.write = QPushButton("Go back to it"), QPushButton("Write it to a file…")
        self.back.setObjectName("Primary")
        self.back.setToolTip("The project becomes what it was then; Undo brings back what is now")
        self.write.setToolTip("Save the chosen version as a project of its own")
        self.back.clicked.connect(self.go_back)
        self.write.clicked.connect(self._write)
        close = QPushButton("Close")
        close.clicked.connect(self.reject)
        row = QHBoxLayout()
        row.addStretch(1)
        for button in (self.write, self.back, close):
            row.addWidget(button)
        column = QVBoxLayout(self)
        column.setSpacing(10)
        column.addWidget(self.note)
        column.addWidget(area, 1)
        column.addLayout(row)
        self.refresh()

    def refresh(self) -> None:
        """Show what is kept now."""
        for card in self.cards:
            self._group.removeButton(card)
            card.deleteLater()
        found = versions(self.session.path, self.session.project)
        self.cards = [VersionCard(version) for version in found]
        for place, card in enumerate(self.cards):
            self._group.addButton(card)
            self._grid.addWidget(card, place // _COLUMNS, place % _COLUMNS)
            card.clicked.connect(self._show_buttons)
        self.note.setText(
            "Kept at each save and while you work; the last ten stay."
            if found
            else "There is no version yet: one is kept at each save, and every few minutes while you work."
        )
        self._show_buttons()

    def chosen(self) -> Version | None:
        """Return the version that is chosen."""
        return next((card.version for card in self.cards if card.isChecked()), None)

    def _show_buttons(self) -> None:
        for button in (self.back, self.write):
            button.setEnabled(self.chosen() is not None)

    def go_back(self) -> None:
        """Let the project become the chosen version, as one step that can be undone."""
        version = self.chosen()
        if version is None:
            return
        try:
            project = beside(version.load)
        except SpiralisError as error:
            self.session.failed.emit(str(error))
            return
        self.session.edit_project(f"Back to {told(version.when)}", project, locked_too=True)
        self.session.said.emit(f"This is the project as it was at {told(version.when)}; Undo leads back to now.")
        self.accept()

    def _write(self) -> None:
        version = self.chosen()
        if version is not None:
            self._copy(version.path)
