"""The left side of the export window: kinds of files, and a person's own targets below them."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QAbstractButton,
    QButtonGroup,
    QFrame,
    QHBoxLayout,
    QLabel,
    QMenu,
    QPushButton,
    QScrollArea,
    QToolButton,
    QVBoxLayout,
)

from spiralis.app.library.keeping import Keeper
from spiralis.app.library.own_list import LONGEST
from spiralis.app.library.targets import OWN_TARGETS, Target
from spiralis.app.style import icon
from spiralis.core.media.exporters import Exporter


class TargetCards(QScrollArea):
    """``chosen`` carries a kind of file, ``ownChosen`` one of a person's targets, ``refused`` a sentence."""

    chosen = pyqtSignal(object)
    ownChosen = pyqtSignal(object)
    refused = pyqtSignal(str)

    def __init__(self, kinds: tuple[Exporter, ...], present: Callable[[str], Target]) -> None:
        super().__init__()
        self._present = present
        self.keeper = Keeper(self, OWN_TARGETS, self.refused.emit)
        OWN_TARGETS.when_changed(self.refresh)
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFixedWidth(206)
        box = QFrame()
        self.column = QVBoxLayout(box)
        self.column.setContentsMargins(0, 0, 6, 0)
        self.column.setSpacing(5)
        self.group = QButtonGroup(self)
        self.cards: dict[str, QAbstractButton] = {}
        self.own: dict[str, QPushButton] = {}
        for kind in kinds:
            name, _, use = kind.help.partition(": ")
            card = self._card(f"{kind.label}\n{use or name}", kind.help)
            card.setCheckable(True)
            card.clicked.connect(lambda _=False, picked=kind: self.chosen.emit(picked))
            self.group.addButton(card)
            self.cards[kind.name] = card
            self.column.addWidget(card)
        self.column.addLayout(self._own_head())
        self.column.addStretch(1)
        self.setWidget(box)
        self.refresh()

    def _card(self, text: str, help: str) -> QPushButton:
        card = QPushButton(text)
        card.setAutoDefault(False)
        card.setStyleSheet("text-align: left; padding: 5px 12px; font-weight: 500;")
        card.setToolTip(help)
        return card

    def _own_head(self) -> QHBoxLayout:
        title = QLabel("My targets")
        title.setObjectName("Quiet")
        self.more = QToolButton()
        self.more.setIcon(icon("more"))
        self.more.setProperty("part", "more")
        self.more.setFixedSize(24, 24)
        self.more.setAccessibleName("My targets")
        self.more.setToolTip("Keep the settings as a target of your own; write and read files of targets")
        self.more.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self.menu = QMenu(self.more)
        self.menu.addAction("Keep these settings…", self._ask_keep)
        self.drops = self.menu.addMenu("Drop one")
        self.menu.addSeparator()
        self.menu.addAction("Write my targets to a file…", lambda: self.keeper.ask_write("targets"))
        self.menu.addAction("Read targets from a file…", lambda: self.keeper.ask_take("targets"))
        self.more.setMenu(self.menu)
        row = QHBoxLayout()
        row.addWidget(title, 1)
        row.addWidget(self.more)
        return row

    def refresh(self) -> None:
        """List a person's targets as they are now."""
        for card in self.own.values():
            self.column.removeWidget(card)
            card.deleteLater()
        self.own = {}
        self.drops.clear()
        for target in OWN_TARGETS.all():
            size = f", {target.width} × {target.height}" if target.width else ""
            card = self._card(target.name, f"{target.kind.upper()}{size}: your own")
            card.clicked.connect(lambda _=False, picked=target: self.ownChosen.emit(picked))
            self.column.insertWidget(self.column.count() - 1, card)
            self.own[target.name] = card
            self.drops.addAction(target.name, lambda name=target.name: self.keeper.drop(name))
        self.drops.setEnabled(bool(self.own))

    def keep(self, name: str) -> None:
        """Keep the settings as they stand under a name."""
        if name.strip():
            self.keeper.keep(lambda: self._present(name.strip()[:LONGEST]))

    def read(self, path: Path) -> None:
        """Take the targets of a file along."""
        self.keeper.take_from(path)

    def _ask_keep(self) -> None:
        self.keep(self.keeper.ask_name("Keep a target", "Name of the target:"))
