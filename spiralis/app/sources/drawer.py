"""The drawer itself: slides over from the left edge, lists, searches, acts on the chosen row."""

from __future__ import annotations

from PyQt6.QtCore import QEasingCurve, QEvent, QObject, QPoint, QPropertyAnimation, Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QLabel, QMenu, QToolButton, QVBoxLayout, QWidget

from spiralis.app.session import Session
from spiralis.app.sources.acting import SourceActions
from spiralis.app.sources.entries import Entry, entries_of
from spiralis.app.sources.listing import SourceList, opaque
from spiralis.app.style import icon
from spiralis.app.widgets.text_fields import TextField
from spiralis.app.work.soon import Soon

WIDTH = 344
_MILLISECONDS = 140


class SourcesDrawer(QFrame):
    """Lies over the left edge of ``host``; shut it takes no room."""

    def __init__(self, session: Session, host: QWidget, actions: SourceActions) -> None:
        super().__init__(host)
        self.session, self.host, self.acts = session, host, actions
        self.setObjectName("Drawer")
        opaque(self)
        self.hide()
        self.search = TextField()
        self.search.setPlaceholderText("Search by name or kind")
        self.search.setAccessibleName("Search sources")
        self.search.setClearButtonEnabled(True)
        self.list = SourceList(session)
        self.list.asked.connect(self._enter)
        self.list.keyed.connect(self._act)
        self.hint = QLabel("Nothing here yet. Drop files anywhere in the window, or bring them in with +.")
        self.hint.setObjectName("Quiet")
        self.hint.setWordWrap(True)
        self.hint.setAlignment(Qt.AlignmentFlag.AlignCenter)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 10, 0, 8)
        column.setSpacing(6)
        column.addLayout(self._head())
        searching = QHBoxLayout()
        searching.setContentsMargins(12, 0, 12, 0)
        searching.addWidget(self.search)
        column.addLayout(searching)
        column.addWidget(self.list, 1)
        column.addWidget(self.hint, 1)
        column.addLayout(self._foot())
        self._slide = QPropertyAnimation(self, b"pos", self)
        self._slide.setDuration(_MILLISECONDS)
        self._slide.setEasingCurve(QEasingCurve.Type.OutCubic)
        self._slide.finished.connect(self._slid)
        self._soon = Soon(self, self.refresh, wait=120)
        self.search.textChanged.connect(self._soon.ask)
        self.list.currentItemChanged.connect(self._show_buttons)
        session.projectChanged.connect(self._soon.ask)
        host.installEventFilter(self)

    def _head(self) -> QHBoxLayout:
        title = QLabel("Sources")
        title.setObjectName("Title")
        row = QHBoxLayout()
        row.setContentsMargins(14, 0, 8, 0)
        row.setSpacing(4)
        row.addWidget(title, 1)
        row.addWidget(self._button("plus", "Bring files in (Ctrl+I)", self.acts.bring_in))
        more = self._button("menu", "Collect, link, tidy up", None)
        more.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        menu = QMenu(more)
        menu.addAction("Collect every file into the project", self.acts.collect)
        menu.addAction("Link to files outside instead…", self.acts.link)
        menu.addSeparator()
        menu.addAction("Remove what nothing uses", self.acts.remove_unused)
        more.setMenu(menu)
        row.addWidget(more)
        row.addWidget(self._button("close", "Shut the drawer", self.shut))
        return row

    def _button(self, picture: str, help: str, run) -> QToolButton:  # type: ignore[no-untyped-def]
        button = QToolButton()
        button.setObjectName("Flat")
        button.setIcon(icon(picture))
        button.setToolTip(help)
        button.setAccessibleName(help)
        if run is not None:
            button.clicked.connect(lambda: run())
        return button

    def _foot(self) -> QHBoxLayout:
        self.buttons: dict[str, QToolButton] = {}
        row = QHBoxLayout()
        row.setContentsMargins(10, 2, 10, 0)
        row.setSpacing(4)
        for name, help in (
            ("Open", "Show this composition on the canvas"), ("Add", "Add it to the piece as a layer"),
            ("Set words", "Set the chosen words in this font"),
            ("Refresh", "Read the file again"), ("Replace", "Take another file in its place"),
            ("Relink", "Say where the missing file is"), ("Rename", "Give it another name (F2)"),
            ("Folder", "List it under a folder"), ("Remove", "Take it out of the project (Delete)"),
        ):  # fmt: skip
            button = QToolButton()
            button.setText(name)
            button.setToolTip(help)
            button.setStyleSheet("padding: 4px 6px;")
            button.clicked.connect(lambda _=False, n=name: self._act(n))
            row.addWidget(button)
            self.buttons[name] = button
        row.addStretch(1)
        # A row that is chosen must not slip out of sight as the buttons come.
        row.addStrut(button.sizeHint().height())
        return row

    # -- sliding -----------------------------------------------------------------------------------------

    @property
    def is_open(self) -> bool:
        """Whether it is out, or on its way."""
        return self.isVisible() and not (self._slide.state() and self._slide.endValue() == self._shut_place())

    def toggle(self) -> None:
        """Slide out or back in."""
        self.shut() if self.is_open else self.open()

    def open(self) -> None:
        """Slide out."""
        self.resize(WIDTH, self.host.height())
        if not self.isVisible():
            self.move(self._shut_place())
        self.show()
        self.raise_()
        self.refresh()
        self._go(QPoint(0, 0))
        self.search.setFocus()

    def shut(self) -> None:
        """Slide back in."""
        self._go(self._shut_place())

    def _shut_place(self) -> QPoint:
        return QPoint(-WIDTH, 0)

    def _go(self, place: QPoint) -> None:
        self._slide.stop()
        self._slide.setStartValue(self.pos())
        self._slide.setEndValue(place)
        self._slide.start()

    def _slid(self) -> None:
        if self.pos() == self._shut_place():
            self.hide()

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        # A window that is taken apart still sends events, when this has no attributes any more.
        if watched is getattr(self, "host", None) and event is not None and event.type() == QEvent.Type.Resize:
            self.resize(WIDTH, self.host.height())
        return False

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.shut()
            return
        super().keyPressEvent(event)

    # -- rows --------------------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Show what the project holds."""
        if not self.isVisible():
            self.list.clear()
            return
        entries = entries_of(self.session.project, self.search.text())
        self.list.show_entries(entries)
        self.list.setVisible(bool(entries))
        self.hint.setVisible(not entries)
        if not entries and self.search.text():
            self.hint.setText("Nothing is called that.")
        self._show_buttons()

    def _show_buttons(self) -> None:
        entry = self.list.entry()
        shown = self.acts.possible(entry) if entry is not None else ()
        for name, button in self.buttons.items():
            button.setVisible(name in shown)

    def _enter(self, entry: Entry) -> None:
        """Do what a double click stands for."""
        possible = self.acts.possible(entry)
        if possible:
            self.acts.act(possible[0], entry)

    def _act(self, name: str) -> None:
        entry = self.list.entry()
        if entry is not None and name in self.acts.possible(entry):
            self.acts.act(name, entry)
