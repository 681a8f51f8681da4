"""What refreshing a layered file would do, shown before anything happens; renamed layers are matched by hand."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QPixmap
from PyQt6.QtWidgets import (
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from spiralis.app.style import ALARM, MARIGOLD, MINT, QUIET
from spiralis.app.widgets.fields import CheckBox, ListField
from spiralis.app.work.background import SmallPictures
from spiralis.core.editing.artwork import as_composition
from spiralis.core.editing.refreshing import Match, RefreshReport, laid_out_from, refresh_report
from spiralis.core.media.layered import LayeredFile
from spiralis.core.model import Project
from spiralis.core.render.frame import render_rgba8

_STATES = {
    "same": ("as before", QUIET), "changed": ("changed", MINT), "resized": ("another size", MINT),
    "new": ("new in the file", MARIGOLD), "missing": ("gone from the file", ALARM),
}  # fmt: skip
_ORDER = ("missing", "new", "resized", "changed", "same")
_PREVIEW = 200


class RefreshDialog(QDialog):
    """Rows of what matches, the piece now and the file beside it."""

    def __init__(self, parent: QWidget, project: Project, report: RefreshReport) -> None:
        super().__init__(parent)
        self.project, self.report = project, report
        self._by_hand: dict[str, str] = {}
        self.setWindowTitle(f"Refresh {Path(report.file).name}")
        self.resize(720, 560)
        column = QVBoxLayout(self)
        column.setContentsMargins(22, 18, 22, 16)
        column.setSpacing(10)
        self.title = QLabel()
        self.title.setObjectName("Title")
        self.title.setWordWrap(True)
        quiet = QLabel("Place, motion, parents and look of matched layers stay. Nothing has been changed yet.")
        quiet.setObjectName("Quiet")
        column.addWidget(self.title)
        column.addWidget(quiet)
        body = QHBoxLayout()
        body.setSpacing(18)
        self.rows = QScrollArea()
        self.rows.setWidgetResizable(True)
        body.addWidget(self.rows, 1)
        body.addLayout(self._previews())
        column.addLayout(body, 1)
        self.add_new = CheckBox("Add new layers")
        self.keep_missing = CheckBox("Keep layers that are gone from the file")
        for box in (self.add_new, self.keep_missing):
            box.setChecked(True)
            column.addWidget(box)
        buttons = QDialogButtonBox()
        refresh = buttons.addButton("Refresh", QDialogButtonBox.ButtonRole.AcceptRole)
        buttons.addButton("Leave as it is", QDialogButtonBox.ButtonRole.RejectRole)
        if refresh is not None:
            refresh.setObjectName("Primary")
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        column.addWidget(buttons)
        self._show_rows()

    def _previews(self) -> QVBoxLayout:
        self.pictures = SmallPictures(self)
        self.pictures.made.connect(self._show_previews)
        self.before, self.after = QLabel(), QLabel()
        column = QVBoxLayout()
        for heading, label in (("NOW", self.before), ("THE FILE", self.after)):
            head = QLabel(heading)
            head.setObjectName("Heading")
            label.setFixedSize(_PREVIEW, _PREVIEW)
            label.setAlignment(Qt.AlignmentFlag.AlignCenter)
            label.setStyleSheet("background: #5a5a5a; border-radius: 6px;")
            label.setAccessibleName(heading.capitalize())
            column.addWidget(head)
            column.addWidget(label)
        column.addStretch(1)
        self._show_previews()
        return column

    def _show_previews(self) -> None:
        project, report = self.project, self.report
        for label, key, make in (
            (self.before, "before", lambda: _now(project, report.file)),
            (self.after, "after", lambda: _file(report.layered)),
        ):
            pixmap: QPixmap | None = self.pictures.of(key, make)
            if pixmap is not None and not pixmap.isNull():
                label.setPixmap(pixmap)

    def _show_rows(self) -> None:
        report = self.report
        parts = [f"{report.count(state)} {_STATES[state][0]}" for state in _ORDER if report.count(state)]
        size = f" The file is now {report.resized[0]} × {report.resized[1]} px." if report.resized else ""
        self.title.setText(f"{Path(report.file).name}: {', '.join(parts) or 'no layers'}.{size}")
        body = QWidget()
        grid = QGridLayout(body)
        grid.setContentsMargins(0, 0, 8, 0)
        grid.setHorizontalSpacing(14)
        grid.setVerticalSpacing(2)
        grid.setColumnStretch(0, 1)
        ordered = sorted(report.matches, key=lambda match: _ORDER.index(match.state))
        for row, match in enumerate(ordered):
            self._add_row(grid, row, match)
        grid.setRowStretch(len(ordered), 1)
        self.rows.setWidget(body)

    def _add_row(self, grid: QGridLayout, row: int, match: Match) -> None:
        name = QLabel(match.name)
        if match.renamed and match.part is not None and match.part.name != match.name:
            name.setText(f"{match.name}  ←  {match.part.name}")
        text, tint = _STATES[match.state]
        state = QLabel(text)
        state.setStyleSheet(f"color: {tint};")
        name.setMinimumHeight(28)
        piece = self.project.find(match.composition)
        inside = piece is not None and piece.artwork is not None and piece.artwork.group
        where = QLabel(f"in {piece.name}" if piece is not None and inside else "")
        where.setObjectName("Quiet")
        for column, label in enumerate((name, where, state)):
            grid.addWidget(label, row, column)
        if match.state == "missing" and match.layer is not None:
            grid.addWidget(self._matcher(match), row, 3)

    def _matcher(self, match: Match) -> QComboBox:
        """Return a list of the new parts that this layer could be."""
        box = ListField()
        box.setAccessibleName(f"What {match.name} is called now")
        box.addItem("is now …", "")
        for other in self.report.matches:
            fits = other.state == "new" and other.composition == match.composition and other.part is not None
            if fits and match.layer is not None and other.part is not None:
                kind = "nested" if other.part.kind == "group" else other.part.kind
                if kind == match.layer.kind:
                    box.addItem(other.part.name, other.part.key)
        layer_id = match.layer.id if match.layer is not None else ""
        box.activated.connect(lambda index: self.match_by_hand(layer_id, box.itemData(index)))
        box.setEnabled(box.count() > 1)
        return box

    def match_by_hand(self, layer_id: str, key: str) -> None:
        """Say which part of the file a layer is."""
        if not key:
            return
        self._by_hand[layer_id] = key
        self.report = refresh_report(self.project, self.report.layered, self.report.file, self._by_hand)
        self._show_rows()

    def answer(self) -> tuple[RefreshReport, bool, bool]:
        """Return (report, whether new layers come in, whether missing ones stay)."""
        return self.report, self.add_new.isChecked(), self.keep_missing.isChecked()


def _now(project: Project, file: str) -> np.ndarray | None:
    piece = next((c for c in laid_out_from(project, file) if c.artwork and not c.artwork.group), None)
    if piece is None:
        return None
    return render_rgba8(project, piece.id, 0, 2 * _PREVIEW / max(piece.width, piece.height))


def _file(layered: LayeredFile) -> np.ndarray:
    project, piece = as_composition(Project(), layered, layered.name)
    return render_rgba8(project, piece.id, 0, 2 * _PREVIEW / max(piece.width, piece.height))
