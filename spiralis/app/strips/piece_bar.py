"""The piece bar, beside the menus: which composition, its format, whether its loop closes, Export."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QToolButton, QWidget

from spiralis.app.session import Session
from spiralis.app.strips.piece_list import PieceList
from spiralis.app.style import icon
from spiralis.app.work.background import Background
from spiralis.app.work.soon import Soon
from spiralis.core.checks.seam import loop_jumps
from spiralis.core.model import Composition


class PieceBar(QWidget):
    """The right part of the window's top line."""

    formatAsked = pyqtSignal()
    exportAsked = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setObjectName("Panel")
        self.project = QLabel()
        self.project.setObjectName("Quiet")
        self.pieces = PieceList(session)
        self.up = QToolButton()
        self.up.setObjectName("Flat")
        self.up.setIcon(icon("up-out"))
        self.up.setAccessibleName("Go back up")
        self.up.clicked.connect(session.go_up)
        self.format = QPushButton()
        self.format.setToolTip("Change size, frame rate and length")
        self.format.clicked.connect(self.formatAsked)
        self.loop = QLabel()
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
        row.addWidget(self.export)
        self._soon = Soon(self, self._ask_loop, wait=250, rests=True)
        self._background = Background(self)
        session.projectChanged.connect(self.refresh)
        session.compositionChanged.connect(self.refresh)
        self.refresh()

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
        piece = session.composition
        rate = f"{float(piece.rate):.4g}"
        self.format.setText(f"{piece.width} × {piece.height}  ·  {rate} fps  ·  {float(piece.seconds):.2f} s")
        self._soon.ask()

    def _show_trail(self, above: list[str]) -> None:
        """Name the pieces one came through, the nearest in full: a long way must not push the rest aside."""
        way = f"{'  ›  '.join(above)}  ›"
        self.project.setText(self.project.fontMetrics().elidedText(way, Qt.TextElideMode.ElideLeft, 130))
        self.project.setToolTip(way)

    def _ask_loop(self) -> None:
        """Look at the loop beside the window, and show what was found if it is still the same project."""
        project, piece = self.session.project, self.session.composition
        if not piece.loop:
            self._show_loop(piece, [])
            return

        def done(jumps: object) -> None:
            if self.session.project is project and self.session.composition is piece:
                self._show_loop(piece, jumps if isinstance(jumps, list) else [])

        self._background.run(lambda: loop_jumps(project, piece), done)

    def _show_loop(self, piece: Composition, jumps: list[str]) -> None:
        if not piece.loop:
            state, text, tip = "Quiet", "Plays once", "Details, with no layer chosen, switches looping on"
        elif jumps:
            state, text = "Alarm", f"Loop: {len(jumps)} jump{'s' if len(jumps) > 1 else ''}"
            tip = "At the end these differ from the first frame:\n" + "\n".join(jumps[:12])
        else:
            state, text, tip = "Mint", "Loop is closed", "Every animated value ends as it begins"
        self.loop.setObjectName(state)
        self.loop.setText(text)
        self.loop.setToolTip(tip)
        self.loop.style().unpolish(self.loop)
        self.loop.style().polish(self.loop)
