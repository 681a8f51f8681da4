"""The formats of a piece: side by side, added, shown; how each layer is held; what is a format's own."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QSize, Qt
from PyQt6.QtGui import QIcon, QShowEvent
from PyQt6.QtWidgets import (
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QMenu,
    QPushButton,
    QScrollArea,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from spiralis.app.fillin.slot_dialog import home_of
from spiralis.app.project.formats import FORMATS
from spiralis.app.session import Session
from spiralis.app.widgets.asking import Ask, LiveDialog
from spiralis.app.widgets.fields import ListField
from spiralis.app.work.background import SmallPictures
from spiralis.core.editing.reframing import add_format, formats_of, hold_of, on_its_own, own_in, with_hold, without_own
from spiralis.core.errors import SpiralisError
from spiralis.core.model import Composition, Layer, Project
from spiralis.core.model.reframing import ACROSS, DOWN, GONE, SIZES, WHOLE, Hold
from spiralis.core.render.frame import render_rgba8

_PICTURE = 148
_MOMENT = 0.4
_SIZES = {"keep": "keeps its size", "fit": "scales to fit in", "cover": "covers", "stretch": "stretches"}


class FormatCard(QToolButton):
    """A format as a small picture; a click shows it."""

    def __init__(self, piece: Composition) -> None:
        super().__init__()
        self.piece = piece
        self.setCheckable(True)
        self.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextUnderIcon)
        self.setIconSize(QSize(_PICTURE, _PICTURE))
        self.setText(f"{piece.width} × {piece.height}")
        self.setAccessibleName(f"{piece.name}, {piece.width} by {piece.height}")
        self.setToolTip(f"Show {piece.name}")


class FormatsPanel(QScrollArea):
    """Cards, and the holds of the format that is shown."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.cards: list[FormatCard] = []
        #: The lists of a layer: across, down, size.
        self.holds: dict[str, tuple[ListField, ListField, ListField]] = {}
        self.again: dict[str, QPushButton] = {}
        self._pictures = SmallPictures(self)
        self._pictures.made.connect(self._show_pictures)
        session.projectChanged.connect(self.refresh)
        session.compositionChanged.connect(self.refresh)

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.refresh()

    def refresh(self) -> None:
        """Show the formats as they are now."""
        if not self.isVisible():
            return
        project, home = self.session.project, home_of(self.session)
        scroll = self.verticalScrollBar().value()
        stage = QWidget()
        column = QVBoxLayout(stage)
        column.setContentsMargins(0, 0, 6, 0)
        column.addLayout(self._cards(project, home))
        shown = self.session.composition
        self.holds, self.again = {}, {}
        if shown.follows is not None and shown.follows.origin == home.id:
            self._add_holds(column, project, home, shown)
        else:
            text = (
                "Choose a format to see how its layers are held. What is changed in a format is its own from then on; "
                "everything else follows this piece."
                if len(self.cards) > 1
                else "Add a format, and the same motion is there in another shape: backdrops cover it, words and "
                "products are held to the edges or the middle they are near."
            )
            hint = QLabel(text)
            hint.setObjectName("Quiet")
            hint.setWordWrap(True)
            column.addWidget(hint)
        column.addStretch(1)
        self.setWidget(stage)
        self.verticalScrollBar().setValue(scroll)
        self._show_pictures()

    def _cards(self, project: Project, home: Composition) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(8)
        self.cards = [FormatCard(piece) for piece in (home, *formats_of(project, home))]
        for card in self.cards:
            card.setChecked(card.piece.id == self.session.composition_id)
            card.clicked.connect(lambda _=False, piece=card.piece.id: self.session.show_composition(piece))
            row.addWidget(card)
        self.add = QPushButton("Add a format")
        self.add.setAutoDefault(False)
        self.add.setToolTip("Show the same motion in another size")
        menu = QMenu(self.add)
        for form in FORMATS:
            if (form.width, form.height) != (home.width, home.height):
                label = f"{form.name}  {form.width} × {form.height}"
                menu.addAction(label, lambda form=form: self.add_format(form.width, form.height))
        menu.addSeparator()
        menu.addAction("Another size…", self.ask_size)
        self.add.setMenu(menu)
        row.addWidget(self.add, 0, Qt.AlignmentFlag.AlignVCenter)
        row.addStretch(1)
        return row

    def ask_size(self) -> None:
        """Ask for the size of a new format."""
        home = home_of(self.session)
        asks = (
            Ask("width", "Width", home.width, "px", 1, 20_000), Ask("height", "Height", home.height, "px", 1, 20_000),
        )  # fmt: skip
        help_ = "The same motion in this size."
        dialog = LiveDialog(self, self.session, "Another format", help_, asks, lambda values, merge: None)
        if dialog.exec():
            values = dialog.values()
            self.add_format(int(values["width"]), int(values["height"]))

    def add_format(self, width: int, height: int) -> None:
        """Add a format of the piece and show it."""
        try:
            project, made = add_format(self.session.project, home_of(self.session).id, width, height)
        except SpiralisError as error:
            self.session.failed.emit(str(error))
            return
        if self.session.edit_project(f"Format {width} × {height}", project):
            self.session.show_composition(made)

    # -- how layers are held ---------------------------------------------------------------------------

    def _add_holds(self, column: QVBoxLayout, project: Project, home: Composition, shown: Composition) -> None:
        title = QLabel(f"How the layers of {shown.width} × {shown.height} are held")
        title.setStyleSheet("font-weight: 600;")
        self.alone = QPushButton("Let it stand by itself")
        self.alone.setAutoDefault(False)
        self.alone.setToolTip("It follows the piece no more, and stays as it is")
        self.alone.clicked.connect(lambda: self._edit("A format by itself", on_its_own(self.session.project, shown.id)))
        head = QHBoxLayout()
        head.addWidget(title, 1)
        head.addWidget(self.alone)
        column.addSpacing(8)
        column.addLayout(head)
        grid = QGridLayout()
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(4)
        grid.setColumnStretch(0, 1)
        own = {layer: names for layer, *names in own_in(shown)}
        line = 0
        for layer in home.layers:
            if layer.parent or layer.reference or layer.placeless:
                continue
            grid.addWidget(self._name(layer), line, 0)
            for place, field in enumerate(self._lists(project, home, shown, layer)):
                grid.addWidget(field, line, place + 1)
            line += 1
        for layer_id, names in own.items():
            self._add_own(grid, line, home, shown, layer_id, names)
            line += 1
        column.addLayout(grid)

    def _name(self, layer: Layer) -> QLabel:
        label = QLabel()
        label.setText(label.fontMetrics().elidedText(layer.name, Qt.TextElideMode.ElideRight, 170))
        label.setToolTip(layer.name)
        return label

    def _lists(
        self, project: Project, home: Composition, shown: Composition, layer: Layer
    ) -> tuple[ListField, ListField, ListField]:
        assert shown.follows is not None
        hold = hold_of(project, home, shown.follows, layer)
        made = []
        for label, choices, value in (
            ("across", ACROSS, hold.across), ("down", DOWN, hold.down), ("size", SIZES, hold.size),
        ):  # fmt: skip
            field = ListField()
            field.setAccessibleName(f"{layer.name}: {label}")
            for choice in choices:
                field.addItem(_SIZES.get(choice, choice), choice)
            field.setCurrentIndex(field.findData(value))
            field.activated.connect(lambda _=0, layer=layer.id: self._take(shown.id, layer))
            made.append(field)
        self.holds[layer.id] = (made[0], made[1], made[2])
        return self.holds[layer.id]

    def _take(self, made: str, layer: str) -> None:
        across, down, size = (field.currentData() for field in self.holds[layer])
        self._edit("Hold a layer", with_hold(self.session.project, made, Hold(layer, across, down, size)))

    def _add_own(
        self, grid: QGridLayout, line: int, home: Composition, shown: Composition, layer_id: str, names: list[str]
    ) -> None:
        layer = shown.find(layer_id) or home.find(layer_id)
        if layer is None:
            return
        what = ", ".join(
            "is only here" if name == WHOLE and layer_id not in home.by_id else "all of it" if name == WHOLE
            else "is left out" if name == GONE else layer.parameter(name).full_label if layer.has(name) else name
            for name in names
        )  # fmt: skip
        label = QLabel(f"{layer.name}: own here: {what}")
        label.setStyleSheet("color: #f5b23d;")
        label.setWordWrap(True)
        button = self.again[layer_id] = QPushButton("Follow again")
        button.setAutoDefault(False)
        button.setToolTip("Drop what this format has of its own, and follow the piece")
        button.clicked.connect(
            lambda: self._edit("Follow again", without_own(self.session.project, shown.id, layer_id))
        )
        grid.addWidget(label, line, 0, 1, 3)
        grid.addWidget(button, line, 3)

    def _edit(self, name: str, project: Project) -> None:
        self.session.edit_project(name, project, locked_too=True)

    def _show_pictures(self) -> None:
        project, version = self.session.project, self.session.version
        for card in self.cards:
            piece = card.piece
            made = self._pictures.of((version, piece.id), lambda piece=piece: _small(project, piece))
            if made is not None and not made.isNull():
                card.setIcon(QIcon(made))


def _small(project: Project, piece: Composition) -> np.ndarray:
    first, last = piece.span
    frame = first + int(_MOMENT * (last - first))
    return render_rgba8(project, piece.id, frame, 2 * _PICTURE / max(piece.width, piece.height))


