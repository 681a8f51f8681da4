"""The list of what was found: a sentence each, what mends it, and what was left alone."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QLabel, QPushButton, QScrollArea, QToolButton, QVBoxLayout, QWidget

from spiralis.app.style import icon
from spiralis.core.checks.findings import NOTE, Cause, mends_of
from spiralis.core.checks.piece import Findings
from spiralis.core.checks.seam import Verdict

#: The longer side of the picture of a row, in px.
PICTURE = 56


class CauseRow(QFrame):
    """One cause. ``mendAsked`` carries the name of a mend."""

    mendAsked = pyqtSignal(object, str)
    showAsked = pyqtSignal(object)
    leaveAsked = pyqtSignal(object)
    lookAsked = pyqtSignal(object)

    def __init__(self, cause: Cause, reason: str | None, pictured: bool = False) -> None:
        super().__init__()
        self.cause = cause
        self.setObjectName("Card")
        row = QHBoxLayout(self)
        row.setContentsMargins(8, 4, 8, 4)
        row.setSpacing(6)
        self.picture = QLabel()
        if pictured:
            self.picture.setFixedSize(PICTURE, PICTURE)
            self.picture.setAlignment(Qt.AlignmentFlag.AlignCenter)
            row.addWidget(self.picture)
        why = "" if reason is None else f" Left alone: {reason or 'no reason given'}."
        words = QLabel(cause.sentence + why)
        words.setObjectName("Quiet" if reason is not None or cause.sort == NOTE else "")
        words.setWordWrap(True)
        row.addWidget(words, 1)
        self.buttons: dict[str, QPushButton] = {}
        for mend in mends_of(cause) if reason is None else ():
            ask = partial(self.mendAsked.emit, cause, mend.name)
            self.buttons[mend.name] = self._button(mend.label, mend.help, ask)
            row.addWidget(self.buttons[mend.name])
        if cause.layer or cause.frames is not None:
            where = QToolButton()
            where.setObjectName("Flat")
            where.setIcon(icon("eye"))
            where.setAccessibleName("Show where it is")
            where.setToolTip("Go to its first frame, and choose the layer and the keys it is about")
            where.clicked.connect(lambda: self.showAsked.emit(cause))
            row.addWidget(where)
        if reason is None:
            self.leave = self._button("Leave it…", "Leave it alone, with a reason", lambda: self.leaveAsked.emit(cause))
        else:
            self.leave = self._button("Look at it again", "Count it again", lambda: self.lookAsked.emit(cause))
        row.addWidget(self.leave)

    def _button(self, text: str, help: str, run: Callable[[], None]) -> QPushButton:
        button = QPushButton(text)
        button.setAutoDefault(False)
        button.setToolTip(help)
        button.setStyleSheet("padding: 4px 8px;")
        button.clicked.connect(lambda: run())
        return button


class CauseList(QScrollArea):
    """All rows: what breaks the loop, what is worth knowing, what is left alone."""

    mendAsked = pyqtSignal(object, str)
    showAsked = pyqtSignal(object)
    leaveAsked = pyqtSignal(object)
    lookAsked = pyqtSignal(object)

    def __init__(self, calm: str, pictured: bool = False) -> None:
        super().__init__()
        self._calm, self._pictured = calm, pictured
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.rows: list[CauseRow] = []

    def show_verdict(self, verdict: Verdict | Findings) -> None:
        """List what was found."""
        stage = QWidget()
        column = QVBoxLayout(stage)
        column.setContentsMargins(0, 0, 4, 0)
        column.setSpacing(4)
        self.rows = []
        for title, found in (
            ("", [(cause, None) for cause in verdict.causes]),
            ("Worth knowing", [(cause, None) for cause in verdict.notes]),
            ("Left alone", list(verdict.ignored)),
        ):  # fmt: skip
            if title and found:
                heading = QLabel(title)
                heading.setObjectName("Quiet")
                column.addWidget(heading)
            for cause, reason in found:
                self._add(column, CauseRow(cause, reason, self._pictured))
        if not self.rows:
            calm = QLabel(self._calm)
            calm.setObjectName("Quiet")
            column.addWidget(calm)
        column.addStretch(1)
        self.setWidget(stage)

    def _add(self, column: QVBoxLayout, row: CauseRow) -> None:
        for name in ("mendAsked", "showAsked", "leaveAsked", "lookAsked"):
            getattr(row, name).connect(getattr(self, name))
        column.addWidget(row)
        self.rows.append(row)
