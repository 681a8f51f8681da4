"""The Frames window: a contact sheet of the piece, and two frames side by side or flicked."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
from PIL import Image
from PyQt6.QtCore import QSize, Qt, QTimer
from PyQt6.QtGui import QCloseEvent, QPainter, QPaintEvent, QPixmap
from PyQt6.QtWidgets import (
    QDialog,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QScrollArea,
    QTabWidget,
    QVBoxLayout,
    QWidget,
)

from spiralis.app.session import Session
from spiralis.app.style import QUIET, SURROUND, colour, font
from spiralis.app.widgets.fields import CheckBox, NumberField
from spiralis.app.widgets.file_dialogs import ask_save
from spiralis.app.widgets.images import as_image
from spiralis.app.work.background import Background
from spiralis.app.work.renderers import RENDERERS
from spiralis.app.work.soon import Soon
from spiralis.core.media.files import unwritten
from spiralis.core.media.placing import placed
from spiralis.core.render.contact import contact_sheet

_FLICK = 400
#: So long, in ms, the project rests before both are drawn anew.
_RESTS = 250


class FramesWindow(QDialog):
    """Drawn anew when the project has changed and rests."""

    def __init__(self, parent: QWidget, session: Session) -> None:
        super().__init__(parent)
        self.setWindowTitle("Frames")
        self.resize(1000, 720)
        self.session = session
        self.tabs = QTabWidget()
        self.sheet, self.pair = SheetPage(session), PairPage(session)
        self.tabs.addTab(self.sheet, "Contact sheet")
        self.tabs.addTab(self.pair, "Two frames")
        column = QVBoxLayout(self)
        column.addWidget(self.tabs)
        self._soon = Soon(self, self.make, wait=_RESTS, rests=True)
        for signal in (session.projectChanged, session.compositionChanged):
            signal.connect(self._changed)

    def _changed(self) -> None:
        self.sheet.outdate()
        self._soon.ask()

    def make(self) -> None:
        """Draw what is shown as it is now."""
        if self.isVisible():
            self.sheet.make()
            self.pair.make()

    def closeEvent(self, event: QCloseEvent) -> None:
        self.pair.timer.stop()
        super().closeEvent(event)


class SheetPage(QWidget):
    """The contact sheet with how many frames and how wide, and a button that writes it."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.pixels: np.ndarray | None = None
        self._asked: object = None
        self.background = Background(self)
        self.picture = QLabel("Drawing…")
        self.picture.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.count = NumberField("Frames", "", 1, 200, decimals=0)
        self.columns = NumberField("Columns", "", 1, 20, decimals=0)
        self.wide = NumberField("Width of each", "px", 40, 1000, decimals=0)
        head = QHBoxLayout()
        for field, value in ((self.count, 16.0), (self.columns, 8.0 if _upright(session) else 4.0), (self.wide, 112.0)):
            label = QLabel(field.label)
            label.setObjectName("Quiet")
            field.show_value(value)
            field.setFixedWidth(70)
            field.finished.connect(self.make)
            head.addWidget(label)
            head.addWidget(field)
        head.addStretch(1)
        self.writes = QPushButton("Write as a picture…")
        self.writes.clicked.connect(self._ask)
        head.addWidget(self.writes)
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setWidget(self.picture)
        column = QVBoxLayout(self)
        column.addLayout(head)
        column.addWidget(area, 1)
        self.make()

    def outdate(self) -> None:
        """The sheet is not that of the piece as it is now: it is not written until it is drawn anew."""
        self.pixels = None
        self.writes.setEnabled(False)

    def make(self) -> None:
        """Draw the sheet beside the window."""
        self.outdate()
        project, piece = self.session.project, self.session.composition_id
        numbers = [int(field.value or 1) for field in (self.count, self.columns, self.wide)]
        self._asked = asked = (project, piece, *numbers)
        self.background.run_newest(lambda: contact_sheet(*asked), lambda pixels: self._take(asked, pixels))

    def _take(self, asked: object, pixels: Any) -> None:
        if isinstance(pixels, np.ndarray) and asked is self._asked:
            self.writes.setEnabled(True)
            self.pixels = np.ascontiguousarray(pixels)
            self.picture.setPixmap(QPixmap.fromImage(as_image(self.pixels, premultiplied=False).copy()))

    def _ask(self) -> None:
        path = ask_save(self, "export", "Write the contact sheet", "contact-sheet.png", "Pictures (*.png)")
        if path is not None:
            self.write(path)

    def write(self, path: Path) -> None:
        """Write the sheet as PNG, whole or not at all."""
        if self.pixels is None:
            return
        try:
            with placed(path) as temporary:
                Image.fromarray(self.pixels).save(temporary, format="PNG")
        except OSError as error:
            self.session.failed.emit(unwritten(path, error))
            return
        self.session.said.emit(f"The contact sheet is in {path.name}.")


