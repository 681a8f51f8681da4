"""The Checks window: what is wrong with the piece itself, each finding with its frame, its mends, or a reason to leave
it."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from PyQt6.QtGui import QCloseEvent
from PyQt6.QtWidgets import QDialog, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from spiralis.app.checks.acting import CauseActs
from spiralis.app.checks.looking import Looking
from spiralis.app.checks.rows import PICTURE, CauseList
from spiralis.app.checks.watch import ChecksWatch
from spiralis.app.session import Session
from spiralis.app.widgets.dressing import say
from spiralis.app.widgets.file_dialogs import ask_open
from spiralis.app.work.background import SmallPictures
from spiralis.app.work.renderers import RENDERERS
from spiralis.app.work.soon import Soon
from spiralis.core.checks.piece import Findings, check_piece
from spiralis.core.checks.piece.word_list import read_word_list
from spiralis.core.errors import SpiralisError
from spiralis.core.model import Composition, Project

_CALM = (
    "Nothing is wrong: it does not flash too much, its words are there long enough, large enough and clear enough, "
    "and nothing is cut."
)


class ChecksWindow(QDialog):
    """Follows the piece on the canvas as it changes."""

    def __init__(self, parent: QWidget, session: Session, watch: ChecksWatch) -> None:
        super().__init__(parent)
        self.session, self.watch = session, watch
        self.setWindowTitle("Checks")
        self.resize(860, 620)
        self.findings: Findings | None = None
        self.known: frozenset[str] | None = None
        self.words, self.about = QLabel(), QLabel()
        self.words.setStyleSheet("font-size: 20px; font-weight: 700;")
        self.about.setObjectName("Quiet")
        self.spell = QPushButton("Word list…")
        self.spell.setAutoDefault(False)
        self.spell.setToolTip("Spell by a text file of words, one a line; once more to stop")
        self.spell.clicked.connect(self._ask_words)
        self.list = CauseList(_CALM, pictured=True)
        self.acts = CauseActs(self, session, self.list)
        head = QHBoxLayout()
        head.setSpacing(12)
        head.addWidget(self.words)
        head.addWidget(self.about, 1)
        head.addWidget(self.spell)
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 12, 14, 12)
        column.setSpacing(10)
        column.addLayout(head)
        column.addWidget(self.list, 1)
        self._pictures = SmallPictures(self)
        self._pictures.made.connect(self._show_pictures)
        self._looking = Looking(session, self)
        self._looks = 0
        self._soon = Soon(self, self.refresh, wait=400, rests=True)
        session.projectChanged.connect(self._soon.ask)
        session.compositionChanged.connect(self._soon.ask)

    def refresh(self) -> None:
        """Look at the piece as it is now, beside the window."""
        if self.isHidden():
            return
        piece = self.session.composition
        self.about.setText(f"{piece.name} · frames {piece.span[0]} to {piece.span[1] - 1} · looking…")

        self._looks += 1
        look = self._looks
        self._looking.look(check_piece, self._show, lambda: self._looks != look, known=self.known)

    def _show(self, piece: Composition, findings: Findings) -> None:
        self.findings = findings
        self.watch.take(findings)
        say(self.words, findings.words, "Mint" if findings.clean else "Alarm")
        self.about.setText(f"{piece.name} · frames {piece.span[0]} to {piece.span[1] - 1}")
        self.list.show_verdict(findings)
        self._show_pictures()

    def _show_pictures(self) -> None:
        """Give each row the picture of its first frame, as they come."""
        project, version = self.session.project, self.session.version
        for row in self.list.rows:
            piece = project.find(self.session.composition_id)
            if piece is None or not row.picture.pixmap().isNull():
                continue
            frame = row.cause.frames[0] if row.cause.frames is not None else piece.span[0]
            key = (version, piece.id, frame)
            pixmap = self._pictures.of(key, lambda piece=piece, frame=frame: _small(project, piece, frame))
            if pixmap is not None:
                row.picture.setPixmap(pixmap)

    def _ask_words(self) -> None:
        if self.known is not None:
            self.spell_by(None)
            return
        path = ask_open(self, "words", "Word list", "Text (*.txt *.dic *.csv);;All files (*)")
        if path is not None:
            self.spell_by(path)

    def spell_by(self, path: Path | None) -> None:
        """Take the words of a file for all that is right, or stop spelling where there is none."""
        try:
            self.known = read_word_list(path) if path is not None else None
        except SpiralisError as error:
            self.session.failed.emit(str(error))
            return
        self.spell.setText(f"Word list: {path.name}" if path is not None else "Word list…")
        self.refresh()

    def closeEvent(self, event: QCloseEvent) -> None:
        self._soon.stop()
        self._looks += 1  # Nobody looks any more: the check that runs is given up.
        super().closeEvent(event)


def _small(project: Project, piece: Composition, frame: int) -> np.ndarray:
    return RENDERERS.picture(project, piece.id, frame, 2 * PICTURE / max(piece.width, piece.height))
