"""What Details shows while no layer is chosen: the composition's own values."""

from __future__ import annotations

from attrs import evolve
from PyQt6.QtWidgets import QCheckBox, QFormLayout, QHBoxLayout, QLabel, QLineEdit, QPushButton, QVBoxLayout, QWidget

from spiralis.app.colours import ColourField
from spiralis.app.session import Session
from spiralis.app.widgets.fields import ListField, NumberField
from spiralis.core.editing.edits import with_length
from spiralis.core.model.project import BLURS, LIGHTS


def _list(name: str, words: tuple[str, ...], help: str) -> ListField:
    box = ListField()
    box.setAccessibleName(name)
    box.setToolTip(help)
    for word in words:
        box.addItem(word, word)
    return box


class CompositionDetails(QWidget):
    """Name, background, length, loop and shutter of the composition."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.name = QLineEdit()
        self.name.setAccessibleName("Name")
        self.name.editingFinished.connect(self._take_name)
        self.length = NumberField("Length", "f", 1, 200_000, decimals=0)
        self.length.changed.connect(lambda v: session.edit("Length", lambda c: with_length(c, int(v)), merge="length"))
        self.background = ColourField("Background")
        self.background.changed.connect(
            lambda v: session.edit("Background", lambda c: evolve(c, background=v), merge="background")
        )
        self.background.finished.connect(session.close_step)
        self.clear = QPushButton("None")
        self.clear.setStyleSheet("padding: 3px 8px;")
        self.clear.setToolTip("No background: what no layer covers is see-through")
        self.clear.clicked.connect(lambda: session.edit("No background", lambda c: evolve(c, background=None)))
        self.loop = QCheckBox("round and round")
        self.loop.setToolTip("The frame after the last one is frame 0: the end flows into the beginning")
        self.loop.clicked.connect(lambda on: session.edit("Loop", lambda c: evolve(c, loop=on)))
        self._make_mixing()
        self.grid = NumberField("Grid", "px", 0, 20_000)
        self.grid.setToolTip("Distance of the grid's lines; 0 is no grid. View > Grid shows it")
        self.grid.changed.connect(lambda v: session.edit("Grid", lambda c: evolve(c, grid=v), merge="grid"))
        self.safe = [NumberField(f"Safe area {side}", "%", 0, 49) for side in ("at the sides", "at top and bottom")]
        for field in self.safe:
            field.changed.connect(lambda _: self._take_safe())
        for field in (self.length, self.angle, self.phase, self.samples, self.grid, *self.safe):
            field.finished.connect(session.close_step)
            field.refused.connect(session.failed)
        self._build()

    def _make_mixing(self) -> None:
        session = self.session
        self.angle = NumberField("Shutter angle", "°", 0, 720)
        self.angle.changed.connect(
            lambda v: session.edit("Shutter angle", lambda c: evolve(c, shutter_angle=v), merge="shutter")
        )
        self.phase = NumberField("Shutter phase", "°", -720, 720)
        self.phase.changed.connect(
            lambda v: session.edit("Shutter phase", lambda c: evolve(c, shutter_phase=v), merge="phase")
        )
        self.samples = NumberField("Blur quality", "", 4, 512, decimals=0)
        self.samples.setToolTip("Motion blur takes a moment for each pixel that moved, this many at most")
        self.samples.changed.connect(
            lambda v: session.edit("Blur quality", lambda c: evolve(c, blur_samples=int(v)), merge="samples")
        )
        self.blur_of = _list(
            "Blur of", BLURS,
            "Movement: a layer's picture along its way. Everything: also its colours, effects, words and what is in it",
        )  # fmt: skip
        self.blur_of.activated.connect(
            lambda _: session.edit("Blur of", lambda c: evolve(c, blur_of=self.blur_of.currentData()))
        )
        self.light = _list(
            "Light", LIGHTS,
            "How layers mix. Encoded: as their colours are written, what screens and the web do. "
            "Linear: as light itself adds up, so that soft edges, glows and fades keep their brightness",
        )  # fmt: skip
        self.light.activated.connect(
            lambda _: session.edit("Light", lambda c: evolve(c, light=self.light.currentData()))
        )

    def _build(self) -> None:
        title = QLabel("Composition")
        title.setObjectName("Title")
        self.format = QLabel()
        self.format.setObjectName("Quiet")
        form = QFormLayout()
        form.setHorizontalSpacing(10)
        form.setVerticalSpacing(6)
        ground = QHBoxLayout()
        ground.setSpacing(4)
        ground.addWidget(self.background, 1)
        ground.addWidget(self.clear)
        form.addRow("Name", self.name)
        form.addRow("Length", self.length)
        form.addRow("Background", ground)
        form.addRow("Loop", self.loop)
        form.addRow("Shutter angle", self.angle)
        form.addRow("Shutter phase", self.phase)
        form.addRow("Blur of", self.blur_of)
        form.addRow("Blur quality", self.samples)
        form.addRow("Light", self.light)
        form.addRow("Grid", self.grid)
        sides = QHBoxLayout()
        sides.setSpacing(4)
        for field in self.safe:
            sides.addWidget(field)
        form.addRow("Safe area", sides)
        hint = QLabel("Choose a layer on the canvas or in the timeline to see and change its values.")
        hint.setObjectName("Quiet")
        hint.setWordWrap(True)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(8)
        column.addWidget(title)
        column.addWidget(self.format)
        column.addLayout(form)
        column.addWidget(hint)

    def refresh(self) -> None:
        """Show the composition as it is."""
        piece = self.session.composition
        if not self.name.hasFocus():
            self.name.setText(piece.name)
        self.format.setText(
            f"{piece.width} × {piece.height} px · {float(piece.rate):.4g} fps · {float(piece.seconds):.2f} s"
        )
        self.length.show_value(piece.length)
        self.background.show_value(piece.background or (0.0, 0.0, 0.0, 0.0))
        self.clear.setEnabled(piece.background is not None)
        self.loop.setChecked(piece.loop)
        self.angle.show_value(piece.shutter_angle)
        self.phase.show_value(piece.shutter_phase)
        self.samples.show_value(piece.blur_samples)
        self.blur_of.setCurrentIndex(self.blur_of.findData(piece.blur_of))
        self.light.setCurrentIndex(self.light.findData(piece.light))
        self.grid.show_value(piece.grid)
        for field, share in zip(self.safe, piece.safe_area, strict=True):
            field.show_value(share)

    def _take_safe(self) -> None:
        area = (self.safe[0].value or 0.0, self.safe[1].value or 0.0)
        self.session.edit("Safe area", lambda c: evolve(c, safe_area=area), merge="safe-area")

    def _take_name(self) -> None:
        name = self.name.text().strip()
        if name and name != self.session.composition.name:
            self.session.edit(f"Rename to {name}", lambda c: evolve(c, name=name))
