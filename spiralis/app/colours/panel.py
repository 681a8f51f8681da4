"""The colour panel: plane, hue, alpha, numbers in three notations, swatches, dropper, contrast."""

from __future__ import annotations

from collections.abc import Callable

from attrs import evolve
from PyQt6.QtCore import QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import (
    QApplication,
    QDialog,
    QDialogButtonBox,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from spiralis.app.colours.converting import as_qcolor
from spiralis.app.colours.dropper import Dropper
from spiralis.app.colours.palettes import PaletteMenu
from spiralis.app.colours.planes import AlphaStrip, HueStrip, Plane, reach
from spiralis.app.colours.swatches import SwatchGrid
from spiralis.app.session import Session
from spiralis.app.widgets.fields import NumberField
from spiralis.app.widgets.text_fields import TextField
from spiralis.core.colour import (
    Colour,
    contrast_ratio,
    from_hsl,
    from_oklch,
    parse_hex,
    to_hex,
    to_hsl,
    to_oklch,
)
from spiralis.core.errors import ModelError, SpiralisError
from spiralis.core.media.files import read_bytes
from spiralis.core.media.pictures import decode_picture
from spiralis.core.media.swatches import palette_of
from spiralis.core.model import Project

#: Rows of number fields: label, unit, largest value.
_FIELDS = {
    "RGB": (("Red", "", 255), ("Green", "", 255), ("Blue", "", 255)),
    "HSL": (("Hue", "°", 360), ("Saturation", "%", 100), ("Lightness", "%", 100)),
    "OKLCH": (("Perceived lightness", "%", 100), ("Chroma", "", 0.4), ("Perceived hue", "°", 360)),
}


class ColourPanel(QDialog):
    """Chooses a colour; ``moved`` tells it while one looks for it."""

    moved = pyqtSignal(object)

    def __init__(self, parent: QWidget, label: str, value: Colour, session: Session | None) -> None:
        super().__init__(parent)
        self.setWindowTitle(label)
        self.session = session
        self.value = value
        self._target = parent.window()
        self._hue = to_oklch(value)[2]
        self.plane, self.hues, self.alphas = Plane(), HueStrip(), AlphaStrip()
        self.plane.picked.connect(self._by_plane)
        self.hues.picked.connect(self._by_hue)
        self.alphas.picked.connect(lambda x, _: self._set((*self.value[:3], round(x, 3))))
        self.hex = TextField()
        self.hex.setAccessibleName("Hex")
        self.hex.setFixedWidth(92)
        self.hex.editingFinished.connect(self._by_hex)
        self.fields = {name: self._row_of_fields(name) for name in _FIELDS}
        self.swatch = _Beside(value)
        self.contrast = QLabel()
        self.contrast.setWordWrap(True)
        self.dropper: Dropper | None = None
        self.grid = SwatchGrid(session) if session is not None else None
        self._build()
        self._show()

    def _row_of_fields(self, name: str) -> list[NumberField]:
        fields = []
        for label, unit, most in _FIELDS[name]:
            decimals = 3 if most < 1 else 0 if name == "RGB" else 1
            field = NumberField(label, unit, 0, most, 0.004 if most < 1 else 1.0, decimals=decimals)
            field.setFixedWidth(62)
            field.changed.connect(lambda _, name=name: self._by_numbers(name))
            fields.append(field)
        return fields

    def _build(self) -> None:
        left = QVBoxLayout()
        left.setSpacing(6)
        for widget in (self.plane, self.hues, self.alphas):
            left.addWidget(widget)
        right = QVBoxLayout()
        right.setSpacing(8)
        top = QHBoxLayout()
        top.addWidget(self.swatch)
        top.addWidget(self.hex)
        drop = QPushButton("Take from the window")
        drop.setToolTip("Take a colour from the canvas or anywhere in the window, through a loupe")
        drop.clicked.connect(self.take_from_window)
        top.addWidget(drop, 1)
        right.addLayout(top)
        numbers = QGridLayout()
        numbers.setSpacing(5)
        for row, (name, fields) in enumerate(self.fields.items()):
            label = QLabel(name)
            label.setObjectName("Quiet")
            numbers.addWidget(label, row, 0)
            for column, field in enumerate(fields):
                numbers.addWidget(field, row, column + 1)
        right.addLayout(numbers)
        right.addWidget(self.contrast)
        if self.grid is not None:
            self._add_swatches(right)
        right.addStretch(1)
        body = QHBoxLayout()
        body.setSpacing(14)
        body.addLayout(left)
        body.addLayout(right, 1)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel)
        buttons.accepted.connect(self.accept)
        buttons.rejected.connect(self.reject)
        whole = QVBoxLayout(self)
        whole.addLayout(body)
        whole.addWidget(buttons)

    def _add_swatches(self, column: QVBoxLayout) -> None:
        assert self.grid is not None
        head = QHBoxLayout()
        title = QLabel("SWATCHES")
        title.setObjectName("Heading")
        head.addWidget(title, 1)
        draw = QPushButton("From the chosen picture")
        draw.setStyleSheet("padding: 3px 8px;")
        draw.setToolTip("Draw a palette out of the chosen picture, the logo say, and keep it as swatches")
        draw.clicked.connect(self._draw_out)
        head.addWidget(draw)
        self.palettes = QPushButton("Palettes")
        self.palettes.setStyleSheet("padding: 3px 8px;")
        self.palettes.setToolTip("Add a palette of the library to the swatches, or keep the swatches as one")
        self.palettes.setMenu(PaletteMenu(self, self.grid))
        head.addWidget(self.palettes)
        column.addLayout(head)
        area = QScrollArea()
        area.setFrameShape(QFrame.Shape.NoFrame)
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        area.setWidget(self.grid)
        area.setFixedSize(self.grid.width() + 14, self.grid.height())
        self.grid.chosenMoved.connect(lambda place: area.ensureVisible(0, place, 0, 24))
        column.addWidget(area)
        self.grid.taken.connect(self._set_from_outside)

    # -- showing ---------------------------------------------------------------------------------------

    def _show(self) -> None:
        lightness, chroma, hue = to_oklch(self.value)
        self._hue = hue if chroma > 0.002 else self._hue
        self.plane.hue = self._hue
        most = reach(self._hue, lightness)
        self.plane.show_place(chroma / most if most > 1e-3 else 0.0, 1 - lightness)
        self.hues.show_place(self._hue / 360)
        self.alphas.shade = self.value[:3]
        self.alphas.show_place(self.value[3])
        self.hex.setText(to_hex(self.value))
        hsl = to_hsl(self.value)
        shown: dict[str, list[float]] = {
            "RGB": [round(255 * v) for v in self.value[:3]],
            "HSL": [hsl[0], 100 * hsl[1], 100 * hsl[2]],
            "OKLCH": [100 * lightness, chroma, self._hue],
        }
        for name, numbers in shown.items():
            for field, number in zip(self.fields[name], numbers, strict=True):
                field.show_value(round(number, field.decimals))
        self.swatch.show_value(self.value)
        if self.grid is not None:
            self.grid.present = self.value
        self._show_contrast()

    def _show_contrast(self) -> None:
        ground = self.session.composition.background if self.session is not None else None
        against = ground if ground is not None and ground[3] == 1 else None
        black, white = (0.0, 0.0, 0.0, 1.0), (1.0, 1.0, 1.0, 1.0)
        pairs = [("black", black), ("white", white), ("the colour before", self.swatch.before)]
        if against is not None:
            pairs.insert(0, ("the background", against))
        parts = [f"{contrast_ratio(self.value, other):.1f} : 1 with {name}" for name, other in pairs]
        self.contrast.setText("Contrast " + ", ".join(parts))
        self.contrast.setToolTip("Words read well from 4.5 : 1 on, large ones from 3 : 1 (WCAG 2.2)")

    # -- taking ----------------------------------------------------------------------------------------

    def _set(self, value: Colour) -> None:
        self.value = tuple(round(v, 6) for v in value)  # type: ignore[assignment]
        self._show()
        self.moved.emit(self.value)

    def _set_from_outside(self, value: Colour) -> None:
        self._set(value)

    def _by_plane(self, x: float, y: float) -> None:
        self._set(from_oklch(1 - y, x * reach(self._hue, 1 - y), self._hue, self.value[3]))

    def _by_hue(self, x: float, _: float) -> None:
        lightness, chroma, _old = to_oklch(self.value)
        self._hue = x * 360
        self._set(from_oklch(lightness, chroma, self._hue, self.value[3]))

    def _by_hex(self) -> None:
        if self.hex.text() == to_hex(self.value):
            return  # It was only left: what it shows is rounded.
        try:
            self._set(parse_hex(self.hex.text()))
        except ModelError:
            self.hex.setText(to_hex(self.value))

    def _by_numbers(self, name: str) -> None:
        a, b, c = (field.value or 0.0 for field in self.fields[name])
        alpha = self.value[3]
        if name == "RGB":
            self._set((a / 255, b / 255, c / 255, alpha))
        elif name == "HSL":
            self._set(from_hsl(a, b / 100, c / 100, alpha))
        else:
            self._hue = c
            self._set(from_oklch(a / 100, b, c, alpha))

    def take_from_window(self) -> None:
        """Let a colour be taken from anywhere in the window that the panel belongs to."""
        self.dropper = Dropper(self, self._target)
        self.dropper.taken.connect(lambda taken: self._set((*taken[:3], self.value[3])))
        self.dropper.show()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        # Enter in a field ends its typing; the panel closes by its button.
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and isinstance(self.focusWidget(), QLineEdit):
            return
        super().keyPressEvent(event)

    def _draw_out(self) -> None:
        assert self.session is not None and self.grid is not None
        for layer in self.session.layers:
            source_id = self.session.evaluated().values(layer).get("source")
            source = self.session.project.source(source_id) if source_id else None
            if source is not None and source.sort.still and not source.missing:
                try:
                    data = source.data if source.data is not None else read_bytes(source.place)
                    self.grid.add(*palette_of(decode_picture(data, source.name)))
                except SpiralisError as error:
                    self.session.failed.emit(str(error))
                return
        self.session.failed.emit("Choose a picture layer first; its colours become swatches.")


