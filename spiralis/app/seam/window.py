"""The Seam check window: verdict, the frames on both sides of the seam, change around the loop, causes with mends."""

from __future__ import annotations

from PyQt6.QtGui import QCloseEvent
from PyQt6.QtWidgets import QDialog, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from spiralis.app.checks.acting import CauseActs
from spiralis.app.checks.looking import Looking
from spiralis.app.checks.rows import CauseList
from spiralis.app.seam.pictures import SeamPictures
from spiralis.app.seam.plot import ChangePlot
from spiralis.app.session import Session
from spiralis.app.widgets.dressing import say
from spiralis.app.widgets.fields import NumberField
from spiralis.app.work.beside import beside
from spiralis.app.work.soon import Soon
from spiralis.core.checks.seam import Verdict, mended_all
from spiralis.core.checks.seam.looking import Look, look_at
from spiralis.core.model import Composition

_CALM = "Nothing breaks this loop: its end meets its beginning."


class SeamWindow(QDialog):
    """Follows the piece on the canvas as it changes."""

    def __init__(self, parent: QWidget, session: Session) -> None:
        super().__init__(parent)
        self.session = session
        self.setWindowTitle("Seam check")
        self.resize(1000, 740)
        self.verdict: Verdict | None = None
        self.words, self.about = QLabel(), QLabel()
        self.words.setStyleSheet("font-size: 20px; font-weight: 700;")
        self.about.setObjectName("Quiet")
        self.pictures, self.plot, self.list = SeamPictures(), ChangePlot(), CauseList(_CALM)
        self.plot.frameAsked.connect(session.go_to)
        self.acts = CauseActs(self, session, self.list)
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 12, 14, 12)
        column.setSpacing(10)
        column.addLayout(self._head())
        column.addWidget(self.pictures, 5)
        column.addLayout(self._aids())
        column.addWidget(self.plot)
        self.list.setMinimumHeight(118)
        column.addWidget(self.list, 1)
        self._looking = Looking(session, self)
        self._soon = Soon(self, self.refresh, wait=200, rests=True)
        session.projectChanged.connect(self._soon.ask)
        session.compositionChanged.connect(self._soon.ask)
        self.refresh()

    def _head(self) -> QHBoxLayout:
        self.all = QPushButton("Mend everything")
        self.all.setObjectName("Primary")
        self.all.setAutoDefault(False)
        self.all.setToolTip("Mend every cause in its usual way, in one step")
        self.all.clicked.connect(self.mend_all)
        self.all.setEnabled(False)
        row = QHBoxLayout()
        row.setSpacing(12)
        row.addWidget(self.words)
        row.addWidget(self.about, 1)
        row.addWidget(self.all)
        return row

    def _aids(self) -> QHBoxLayout:
        self.flick = QPushButton("Flick")
        self.flick.setCheckable(True)
        self.flick.setAutoDefault(False)
        self.flick.setToolTip("Show the last and the first frame in turn, in one place")
        self.flick.toggled.connect(self.pictures.flick)
        self.gain = NumberField("Difference shown", "×", 1, 100, decimals=0)
        self.gain.show_value(self.pictures.gain)
        self.gain.setFixedWidth(64)
        self.gain.changed.connect(self.pictures.amplify)
        self.gain.refused.connect(self.session.failed)
        row = QHBoxLayout()
        row.addWidget(self.flick)
        row.addStretch(1)
        row.addWidget(QLabel("Difference shown"))
        row.addWidget(self.gain)
        return row

    # -- looking -----------------------------------------------------------------------------------------

    def refresh(self) -> None:
        """Look at the piece as it is now, beside the window: first at the values, then at every picture."""
        if self.isHidden():
            return
        piece = self.session.composition
        self.about.setText(f"{piece.name} · frames {piece.span[0]} to {piece.span[1] - 1} · looking…")
        self._looking.look(look_at, self._show)

    def _show(self, piece: Composition, found: Look) -> None:
        verdict = self.verdict = found.verdict
        begin, end = piece.span
        say(self.words, verdict.words, "Mint" if verdict.clean else "Alarm")
        self.about.setText(f"{piece.name} · frames {begin} to {end - 1}")
        self.pictures.show_frames(*found.frames, (f"Last frame, {end - 1}", f"First frame, {begin}"))
        self.plot.show_changes(found.changes, begin, not verdict.clean)
        self.list.show_verdict(verdict)
        self.all.setEnabled(any(cause.mends for cause in verdict.causes))

    # -- acting ------------------------------------------------------------------------------------------

    def mend_all(self) -> None:
        """Mend every cause in its usual way, as one step, and say what could not be mended."""
        project, piece_id = self.session.project, self.session.composition_id
        made, done, problems = beside(lambda: mended_all(project, piece_id))
        if done and self.session.edit_project("Mend the loop", made):
            what = "1 cause" if len(done) == 1 else f"{len(done)} causes"
            self.session.said.emit(f"Mended {what}; one undo takes it back.")
        if problems:
            self.session.failed.emit(" ".join(problems[:3]))

    def closeEvent(self, event: QCloseEvent) -> None:
        self.pictures.flick(False)
        self.flick.setChecked(False)
        super().closeEvent(event)
