"""The piece bar, beside the menus: which composition, its format, whether its loop closes, Export."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QToolButton, QWidget

from spiralis.app.checks.watch import ChecksWatch
from spiralis.app.seam.watch import SeamWatch
from spiralis.app.session import Session
from spiralis.app.strips.format_button import FormatButton
from spiralis.app.strips.piece_list import PieceList
from spiralis.app.style import icon


class PieceBar(QWidget):
    """The right part of the window's top line."""

    formatAsked = pyqtSignal()
    exportAsked = pyqtSignal()
    seamAsked = pyqtSignal()
    checksAsked = pyqtSignal()

    def __init__(self, session: Session, seam: SeamWatch, checks: ChecksWatch) -> None:
        super().__init__()
        self.session, self.seam, self.checks = session, seam, checks
        self.setObjectName("Panel")
        self.project = QLabel()
        self.project.setObjectName("Quiet")
        self.pieces = PieceList(session)
        self.up = QToolButton()
        self.up.setObjectName("Flat")
        self.up.setIcon(icon("up-out"))
        self.up.setAccessibleName("Go back up")
        self.up.clicked.connect(session.go_up)
        self.format = FormatButton()
        self.format.clicked.connect(self.formatAsked)
        self.loop = QPushButton()
        self.loop.setObjectName("Verdict")
        self.loop.clicked.connect(self.seamAsked)
        self.findings = QPushButton()
        self.findings.setObjectName("Verdict")
        self.findings.clicked.connect(self.checksAsked)
        self.export = QPushButton("Export…")
        self.export.setObjectName("Primary")
        self.export.setToolTip("Write this piece to a file (Ctrl+E)")
        self.export.clicked.connect(self.exportAsked)
        row = QHBoxLayout(self)
        row.setContentsMargins(6, 5, 10, 5)
        row.setSpacing(8)
        for widget in (self.project, self.up, self.pieces):
            row.addWidget(widget)
        row.addStretch(1)
        row.addWidget(self.format)
        row.addStretch(1)
        row.addWidget(self.loop)
        row.addWidget(self.findings)
        row.addWidget(self.export)
        seam.changed.connect(self._show_loop)
        session.compositionChanged.connect(self._show_loop)
        checks.changed.connect(self._show_findings)
        session.projectChanged.connect(self.refresh)
        session.compositionChanged.connect(self.refresh)
        self.refresh()
        self._show_loop()
        self._show_findings()

    def refresh(self) -> None:
        """Show where we are."""
        session = self.session
        above = [found.name for piece in session.trail if (found := session.project.find(piece)) is not None]
        self.up.setVisible(bool(above))
        self.project.setVisible(bool(above))
        if above:
            self._show_trail(above)
            self.up.setToolTip(f"Back up to {above[-1]} (Ctrl+Backspace)")
        self.pieces.refresh()
        self.format.show_format(session.composition)

    def show_exporting(self, share: float | None) -> None:
        """Say how far the file is that is being written beside the work; None where there is none."""
        self.export.setText("Export…" if share is None else f"Export… {share:.0%}".replace("%", " %"))

    def _show_trail(self, above: list[str]) -> None:
        """Name the pieces one came through, the nearest in full: a long way must not push the rest aside."""
        way = f"{'  ›  '.join(above)}  ›"
        self.project.setText(self.project.fontMetrics().elidedText(way, Qt.TextElideMode.ElideLeft, 130))
        self.project.setToolTip(way)

    def _show_loop(self) -> None:
        """Say what is to be said of the loop; the button leads to Seam check."""
        verdict = self.seam.verdict
        state, tip = "Quiet", "Looking at the loop"
        if verdict is not None and not self.session.composition.loop:
            tip = "Details, with no layer chosen, switches looping on"
        elif verdict is not None and verdict.clean:
            state, tip = "Mint", "The end meets the beginning"
        elif verdict is not None:
            state, tip = "Alarm", "\n".join(cause.sentence for cause in verdict.causes[:12])
        self.loop.setText(verdict.words if verdict is not None else "Loop: …")
        self.loop.setToolTip(f"{tip}\nSeam check (Alt+6) shows and mends it")
        _in_state(self.loop, state)

    def _show_findings(self) -> None:
        """Say how much there is to be said of the piece itself; the button leads to Checks."""
        found = self.checks.findings
        clean = found is None or found.clean
        tip = "Looks the piece over: flashes, words, contrast, edges"
        if found is not None and not found.clean:
            tip = "\n".join(cause.sentence for cause in found.causes[:8])
        self.findings.setText("Checks" if found is None or clean else found.words)
        self.findings.setToolTip(f"{tip}\nChecks (Alt+7) shows and mends what it finds")
        _in_state(self.findings, "Quiet" if clean else "Alarm")


def _in_state(button: QPushButton, state: str) -> None:
    button.setProperty("state", state)
    button.style().unpolish(button)
    button.style().polish(button)
