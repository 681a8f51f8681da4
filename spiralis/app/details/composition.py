"""What Details shows while no layer is chosen: the composition's own values, in a few small parts."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from attrs import evolve
from PyQt6.QtWidgets import QFormLayout, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from spiralis.app.colours import ColourField
from spiralis.app.session import Session
from spiralis.app.widgets.fields import CheckBox, ListField, NumberField
from spiralis.app.widgets.text_fields import TextField
from spiralis.core.editing.edits import with_length
from spiralis.core.model import Composition
from spiralis.core.model.project import BLURS, LIGHTS

#: Width of the longest label, in px.
_LABELS = 92


class CompositionPart(QWidget):
    """Some values of the composition as rows; ``refresh`` shows them as they are."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self._shows: list[Callable[[Composition], None]] = []
        #: The piece as a gesture found it: on the way nothing is cut that the end leaves whole. And the version that
        #: the gesture has come to: whatever else changes the piece meanwhile stays.
        self._found: Composition | None = None
        self._version = 0
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(0, 0, 0, 4)
        self.column.setSpacing(8)
        self.form = QFormLayout()
        self.form.setHorizontalSpacing(10)
        self.form.setVerticalSpacing(6)
        self.column.addLayout(self.form)

    def refresh(self) -> None:
        """Show the composition as it is."""
        for show in self._shows:
            show(self.session.composition)

    def number(
        self, label: str, unit: str, limits: tuple[float, float], of: Callable[[Composition], float],
        put: Callable[[Composition, float], Composition], help: str = "", whole: bool = False,
    ) -> NumberField:  # fmt: skip
        """Return a field for a number: ``of`` reads it, ``put`` returns the composition with another."""
        field = NumberField(label, unit, *limits, decimals=0 if whole else 2)
        if help:
            field.setToolTip(help)

        def change(value: float) -> None:
            if self._found is None or self.session.version != self._version:
                self._found = self.session.composition
            found = self._found
            self.session.edit(label, lambda _: put(found, value), merge=label)
            self._version = self.session.version

        field.changed.connect(change)
        field.finished.connect(self._finish)
        field.refused.connect(self.session.failed)
        self._shows.append(lambda piece: field.show_value(of(piece)))
        return field

    def _finish(self) -> None:
        self._found = None
        self.session.close_step()

    def choice(self, label: str, name: str, words: tuple[str, ...], help: str) -> ListField:
        """Add a row that chooses one of the words for the composition's value of that name."""
        field = ListField()
        field.setAccessibleName(label)
        field.setToolTip(help)
        for word in words:
            field.addItem(word, word)
        field.activated.connect(
            lambda _: self.session.edit(label, lambda c: evolve(c, **{name: field.currentData()}))
        )
        self._shows.append(lambda piece: field.setCurrentIndex(field.findData(getattr(piece, name))))
        self.row(label, field)
        return field

    def row(self, label: str, field: QWidget | QHBoxLayout) -> None:
        """Add a row; labels are as wide in every part, so that the fields stand in one column."""
        name = QLabel(label)
        name.setMinimumWidth(_LABELS)
        self.form.addRow(name, field)

    def side_by_side(self, label: str, *widgets: QWidget) -> None:
        """Add a row of several widgets; fields share the room that buttons leave."""
        line = QHBoxLayout()
        line.setSpacing(4)
        for widget in widgets:
            line.addWidget(widget, 0 if isinstance(widget, QPushButton) else 1)
        self.row(label, line)