def _upright(session: Session) -> bool:
    return session.composition.height > session.composition.width


class PairPage(QWidget):
    """Two frames side by side, or one after the other in one place."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.background = Background(self)
        first, last = session.composition.span
        self.fields = [NumberField(name, "f", -1e6, 1e6, decimals=0) for name in ("First frame", "Second frame")]
        for field, frame in zip(self.fields, (first, last - 1), strict=True):
            field.show_value(float(frame))
            field.setFixedWidth(70)
            field.changed.connect(lambda _: self.make())
        self.flick = CheckBox("Flick between them")
        self.flick.toggled.connect(self._toggle)
        here = QPushButton("Second is the playhead")
        here.clicked.connect(self._take_playhead)
        self.view = PairView()
        self.timer = QTimer(self)
        self.timer.setInterval(_FLICK)
        self.timer.timeout.connect(self.view.turn)
        head = QHBoxLayout()
        for field in self.fields:
            label = QLabel(field.label)
            label.setObjectName("Quiet")
            head.addWidget(label)
            head.addWidget(field)
        head.addWidget(here)
        head.addWidget(self.flick)
        head.addStretch(1)
        column = QVBoxLayout(self)
        column.addLayout(head)
        column.addWidget(self.view, 1)
        self.make()

    def _take_playhead(self) -> None:
        self.fields[1].show_value(float(self.session.frame))
        self.make()

    def _toggle(self, on: bool) -> None:
        self.view.flicks = on
        self.timer.start() if on else self.timer.stop()
        self.view.update()

    def make(self) -> None:
        """Draw both frames beside the window."""
        project, piece = self.session.project, self.session.composition
        frames = [int(field.value or 0) for field in self.fields]
        scale = min(1.0, 640 / max(piece.width, piece.height))

        def work() -> list[tuple[int, np.ndarray]]:
            return [(frame, RENDERERS.picture(project, piece.id, frame, scale)) for frame in frames]

        self.background.run_newest(work, self.view.take)


class PairView(QWidget):
    """Paints the two frames."""

    def __init__(self) -> None:
        super().__init__()
        self.flicks = False
        self.second = False
        self.frames: list[tuple[int, np.ndarray]] = []
        self.setAccessibleName("Two frames")

    def sizeHint(self) -> QSize:
        return QSize(900, 600)

    def take(self, frames: Any) -> None:
        """Show these frames."""
        if isinstance(frames, list):
            self.frames = frames
            self.update()

    def turn(self) -> None:
        """Show the other one."""
        self.second = not self.second
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), colour(SURROUND))
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        shown = self.frames[int(self.second) :][:1] if self.flicks else self.frames
        room = self.width() / max(len(shown), 1)
        for index, (frame, pixels) in enumerate(shown):
            height, width = pixels.shape[:2]
            scale = min((room - 16) / width, (self.height() - 40) / height, 1.0)
            x = index * room + (room - width * scale) / 2
            y = (self.height() - 24 - height * scale) / 2
            image = as_image(pixels, premultiplied=True)
            painter.drawImage(round(x), round(y), image.scaled(round(width * scale), round(height * scale)))
            painter.setPen(colour(QUIET))
            painter.setFont(font(12, 500, tabular=True))
            painter.drawText(round(x), round(y + height * scale) + 18, f"frame {frame}")
        painter.end()
