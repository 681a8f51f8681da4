"""Preferences: how much memory what is kept ready may take. Stored in the XDG configuration folder."""

from __future__ import annotations

import json
import os
from pathlib import Path
from typing import Any

from platformdirs import user_config_path
from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtWidgets import (
    QDialog,
    QDialogButtonBox,
    QFormLayout,
    QLabel,
    QProgressBar,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from spiralis.app.session import Session
from spiralis.app.widgets.fields import NumberField
from spiralis.core.cache import BUDGET, fair_share

_MB = 1 << 20
LEAST, MOST = 128, 65_536


def preferences_path() -> Path:
    """Return the file of the preferences."""
    return user_config_path("spiralis") / "preferences.json"


def stored() -> dict[str, Any]:
    """Return what is stored; nothing where the file is missing or damaged."""
    try:
        found = json.loads(preferences_path().read_text(encoding="utf-8"))
    except (OSError, ValueError):
        return {}
    return found if isinstance(found, dict) else {}


def apply_stored() -> None:
    """Let the caches have the memory that was set, or their fair share."""
    megabytes = stored().get("memory")
    if isinstance(megabytes, int) and not isinstance(megabytes, bool) and LEAST <= megabytes <= MOST:
        BUDGET.set_limit(megabytes * _MB)
    else:
        BUDGET.set_limit(fair_share())


def store(**values: Any) -> None:
    """Store values beside those that are there; raises OSError."""
    path = preferences_path()
    path.parent.mkdir(parents=True, exist_ok=True)
    unfinished = path.with_suffix(".part")
    unfinished.write_text(json.dumps({**stored(), **values}, indent=1), encoding="utf-8")
    os.replace(unfinished, path)


class Preferences(QDialog):
    """Shows how much memory is used, and lets its limit be set."""

    def __init__(self, parent: QWidget, session: Session) -> None:
        super().__init__(parent)
        self.session = session
        self.setWindowTitle("Preferences")
        self.setMinimumWidth(440)
        self.memory = NumberField("Memory", "MB", LEAST, MOST, 64, decimals=0)
        self.memory.show_value(BUDGET.limit // _MB)
        self.memory.refused.connect(session.failed)
        self.memory.changed.connect(self._set)
        self.memory.finished.connect(self._store)
        self.used = QProgressBar()
        self.used.setTextVisible(False)
        self.amount = QLabel()
        self.amount.setObjectName("Quiet")
        usual = QPushButton("Usual")
        usual.setToolTip(f"A quarter of this machine's memory, at most 2 GB: {fair_share() // _MB} MB")
        usual.clicked.connect(self._take_usual)
        empty = QPushButton("Empty it")
        empty.setToolTip("Let go of all ready frames and pictures; they are drawn again as they are needed")
        empty.clicked.connect(self._empty)
        form = QFormLayout()
        form.setHorizontalSpacing(16)
        form.addRow("Ready frames and pictures may take", self.memory)
        form.addRow("They take", self.amount)
        beside = QLabel("Each of the two processes that draw beside the window keeps up to an eighth of that as well.")
        beside.setObjectName("Quiet")
        beside.setWordWrap(True)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
        buttons.rejected.connect(self.reject)
        for button in (usual, empty):
            buttons.addButton(button, QDialogButtonBox.ButtonRole.ActionRole)
        for each in buttons.findChildren(QPushButton):
            # Enter ends the typing of a number; it must not close the window.
            each.setAutoDefault(False)
        column = QVBoxLayout(self)
        column.setSpacing(12)
        column.addLayout(form)
        column.addWidget(self.used)
        column.addWidget(beside)
        column.addWidget(buttons)
        self._timer = QTimer(self)
        self._timer.timeout.connect(self.refresh)
        self._timer.start(500)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.refresh()

    def refresh(self) -> None:
        """Show what is used now."""
        self.used.setRange(0, max(BUDGET.limit // _MB, 1))
        self.used.setValue(min(BUDGET.bytes // _MB, BUDGET.limit // _MB))
        self.amount.setText(f"{BUDGET.bytes // _MB} MB of {BUDGET.limit // _MB} MB")

    def _set(self, megabytes: float) -> None:
        BUDGET.set_limit(int(megabytes) * _MB)
        self.refresh()

    def _store(self) -> None:
        try:
            store(memory=BUDGET.limit // _MB)
        except OSError:
            path = preferences_path()
            self.session.failed.emit(f"“{path}” may not be written to, so the limit holds only until Spiralis ends.")

    def _take_usual(self) -> None:
        self._set(fair_share() // _MB)
        self.memory.show_value(BUDGET.limit // _MB)
        self._store()

    def _empty(self) -> None:
        BUDGET.clear()
        self.refresh()
