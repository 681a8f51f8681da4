"""What to make of layered files and of several pictures, asked once for all that come in together."""

from __future__ import annotations

from attrs import frozen
from PyQt6.QtWidgets import (
    QButtonGroup,
    QDialog,
    QDialogButtonBox,
    QFrame,
    QLabel,
    QRadioButton,
    QVBoxLayout,
    QWidget,
)

from spiralis.app.widgets.fields import CheckBox
from spiralis.core.editing.importing import Gathered


@frozen
class Choices:
    """What becomes of layered files (layers, flat, piece, replace), their groups, and several pictures.

    As ``footage`` those that are numbered without a gap become a clip and all others a layer each.
    """

    layered: str = "layers"
    nested: bool = True
    pictures: str = "footage"


_LAYERED = (
    ("layers", "One layer that holds all its layers", "Double-click it to go in"),
    ("flat", "One flat layer", "Nothing inside moves by itself"),
    ("piece", "A piece of its own size", "Opens beside the present one"),
    ("replace", "In place of what this piece shows", "The piece keeps its format"),
)
_FOOTAGE = ("footage", "Footage", "Those that are numbered play at an even rate")
_PICTURES = (
    ("layers", "A layer each", "All of them show at once"),
    ("flipbook", "One flipbook", "They show in turn, in the order of their names"),
)


#: More numbered pictures than that are meant to play.
_FEW = 24
#: So many are rather pictures by themselves.
_A_HANDFUL = 8


def loose_pictures(found: Gathered) -> list[str]:
    """Return the names of the pictures that belong to no numbered run."""
    return [source.name for source in found.sources if source.sort.still]


def runs_in_question(found: Gathered) -> list[int]:
    """Return how many pictures the numbered runs have that may be meant as drawings or layers just as well."""
    return [count for count in found.runs if count <= _FEW]


class ImportDialog(QDialog):
    """Asks only what there is a choice about."""

    def __init__(self, parent: QWidget, found: Gathered) -> None:
        super().__init__(parent)
        self.setWindowTitle("Bring artwork in")
        self.setMinimumWidth(430)
        column = QVBoxLayout(self)
        column.setContentsMargins(22, 18, 22, 16)
        column.setSpacing(6)
        self.layered = QButtonGroup(self)
        self.pictures = QButtonGroup(self)
        self.nested = CheckBox("Keep groups together as layers of their own")
        self.nested.setChecked(True)
        if found.layered:
            self._heading(column, _said([path.name for path, _ in found.layered], "layered files"))
            parts = sum(len(layered.parts) for _, layered in found.layered)
            groups = sum(part.kind == "group" for _, layered in found.layered for part in layered.all_parts())
            self._quiet(column, f"{parts} layers at the top, {groups} groups. Bring it in as:")
            self._options(column, self.layered, _LAYERED)
            if groups:
                column.addWidget(self.nested)
        pictures, numbered = loose_pictures(found), runs_in_question(found)
        if len(pictures) > 1 or numbered:
            if found.layered:
                rule = QFrame()
                rule.setObjectName("Rule")
                column.addWidget(rule)
            self._heading(column, _said([*pictures, *[""] * sum(numbered)], "pictures"))
            likely = (_FOOTAGE, *_PICTURES) if max(numbered, default=0) > _A_HANDFUL else (*_PICTURES, _FOOTAGE)
            self._options(column, self.pictures, likely if numbered else _PICTURES)
        buttons = QDialogButtonBox()
        bring = buttons.addButton("Bring in", QDialogButtonBox.ButtonRole.AcceptRole)
        buttons.addButton("Cancel", QDialogButtonBox.ButtonRole.RejectRole)
        if bring is not None:
            bring.setObjectName("Primary")
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        column.addSpacing(8)
        column.addWidget(buttons)

    def _heading(self, column: QVBoxLayout, text: str) -> None:
        label = QLabel(text)
        label.setObjectName("Title")
        label.setWordWrap(True)
        column.addWidget(label)

    def _quiet(self, column: QVBoxLayout, text: str) -> None:
        label = QLabel(text)
        label.setObjectName("Quiet")
        column.addWidget(label)

    def _options(self, column: QVBoxLayout, group: QButtonGroup, options: tuple[tuple[str, str, str], ...]) -> None:
        for index, (name, label, help) in enumerate(options):
            button = QRadioButton(f"{label} – {help[0].lower()}{help[1:]}")
            button.setProperty("choice", name)
            button.setChecked(index == 0)
            group.addButton(button)
            column.addWidget(button)

    def choices(self) -> Choices:
        """Return what was chosen."""
        layered, pictures = self.layered.checkedButton(), self.pictures.checkedButton()
        return Choices(
            layered.property("choice") if layered is not None else "layers",
            self.nested.isChecked(),
            pictures.property("choice") if pictures is not None else "footage",
        )


def _said(names: list[str], many: str) -> str:
    return names[0] if len(names) == 1 else f"{len(names)} {many}"