class _Beside(QWidget):
    """The colour before and the colour now, side by side."""

    def __init__(self, value: Colour) -> None:
        super().__init__()
        self.before = self.value = value
        self.setFixedSize(56, 28)
        self.setToolTip("Before and now")

    def sizeHint(self) -> QSize:
        return self.size()

    def show_value(self, value: Colour) -> None:
        """Show the colour of now."""
        self.value = value
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        half = self.width() // 2
        painter.fillRect(0, 0, half, self.height(), as_qcolor(self.before))
        painter.fillRect(half, 0, self.width() - half, self.height(), as_qcolor(self.value))
        painter.end()


def choose_colour(parent: QWidget, label: str, value: Colour, live: Callable[[Colour], object]) -> Colour | None:
    """Open the colour panel; ``live`` is called while one moves in it.

    Returns the colour to keep; None where it is cancelled and the project is as it was before: of several layers each
    had its own colour, and what had a key there was no matter of the colour alone.
    """
    windows = [parent.window(), *QApplication.topLevelWidgets()]
    session = next((w.session for w in windows if isinstance(getattr(w, "session", None), Session)), None)
    panel = ColourPanel(parent, label, value, session)
    panel.moved.connect(live)
    before = (session.version, session.project) if session is not None else None
    if panel.exec():
        return panel.value
    if session is None or before is None or session.version == before[0]:
        return value
    _take_back(session, *before)
    return None


def _take_back(session: Session, version: int, project: Project) -> None:
    """Undo what was done since a version, but for the swatches, which were kept or dropped for good."""
    swatches, steps = session.project.swatches, session.history.steps_to(version)
    for _ in range(steps or 0):
        session.undo()
    now = project if steps is None else session.project
    if now is not session.project or now.swatches != swatches:
        session.edit_project("Keep swatches", evolve(now, swatches=swatches))
