"""The window of the preferences: every change holds at once; the memory of what is kept ready."""

from __future__ import annotations

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtWidgets import (
    QCheckBox,
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
from spiralis.app.widgets.fields import CheckBox, ListField, NumberField
from spiralis.app.widgets.preferences import (
    LEAST,
    MOST,
    PREFERENCES,
    Preference,
    prefer,
    preferences_path,
    preferred,
    store,
)  # fmt: skip
from spiralis.core.cache import BUDGET, fair_share

_MB = 1 << 20


class Preferences(QDialog):
    """Shows every preference and how much memory is used."""

    def __init__(self, parent: QWidget, session: Session) -> None:
        super().__init__(parent)
        self.session = session
        self.setWindowTitle("Preferences")
        self.setMinimumWidth(480)
        self.memory = NumberField("Memory", "MB", LEAST, MOST, 64, decimals=0)
        self.memory.show_value(BUDGET.limit // _MB)
        self.memory.refused.connect(session.failed)
        self.memory.changed.connect(self._set)
        self.memory.finished.connect(self._store)
        self.used = QProgressBar()
        self.used.setTextVisible(False)
        self.amount = QLabel()
        self.amount.setObjectName("Quiet")
        form = QFormLayout()
        form.setHorizontalSpacing(16)
        form.setVerticalSpacing(9)
        self.editors: dict[str, ListField | NumberField | QCheckBox] = {}
        for preference in PREFERENCES.values():
            self.editors[preference.name] = editor = self._editor(preference)
            form.addRow(preference.label, editor)
        form.addRow("Ready frames and pictures may take", self.memory)
        form.addRow("They take", self.amount)
        beside = QLabel("Each of the two processes that draw beside the window keeps up to an eighth of that as well.")
        beside.setObjectName("Quiet")
        beside.setWordWrap(True)
        column = QVBoxLayout(self)
        column.setSpacing(12)
        column.addLayout(form)
        column.addWidget(self.used)
        column.addWidget(beside)
        column.addWidget(self._buttons())
        self._timer = QTimer(self)
        self._timer.timeout.connect(self.refresh)
        self._timer.start(500)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.refresh()

    def _buttons(self) -> QDialogButtonBox:
        usual = QPushButton("Usual memory")
        usual.setToolTip(f"A quarter of the memory it may use, at most 2 GB: {fair_share() // _MB} MB")
        usual.clicked.connect(self._take_usual)
        empty = QPushButton("Empty it")
        empty.setToolTip("Let go of all ready frames and pictures; they are drawn again as they are needed")
        empty.clicked.connect(self._empty)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
        buttons.rejected.connect(self.reject)
        for button in (usual, empty):
            buttons.addButton(button, QDialogButtonBox.ButtonRole.ActionRole)
        for each in buttons.findChildren(QPushButton):
            # Enter ends the typing of a number; it must not close the window.
            each.setAutoDefault(False)
        return buttons

    def _editor(self, preference: Preference) -> ListField | NumberField | QCheckBox:
        """Return what changes a preference; what it is follows from the declaration."""
        name, value = preference.name, preferred(preference.name)
        editor: ListField | NumberField | QCheckBox
        if preference.choices:
            editor = ListField()
            for stored, shown in preference.choices:
                editor.addItem(shown, stored)
            editor.setCurrentIndex(editor.findData(value))
            editor.activated.connect(lambda index, box=editor: self._prefer(name, box.itemData(index)))
        elif isinstance(preference.default, bool):
            editor = CheckBox("")
            editor.setMinimumSize(28, 26)
            editor.setChecked(bool(value))
            editor.toggled.connect(lambda on: self._prefer(name, on))
        else:
            editor = NumberField(preference.label, preference.unit, preference.minimum, preference.maximum, decimals=0)
            editor.words = dict(preference.words)
            editor.show_value(value)
            editor.refused.connect(self.session.failed)
            editor.changed.connect(lambda number: self._prefer(name, int(number)))
        editor.setAccessibleName(preference.label)
        editor.setToolTip(preference.help)
        return editor

    def refresh(self) -> None:
        """Show what is used now."""
        self.used.setRange(0, max(BUDGET.limit // _MB, 1))
        self.used.setValue(min(BUDGET.bytes // _MB, BUDGET.limit // _MB))
        self.amount.setText(f"{BUDGET.bytes // _MB} MB of {BUDGET.limit // _MB} MB")

    def _prefer(self, name: str, value: bool | int | str) -> None:
        try:
            prefer(name, value)
        except OSError:
            self._say_not_kept(PREFERENCES[name].label)

    def _set(self, megabytes: float) -> None:
        BUDGET.set_limit(int(megabytes) * _MB)
        self.refresh()

    def _store(self) -> None:
        try:
            store(memory=BUDGET.limit // _MB)
        except OSError:
            self._say_not_kept("The limit")

    def _say_not_kept(self, what: str) -> None:
        self.session.failed.emit(
            f"“{preferences_path()}” may not be written to, so “{what}” holds only until Spiralis ends."
        )

    def _take_usual(self) -> None:
        self._set(fair_share() // _MB)
        self.memory.show_value(BUDGET.limit // _MB)
        self._store()

    def _empty(self) -> None:
        BUDGET.clear()
        self.refresh()
