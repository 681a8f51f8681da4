"""The pose strip: a card a pose, with how long it stays and how many in-betweens lead to the next."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from attrs import evolve
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QIcon
from PyQt6.QtWidgets import (
    QDialog,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QScrollArea,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from spiralis.app.session import Session
from spiralis.app.style import icon
from spiralis.app.widgets.fields import CheckBox, NumberField
from spiralis.app.widgets.text_fields import TextField
from spiralis.app.work.background import SmallPictures
from spiralis.app.work.renderers import RENDERERS
from spiralis.core.editing.posing import (
    changed_pose,
    changed_strip,
    fitted_to_strip,
    moved_pose,
    overwritten,
    with_captured,
    without_pose,
)
from spiralis.core.model import Composition

_WIDE, _HIGH = 132, 132


class PoseCard(QFrame):
    """One pose: its picture, its name, its stay and its in-betweens."""

    def __init__(self, window: PosesWindow, index: int) -> None:
        super().__init__()
        self.window_, self.index = window, index
        self.setObjectName("Card")
        self.setFixedWidth(_WIDE + 20)
        session = window.session
        self.picture = QPushButton()
        self.picture.setFixedSize(_WIDE, _HIGH)
        self.picture.setToolTip("Go to this pose")
        self.picture.clicked.connect(lambda: session.go_to(session.composition.poses.begins[index]))
        self.name = TextField()
        self.name.setAccessibleName("Pose's name")
        self.name.editingFinished.connect(self.rename)
        self.stay = NumberField("Stays", "f", 1, 10_000, decimals=0)
        self.between = NumberField("In-betweens", "f", 0, 10_000, decimals=0)
        self.stay.changed.connect(lambda v: self._change("stay", v))
        self.between.changed.connect(lambda v: self._change("between", v))
        for field in (self.stay, self.between):
            field.finished.connect(session.close_step)
            field.refused.connect(session.failed)
        self.again = QPushButton("Capture again")
        self.again.setToolTip("Take the chosen layers as they are at the playhead for this pose")
        self.again.clicked.connect(lambda: window.capture(index))
        grid = QGridLayout(self)
        grid.setContentsMargins(8, 8, 8, 8)
        grid.setVerticalSpacing(5)
        grid.addWidget(self.picture, 0, 0, 1, 2)
        grid.addWidget(self.name, 1, 0, 1, 2)
        for row, field in ((2, self.stay), (3, self.between)):
            label = QLabel(field.label)
            label.setObjectName("Quiet")
            grid.addWidget(label, row, 0)
            grid.addWidget(field, row, 1)
        grid.addWidget(self.again, 4, 0, 1, 2)
        grid.addLayout(self._buttons(), 5, 0, 1, 2)

    def _buttons(self) -> QHBoxLayout:
        window, index, line = self.window_, self.index, QHBoxLayout()
        last = len(window.session.composition.poses.poses) - 1
        for picture, text, enabled, change in (
            ("previous-key", "Move this pose to the left", index > 0, lambda p: moved_pose(p, index, index - 1)),
            ("next-key", "Move this pose to the right", index < last, lambda p: moved_pose(p, index, index + 1)),
            ("close", "Remove this pose", True, lambda p: without_pose(p, index)),
        ):
            button = QToolButton()
            button.setObjectName("Flat")
            button.setIcon(icon(picture))
            button.setToolTip(text)
            button.setAccessibleName(text)
            button.setEnabled(enabled)
            button.clicked.connect(lambda _=False, text=text, change=change: window.edit(text, change))
            line.addWidget(button)
        return line

    def rename(self) -> None:
        """Take the name as it is typed."""
        name = self.name.text()
        self.name.setModified(False)
        if name != self.window_.session.composition.poses.poses[self.index].name:
            self.window_.edit("Name pose", lambda p: changed_pose(p, self.index, lambda pose: evolve(pose, name=name)))

    def _change(self, name: str, value: float) -> None:
        self.window_.edit(
            "Time of pose",
            lambda p: changed_pose(p, self.index, lambda pose: evolve(pose, **{name: int(value)})),
            f"pose-{self.index}-{name}",
        )

    def refresh(self, pictures: SmallPictures) -> None:
        """Show the pose as it stands."""
        session = self.window_.session
        strip = session.composition.poses
        pose, frame = strip.poses[self.index], strip.begins[self.index]
        # What is half typed stays, also while another window is worked in.
        if not (self.name.hasFocus() or self.name.isModified()):
            self.name.setText(pose.name)
        self.stay.show_value(float(pose.stay))
        self.between.show_value(float(pose.between))
        project, piece = session.project, session.composition

        def made() -> np.ndarray:
            return RENDERERS.picture(project, piece.id, frame, 2 * (_HIGH - 12) / max(piece.width, piece.height))

        pixmap = pictures.of((session.version, piece.id, frame), made)
        if pixmap is not None:
            self.picture.setIcon(QIcon(pixmap))
            self.picture.setIconSize(pixmap.deviceIndependentSize().toSize())
        here = frame <= session.frame < frame + pose.stay
        self.picture.setStyleSheet("border: 1.5px solid #f5b23d;" if here else "")


class PosesWindow(QDialog):
    """The strip of the composition that is shown."""

    def __init__(self, parent: QWidget, session: Session) -> None:
        super().__init__(parent)
        self.setWindowTitle("Pose strip")
        self.resize(820, 420)
        self.session = session
        self.cards: list[PoseCard] = []
        self.pictures = SmallPictures(self)
        self.pictures.made.connect(self.refresh)
        self.help = QLabel(
            "Arrange the layers, choose them and capture. Each pose stays for its frames; the in-betweens lead to the "
            "next. Ordinary keys are written; to change a pose, arrange it anew and capture again."
        )
        self.help.setObjectName("Quiet")
        self.help.setWordWrap(True)
        self.row = QHBoxLayout()
        self.row.setSpacing(8)
        inside = QWidget()
        line = QHBoxLayout(inside)
        line.setContentsMargins(0, 0, 0, 0)
        line.addLayout(self.row)
        line.addStretch(1)
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setWidget(inside)
        column = QVBoxLayout(self)
        column.addWidget(self.help)
        column.addWidget(area, 1)
        column.addLayout(self._foot())
        for signal in (session.projectChanged, session.compositionChanged, session.frameChanged):
            signal.connect(lambda *_: self.refresh())
        session.leaving.connect(self._take_names)
        self.refresh()

    def _foot(self) -> QHBoxLayout:
        self.take = QPushButton("Capture the chosen layers")
        self.take.setObjectName("Primary")
        self.take.clicked.connect(lambda: self.capture(None))
        self.returns = CheckBox("Return to the first")
        self.returns.clicked.connect(
            lambda on: self.edit(
                "Return to the first pose", lambda p: changed_strip(p, lambda strip: evolve(strip, returns=on))
            )
        )
        self.softness = NumberField("Softness", "%", 0, 100, decimals=0)
        self.softness.changed.connect(
            lambda v: self.edit(
                "Softness of poses", lambda p: changed_strip(p, lambda s: evolve(s, softness=v)), "pose-softness"
            )
        )
        self.softness.finished.connect(self.session.close_step)
        self.softness.refused.connect(self.session.failed)
        self.fit = QPushButton("Fit the piece's length")
        self.fit.clicked.connect(lambda: self.edit("Fit to the pose strip", fitted_to_strip))
        self.span = QLabel()
        self.span.setObjectName("Quiet")
        foot = QHBoxLayout()
        label = QLabel("Softness")
        for widget in (self.take, self.returns, label, self.softness, self.span):
            foot.addWidget(widget)
        foot.addStretch(1)
        foot.addWidget(self.fit)
        for button in (self.take, self.fit):
            button.setAutoDefault(False)
        return foot

    def capture(self, index: int | None) -> None:
        """Capture the chosen layers as a new pose, or anew for the pose at an index."""
        session = self.session
        at, ids = session.evaluated(), session.selected
        self.edit("Capture pose", lambda piece: with_captured(piece, at, ids, index))
        strip = session.composition.poses
        if strip.poses:
            # The picture stays as it was captured; it may have come to another frame.
            session.go_to(strip.begins[len(strip.poses) - 1 if index is None else index])

    def edit(self, name: str, change: Callable[[Composition], Composition], merge: str | None = None) -> None:
        """Change the piece; what is chosen stays chosen."""
        session, chosen, before = self.session, list(self.session.selected), self.session.composition
        if session.edit(name, change, merge) and (lost := overwritten(before, session.composition)):
            session.said.emit(f"Keys that no pose had written went; undo brings them back: {'; '.join(lost)}.")
        session.select(chosen)

    def _take_names(self) -> None:
        """Name the poses as is half typed: another strip is about to be shown."""
        for card in self.cards:
            if card.name.isModified():
                card.rename()

    def refresh(self) -> None:
        """Show the strip as it stands."""
        if not self.isVisible() and self.cards:
            return
        strip = self.session.composition.poses
        if len(self.cards) != len(strip.poses):
            for card in self.cards:
                self.row.removeWidget(card)
                card.hide()
                card.deleteLater()
            self.cards = [PoseCard(self, index) for index in range(len(strip.poses))]
            for card in self.cards:
                self.row.addWidget(card, 0, Qt.AlignmentFlag.AlignTop)
        for card in self.cards:
            card.refresh(self.pictures)
        self.returns.setChecked(strip.returns)
        self.softness.show_value(strip.softness)
        begins = strip.begins
        self.span.setText(f"frames {begins[0]} to {begins[-1]}" if strip.poses else "")
        self.fit.setEnabled(len(strip.poses) > 1)
