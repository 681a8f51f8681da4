"""The foot of the export window: how far a file is, what became of it, and the buttons that go with that."""

from __future__ import annotations

from PyQt6.QtWidgets import QFrame, QHBoxLayout, QLabel, QProgressBar, QPushButton, QVBoxLayout

from spiralis.app.export.outside import show_outside
from spiralis.app.widgets.dressing import say
from spiralis.core.media.exporters import ExportResult


class Foot(QFrame):
    """Shows the buttons that make sense; what they do is the window's."""

    def __init__(self) -> None:
        super().__init__()
        self.result: ExportResult | None = None
        self.bar = QProgressBar()
        self.bar.setTextVisible(False)
        self.state = QLabel()
        self.state.setWordWrap(True)
        self.feed = QPushButton("Feed preview")
        self.feed.setToolTip("See the file going round at the size of a phone")
        self.show_folder = QPushButton("Show in folder")
        self.show_folder.clicked.connect(lambda: show_outside(self.result, folder=True))
        self.open_file = QPushButton("Open")
        self.open_file.clicked.connect(lambda: show_outside(self.result, folder=False))
        self.fit = QPushButton("Fit under…")
        self.fit.setToolTip("Look for the best way to write it that stays under so many MB")
        self.cancel = QPushButton("Cancel")
        self.work_on = QPushButton("Go on working")
        self.work_on.setToolTip("Close this window; the file is written beside the work")
        self.close_ = QPushButton("Close")
        self.begin = QPushButton("Export now…")
        self.begin.setObjectName("Primary")
        self.begin.setToolTip("Ask where to, and write; where a file is being written already, after it")
        row = QHBoxLayout()
        row.setSpacing(8)
        row.addWidget(self.state, 1)
        after = (self.feed, self.show_folder, self.open_file)
        for button in (*after, self.fit, self.cancel, self.work_on, self.close_, self.begin):
            row.addWidget(button)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        column.addWidget(self.bar)
        column.addLayout(row)

    def say(self, text: str, look: str = "Quiet") -> None:
        """Say how it goes."""
        say(self.state, text, look)

    def show_share(self, done: int, total: int) -> None:
        """Show how much of a file is written."""
        self.bar.setRange(0, total)
        self.bar.setValue(done)

    def show_buttons(self, busy: bool, ready: bool, waits: bool, fits: bool) -> None:
        """Show what can be done: while a file is written (``busy``), where there is something to write (``ready``),
        which would have to wait for another (``waits``), and a size can be looked for (``fits``).

        Where the button with the focus goes, the one that stands for it takes the focus: otherwise it would wander into
        the settings, where the next key typed changed a number.
        """
        result = self.result
        held = self.window().focusWidget()
        self.begin.setEnabled(ready and not busy)
        self.begin.setVisible(not busy)
        self.begin.setText("Add to the list…" if waits else "Export now…")
        self.fit.setVisible(not busy and fits)
        for button in (self.cancel, self.work_on, self.bar):
            button.setVisible(busy)
        self.close_.setVisible(not busy)
        for button in (self.show_folder, self.open_file):
            button.setVisible(result is not None)
        self.feed.setVisible(result is not None and result.frames > 1)
        if held is not None and self.isAncestorOf(held) and not (held.isEnabled() and held.isVisibleTo(self)):
            (self.work_on if busy else self.begin if ready else self.close_).setFocus()