class PieceHead(CompositionPart):
    """What the piece is: its name, format, length, and whether it goes round."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        title, self.format = QLabel("Composition"), QLabel()
        title.setObjectName("Title")
        self.format.setObjectName("Quiet")
        self.column.insertWidget(0, title)
        self.column.insertWidget(1, self.format)
        self.name = TextField()
        self.name.setAccessibleName("Name")
        self.name.editingFinished.connect(self._take_name)
        self.row("Name", self.name)
        self.length = self.number(
            "Length", "f", (1, 200_000), lambda c: c.length, lambda c, v: with_length(c, int(v)), whole=True
        )
        self.row("Length", self.length)
        self.loop = CheckBox("round and round")
        self.loop.setToolTip("The frame after the last one is frame 0: the end flows into the beginning")
        self.loop.clicked.connect(lambda on: session.edit("Loop", lambda c: evolve(c, loop=on)))
        self.row("Loop", self.loop)
        self._shows.append(self._show_head)

    def _show_head(self, piece: Composition) -> None:
        if not self.name.hasFocus():
            self.name.setText(piece.name)
        self.format.setText(
            f"{piece.width} × {piece.height} px · {float(piece.rate):.4g} fps · {float(piece.seconds):.2f} s"
        )
        self.loop.setChecked(piece.loop)

    def _take_name(self) -> None:
        name = self.name.text().strip()
        if name and name != self.session.composition.name:
            self.session.edit(f"Rename to {name}", lambda c: evolve(c, name=name))


class PieceMixing(CompositionPart):
    """What lies behind all layers, and in which light they mix."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.background = ColourField("Background")
        self.background.changed.connect(
            lambda v: session.edit("Background", lambda c: evolve(c, background=v), merge="background")
        )
        self.background.finished.connect(session.close_step)
        self.clear = QPushButton("None")
        self.clear.setStyleSheet("padding: 3px 8px;")
        self.clear.setToolTip("No background: what no layer covers is see-through")
        self.clear.clicked.connect(lambda: session.edit("No background", lambda c: evolve(c, background=None)))
        self.side_by_side("Background", self.background, self.clear)
        self._shows.append(self._show_background)
        self.light = self.choice(
            "Light", "light", LIGHTS,
            "How layers mix. Encoded: as their colours are written, what screens and the web do. "
            "Linear: as light itself adds up, so that soft edges, glows and fades keep their brightness",
        )  # fmt: skip

    def _show_background(self, piece: Composition) -> None:
        self.background.show_value(piece.background or (0.0, 0.0, 0.0, 0.0))
        self.clear.setEnabled(piece.background is not None)


class PieceShutter(CompositionPart):
    """How motion blur is made."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.angle = self.number(
            "Shutter angle", "°", (0, 720), lambda c: c.shutter_angle, lambda c, v: evolve(c, shutter_angle=v)
        )
        self.phase = self.number(
            "Shutter phase", "°", (-720, 720), lambda c: c.shutter_phase, lambda c, v: evolve(c, shutter_phase=v)
        )
        self.row("Shutter angle", self.angle)
        self.row("Shutter phase", self.phase)
        self.blur_of = self.choice(
            "Blur of", "blur_of", BLURS,
            "Movement: a layer's picture along its way. Everything: also its colours, effects, words and what is in it",
        )  # fmt: skip
        self.samples = self.number(
            "Blur quality", "", (4, 512), lambda c: c.blur_samples, lambda c, v: evolve(c, blur_samples=int(v)),
            "Motion blur takes a moment for each pixel that moved, this many at most", whole=True,
        )  # fmt: skip
        self.row("Blur quality", self.samples)


class PieceAids(CompositionPart):
    """What helps to lay out: the grid's distance and the safe areas."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.grid = self.number(
            "Grid", "px", (0, 20_000), lambda c: c.grid, lambda c, v: evolve(c, grid=v),
            "Distance of the grid's lines; 0 is no grid. View > Grid shows it",
        )  # fmt: skip
        self.row("Grid", self.grid)
        self.sides = self.number(
            "Safe area at the sides", "%", (0, 49), lambda c: c.safe_area[0],
            lambda c, v: evolve(c, safe_area=(v, c.safe_area[1])),
        )  # fmt: skip
        self.ends = self.number(
            "Safe area at top and bottom", "%", (0, 49), lambda c: c.safe_area[1],
            lambda c, v: evolve(c, safe_area=(c.safe_area[0], v)),
        )  # fmt: skip
        self.side_by_side("Safe area", self.sides, self.ends)
        hint = QLabel("Choose a layer on the canvas or in the timeline to see and change its values.")
        hint.setObjectName("Quiet")
        hint.setWordWrap(True)
        self.column.addWidget(hint)


def composition_parts(session: Session) -> Iterator[CompositionPart]:
    """Make the parts one after the other, so that the window answers in between."""
    for part in (PieceHead, PieceMixing, PieceShutter, PieceAids):
        yield part(session)
