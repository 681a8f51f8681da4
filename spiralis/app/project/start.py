"""The start page: formats as cards in true proportion, an own size, recent projects, the demo."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QImage, QKeyEvent, QPaintEvent, QPen, QPixmap
from PyQt6.QtWidgets import (
    QAbstractButton,
    QFrame,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from spiralis.app.library.formats import OWN_FORMATS, OwnFormat
from spiralis.app.library.keeping import Keeper
from spiralis.app.project.formats import FORMATS, Format, FormatFields
from spiralis.app.project.recent import recent_projects, stored_thumbnail
from spiralis.app.project.studies import Studies
from spiralis.app.style import MARIGOLD, QUIET, TEXT, colour, font, icon_pixmap
from spiralis.app.widgets.cards import begin_card
from spiralis.app.widgets.fields import ListField
from spiralis.app.widgets.preferences import preferred
from spiralis.core.errors import ModelError
from spiralis.core.model import Composition
from spiralis.demo.stored import stored_path


class FormatCard(QAbstractButton):
    """A format, drawn as an outline in its true proportion."""

    def __init__(self, choice: Format) -> None:
        super().__init__()
        self.choice = choice
        self.setFixedSize(150, 190)
        self.setAccessibleName(f"{choice.name}, {choice.width} × {choice.height}")
        self.setToolTip(f"Start a {choice.name.lower()} piece of {choice.width} × {choice.height} px")

    def paintEvent(self, event: QPaintEvent) -> None:
        painter, lit = begin_card(self, 10, 1.4)
        scale = 104 / max(self.choice.width, self.choice.height)
        width, height = self.choice.width * scale, self.choice.height * scale
        outline = QRectF(75 - width / 2, 70 - height / 2, width, height)
        painter.setPen(QPen(colour(MARIGOLD if lit else QUIET), 2))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRoundedRect(outline, 4, 4)
        painter.setPen(colour(TEXT))
        painter.setFont(font(14, 700))
        painter.drawText(QRectF(0, 132, 150, 18), Qt.AlignmentFlag.AlignCenter, self.choice.name)
        painter.setPen(colour(QUIET))
        painter.setFont(font(12, tabular=True))
        painter.drawText(
            QRectF(0, 150, 150, 16), Qt.AlignmentFlag.AlignCenter, f"{self.choice.width} × {self.choice.height}"
        )
        painter.drawText(QRectF(0, 166, 150, 16), Qt.AlignmentFlag.AlignCenter, self.choice.use)
        painter.end()


class ProjectCard(QAbstractButton):
    """A project that was open before, or the demo."""

    def __init__(self, title: str, subtitle: str, thumbnail: QImage | None) -> None:
        super().__init__()
        self.title, self.subtitle = title, subtitle
        self.picture = QPixmap.fromImage(thumbnail) if thumbnail is not None else icon_pixmap("folder", QUIET)
        self.setFixedHeight(64)
        self.setMinimumWidth(280)
        self.setAccessibleName(title)
        self.setToolTip(subtitle)

    def sizeHint(self) -> QSize:
        return QSize(300, 64)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter, _ = begin_card(self, 8)
        size = self.picture.deviceIndependentSize()
        scale = min(48 / size.width(), 48 / size.height(), 1.0) if self.picture.height() > 40 else 1.0
        width, height = size.width() * scale, size.height() * scale
        painter.drawPixmap(
            QRectF(36 - width / 2, 32 - height / 2, width, height), self.picture, QRectF(self.picture.rect())
        )
        painter.setPen(colour(TEXT))
        painter.setFont(font(13, 600))
        room = self.width() - 84
        painter.drawText(QRectF(70, 12, room, 20), Qt.AlignmentFlag.AlignVCenter, self.title)
        painter.setPen(colour(QUIET))
        painter.setFont(font(12))
        text = painter.fontMetrics().elidedText(self.subtitle, Qt.TextElideMode.ElideMiddle, room)
        painter.drawText(QRectF(70, 32, room, 18), Qt.AlignmentFlag.AlignVCenter, text)
        painter.end()


class StartPage(QWidget):
    """What the window shows first."""

    newAsked = pyqtSignal(object)
    openAsked = pyqtSignal()
    projectAsked = pyqtSignal(object)
    demoAsked = pyqtSignal()
    #: A piece of the demo is to be opened: its id.
    studyAsked = pyqtSignal(str)
    backAsked = pyqtSignal()
    stepsAsked = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("Panel")
        first = next(choice for choice in FORMATS if choice.name == preferred("format"))
        self.fields = FormatFields(first.width, first.height)
        self.problem = QLabel()
        self.problem.setObjectName("Alarm")
        self.problem.setWordWrap(True)
        self.recent = QVBoxLayout()
        self.recent.setSpacing(6)
        columns = QHBoxLayout()
        columns.setSpacing(64)
        columns.addStretch(1)
        columns.addLayout(self._left())
        columns.addLayout(self._right())
        columns.addStretch(1)
        page = QWidget()
        page.setObjectName("Panel")
        outer = QVBoxLayout(page)
        outer.setContentsMargins(30, 12, 30, 12)
        outer.addStretch(2)
        outer.addLayout(columns)
        outer.addSpacing(18)
        self.studies = Studies()
        self.studies.asked.connect(self.studyAsked)
        outer.addWidget(self.studies, 0, Qt.AlignmentFlag.AlignHCenter)
        outer.addStretch(3)
        # What a small window has no room for is scrolled to, not cut.
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setFrameShape(QFrame.Shape.NoFrame)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        scroll.setWidget(page)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.addWidget(scroll)
        self.refresh()

    def _left(self) -> QVBoxLayout:
        column = QVBoxLayout()
        column.setSpacing(14)
        mark = QHBoxLayout()
        badge = QLabel()
        badge.setPixmap(icon_pixmap("spiralis", TEXT, 44))
        name = QLabel("Spiralis")
        name.setFont(font(30, 700))
        name.setStyleSheet("font-size: 30px; font-weight: 700;")
        mark.addWidget(badge)
        mark.addWidget(name)
        mark.addStretch(1)
        self.back = QPushButton()
        self.back.setToolTip("Return to the open project (Escape)")
        self.back.clicked.connect(self.backAsked)
        self.back.hide()
        mark.addWidget(self.back)
        column.addLayout(mark)
        column.addWidget(self._heading("Start a piece"))
        cards = QHBoxLayout()
        cards.setSpacing(12)
        self.cards = [FormatCard(choice) for choice in FORMATS]
        for card in self.cards:
            card.clicked.connect(lambda _=False, picked=card.choice: self._start_card(picked))
            if cards.count():
                cards.addStretch(1)
            cards.addWidget(card)
        column.addLayout(cards)
        column.addWidget(self._heading("Rate and length for all of them, or a size of your own"))
        own = QFrame()
        own.setObjectName("Card")
        row = QHBoxLayout(own)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(20)
        row.addWidget(self.fields)
        self.begin = QPushButton("Start with this size")
        self.begin.setObjectName("Primary")
        self.begin.clicked.connect(self._start_own)
        row.addLayout(self._own_formats())
        row.addWidget(self.begin, 0, Qt.AlignmentFlag.AlignBottom)
        row.addStretch(1)
        column.addWidget(own)
        column.addWidget(self.problem)
        column.addStretch(1)
        return column

    def _own_formats(self) -> QVBoxLayout:
        """What was kept of sizes, rates and lengths, and how to keep the present one."""
        column = QVBoxLayout()
        column.addStretch(1)
        self.own = ListField()
        self.own.setAccessibleName("Your formats")
        self.own.setToolTip("Formats that you keep in the library")
        self.own.setMinimumContentsLength(14)
        self.own.activated.connect(lambda index: self._show_own(self.own.itemData(index)))
        self.keep = QPushButton("Keep this format…")
        self.keep.setToolTip("Keep size, rate and length in the library, for every project")
        self.keep.clicked.connect(self._ask_keep)
        column.addWidget(self.own)
        column.addWidget(self.keep)
        OWN_FORMATS.when_changed(self._list_own)
        self.keeper = Keeper(self, OWN_FORMATS, self.problem.setText)
        self._list_own()
        return column

    def _list_own(self) -> None:
        self.own.clear()
        self.own.addItem("Your formats", None)
        for form in OWN_FORMATS.all():
            self.own.addItem(form.name, form)
            self.own.setItemData(self.own.count() - 1, form.words, Qt.ItemDataRole.ToolTipRole)
        self.own.setVisible(self.own.count() > 1)

    def _show_own(self, form: OwnFormat | None) -> None:
        if form is not None:
            self.fields.show_format(form.width, form.height, form.rate, form.seconds)

    def _ask_keep(self) -> None:
        if name := self.keeper.ask_name("Keep this format", "Name of the format:"):
            self.keep_format(name)

    def keep_format(self, name: str) -> None:
        """Keep what the fields say under a name."""

        def made() -> OwnFormat:
            width, height, rate, length = self.fields.values()
            return OwnFormat(name, width, height, Fraction(rate), length / float(rate))

        self.problem.setText("")
        if self.keeper.keep(made):
            self.own.setCurrentText(name)

    def _right(self) -> QVBoxLayout:
        column = QVBoxLayout()
        column.setSpacing(10)
        # As high as the name on the left, so that both columns begin on one line.
        column.addSpacing(58)
        column.addWidget(self._heading("The demo"))
        self.demo = ProjectCard("Tolvane Kites", "finished pieces to take apart", None)
        thumbnail = stored_thumbnail(stored_path())
        self.demo.picture = QPixmap.fromImage(thumbnail) if thumbnail else icon_pixmap("spiralis", TEXT, 44)
        self.demo.clicked.connect(self.demoAsked)
        column.addWidget(self.demo)
        steps = QPushButton("First steps, in five minutes…")
        steps.setToolTip("What to do is said and shown, on the demo")
        steps.clicked.connect(self.stepsAsked)
        column.addWidget(steps)
        column.addSpacing(10)
        column.addWidget(self._heading("Recent projects"))
        column.addLayout(self.recent)
        opener = QPushButton("Open a project…")
        opener.setToolTip("Open a project file (Ctrl+O)")
        opener.clicked.connect(self.openAsked)
        column.addWidget(opener)
        column.addStretch(1)
        return column

    def _heading(self, text: str) -> QLabel:
        label = QLabel(text)
        label.setObjectName("Quiet")
        return label

    def refresh(self) -> None:
        """List the recent projects as they are now."""
        while (item := self.recent.takeAt(0)) is not None:
            if item.widget() is not None:
                item.widget().hide()
                item.widget().deleteLater()
        paths = recent_projects()[:5]
        for path in paths:
            card = ProjectCard(path.stem, str(path.parent), stored_thumbnail(path))
            card.clicked.connect(lambda _=False, picked=path: self.projectAsked.emit(Path(picked)))
            self.recent.addWidget(card)
        if not paths:
            self.recent.addWidget(self._heading("Projects you save or open appear here."))

    def offer_back(self, name: str | None) -> None:
        """Offer the way back to the open project; None where there is none."""
        self.back.setVisible(name is not None)
        self.back.setText(f"Back to {name}")

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape and not self.back.isHidden():
            self.backAsked.emit()
            return
        super().keyPressEvent(event)

    def _start_card(self, choice: Format) -> None:
        self.fields.across.show_value(choice.width)
        self.fields.down.show_value(choice.height)
        self._start(choice.name)

    def _start_own(self) -> None:
        self._start("Piece")

    def _start(self, name: str) -> None:
        try:
            width, height, rate, length = self.fields.values()
        except ModelError as error:
            self.problem.setText(str(error))
            return
        self.problem.setText("")
        self.newAsked.emit(Composition(name, width, height, Fraction(rate), length))
