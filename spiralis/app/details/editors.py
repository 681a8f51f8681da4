"""One editor a kind of parameter. Each shows a value and tells when the person changes it."""

from __future__ import annotations

import random
from collections.abc import Callable

from attrs import evolve
from PyQt6.QtCore import QSize
from PyQt6.QtGui import QIcon
from PyQt6.QtWidgets import (
    QComboBox,
    QLabel,
    QMenu,
    QPushButton,
    QToolButton,
)

from spiralis.app.colours import ColourField
from spiralis.app.details.angle_dial import AngleDial
from spiralis.app.details.curve import CurveEditor
from spiralis.app.details.editor import Editor
from spiralis.app.details.figures import ArtEditor
from spiralis.app.details.font_list import FontField
from spiralis.app.details.nine_points import NinePoints
from spiralis.app.details.stops import StopsField
from spiralis.app.session import Session
from spiralis.app.style import icon
from spiralis.app.timeline.thumbnails import SIZE, layer_picture
from spiralis.app.widgets.fields import CheckBox, ListField
from spiralis.app.widgets.text_fields import TextArea
from spiralis.app.work.background import SmallPictures
from spiralis.core.model import Kind, Parameter, Value

#: Stands in a list for a file that is yet to be brought in.
_ANOTHER = "\0another"


class NumberEditor(Editor):
    """One number; an angle of an effect has a dial beside it, a seed a dice."""

    def __init__(self, parameter: Parameter, session: Session) -> None:
        super().__init__(parameter, session)
        self.dial: AngleDial | None = None
        if parameter.block and parameter.unit == "°":
            self.dial = AngleDial(parameter.label)
            self.dial.changed.connect(self._turn)
            self.dial.finished.connect(self.finished)
            self.row.addWidget(self.dial)
        self.field = self._field(parameter.label)
        self.field.changed.connect(lambda value: self.changed.emit(value))
        self.field.same.connect(lambda value: self.same.emit(value, -1))
        if parameter.name.rpartition(".")[2] == "seed":
            dice = QToolButton()
            dice.setObjectName("Flat")
            dice.setIcon(icon("dice"))
            dice.setAccessibleName(f"{parameter.label}: throw the dice")
            dice.setToolTip("Another number, at random")
            dice.clicked.connect(self._throw)
            self.row.addWidget(dice)

    def show_value(self, value: Value) -> None:
        self.field.show_value(value)
        if self.dial is not None:
            self.dial.show_value(value)

    def _turn(self, value: float) -> None:
        self.changed.emit(min(max(value, self.parameter.minimum), self.parameter.maximum))

    def _throw(self) -> None:
        low, high = int(self.parameter.minimum), int(min(self.parameter.maximum, 9999))
        self.changed.emit(float(random.randint(low, high)))
        self.finished.emit()


class PairEditor(Editor):
    """Two numbers; those of Scale can be linked so that they keep their ratio."""

    def __init__(self, parameter: Parameter, session: Session) -> None:
        super().__init__(parameter, session)
        piece = session.composition
        wholes = (piece.width, piece.height) if parameter.is_path else (100.0, 100.0)
        self.fields = [self._field(f"{parameter.label} {a}", w) for a, w in zip("xy", wholes, strict=True)]
        for index, field in enumerate(self.fields):
            field.changed.connect(lambda value, i=index: self._take(i, value))
            field.same.connect(lambda value, i=index: self._take_same(i, value))
        if parameter.name == "pivot":
            self.row.insertWidget(0, NinePoints(session))
        self.link: QToolButton | None = None
        self._shown = (0.0, 0.0)
        if parameter.name == "scale":
            self.link = QToolButton()
            self.link.setObjectName("Flat")
            self.link.setFixedSize(24, 24)
            self.link.setAccessibleName("Link width and height")
            self.link.setToolTip("Width and height keep their ratio")
            self.link.clicked.connect(self._toggle_link)
            self.row.insertWidget(1, self.link)

    def _linked(self) -> bool:
        layers = self.session.layers
        return self.link is not None and bool(layers) and layers[0].linked_scale

    def _toggle_link(self) -> None:
        linked = not self._linked()
        name = "Link scale" if linked else "Free scale"
        self.session.edit_layers(name, lambda layer: evolve(layer, linked_scale=linked))

    def show_value(self, value: Value) -> None:
        self._shown = value
        for field, number in zip(self.fields, value, strict=True):
            field.show_value(number)
        if self.link is not None:
            self.link.setIcon(icon("link" if self._linked() else "unlink"))

    def _take(self, index: int, number: float) -> None:
        if self._linked():
            self.each.emit(lambda own: _at_its_ratio(own, index, number))
            return
        pair = list(self._shown)
        pair[index] = number
        self.changed.emit(tuple(pair))

    def _take_same(self, index: int, number: float) -> None:
        if self._linked():
            self._take(index, number)
        else:
            self.same.emit(self._shown, index)


def _at_its_ratio(own: tuple[float, float], index: int, number: float) -> tuple[float, float]:
    """Return a pair with another component, the other one at the ratio that it had."""
    pair, other = [number, number], 1 - index
    if abs(own[index]) > 1e-6:
        pair[other] = round(own[other] * number / own[index], 4)
    return pair[0], pair[1]


class ColourEditor(Editor):
    """A colour."""

    def __init__(self, parameter: Parameter, session: Session) -> None:
        super().__init__(parameter, session)
        self.field = ColourField(parameter.label)
        self.field.changed.connect(lambda value: self.changed.emit(value))
        self.field.same.connect(lambda value: self.same.emit(value, -1))
        self.field.finished.connect(self.finished)
        self.row.addWidget(self.field)

    def show_value(self, value: Value) -> None:
        self.field.show_value(value)


class StopsEditor(Editor):
    """Gradient stops."""

    def __init__(self, parameter: Parameter, session: Session) -> None:
        super().__init__(parameter, session)
        self.field = StopsField(parameter.label)
        self.field.changed.connect(lambda value: self.changed.emit(value))
        self.field.finished.connect(self.finished)
        self.row.addWidget(self.field)

    def show_value(self, value: Value) -> None:
        self.field.show_value(value)


class ChoiceEditor(Editor):
    """One of several words: choices, sources, compositions."""

    def __init__(self, parameter: Parameter, session: Session) -> None:
        super().__init__(parameter, session)
        self.box = ListField()
        self.box.setAccessibleName(parameter.label)
        self.box.setToolTip(parameter.help)
        self.box.setMinimumContentsLength(6)
        self.box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.box.activated.connect(self._take)
        self.row.addWidget(self.box)
        self._shown: Value = ""

    def _items(self) -> list[tuple[str, str]]:
        match self.parameter.kind:
            case Kind.SOURCE:
                kinds = set(self.parameter.choices) or {layer.kind for layer in self.session.layers}
                found = [(s.name, s.id) for s in self.session.project.sources if s.kind in kinds]
                # A layer of such a kind always has one; an effect may be there before its file is.
                none = [("none", "")] if self.parameter.block or self.parameter.optional else []
                return [*none, *found, ("Bring a file in…", _ANOTHER)]
            case Kind.LAYER:
                layers = self.session.composition.layers
                return [("none", ""), *((y.name, y.id) for y in layers if y.id not in self.session.selected)]
            case Kind.COMPOSITION:
                own = self.session.composition
                found = [(c.name, c.id) for c in self.session.project.compositions if c is not own]
                return [("none", ""), *found] if self.parameter.optional else found
        return [(name.replace("-", " ").capitalize(), name) for name in self.parameter.choices]

    def show_value(self, value: Value) -> None:
        self._shown = value
        items = self._items()
        if [self.box.itemData(i) for i in range(self.box.count())] != [data for _, data in items]:
            self.box.clear()
            for label, data in items:
                self.box.addItem(label, data)
        index = self.box.findData(value)
        if index < 0:
            self.box.addItem(f"{value} (missing)" if value else "none", value)
            index = self.box.count() - 1
        self.box.setCurrentIndex(index)

    def _take(self, index: int) -> None:
        if self.box.itemData(index) == _ANOTHER:
            self.show_value(self._shown)
            self.session.fileAsked.emit(self.parameter.name)
            return
        self.changed.emit(self.box.itemData(index))
        self.finished.emit()


class LayerEditor(ChoiceEditor):
    """Another layer of the composition, each shown with what it looks like."""

    def __init__(self, parameter: Parameter, session: Session) -> None:
        super().__init__(parameter, session)
        self.pictures = SmallPictures(self)
        self.pictures.made.connect(self._show_pictures)
        self.box.setIconSize(QSize(SIZE, SIZE))
        self.box.opening.connect(self._show_pictures)

    def _show_pictures(self) -> None:
        project, piece = self.session.project, self.session.composition
        for index in range(self.box.count()):
            layer = piece.find(self.box.itemData(index))
            if layer is not None:
                picture = self.pictures.of(
                    (layer.id, self.session.version), lambda y=layer: layer_picture(project, piece, y, 2 * SIZE)
                )
                if picture is not None and not picture.isNull():
                    self.box.setItemIcon(index, QIcon(picture))


class FontEditor(Editor):
    """A font family."""

    def __init__(self, parameter: Parameter, session: Session) -> None:
        super().__init__(parameter, session)
        self.field = FontField(session, parameter.label)
        self.field.chosen.connect(self._take)
        self.row.addWidget(self.field)

    def show_value(self, value: Value) -> None:
        self.field.show_value(value)

    def _take(self, family: str) -> None:
        self.changed.emit(family)
        self.finished.emit()


class RunsEditor(Editor):
    """Says how many parts of the words have a look of their own, and takes it off."""

    def __init__(self, parameter: Parameter, session: Session) -> None:
        super().__init__(parameter, session)
        self.text = QLabel()
        self.text.setObjectName("Quiet")
        self.text.setToolTip("Double-click the words, choose letters, and change them in the bar above the layer list")
        self.clear = QPushButton("All plain")
        self.clear.setStyleSheet("padding: 3px 8px;")
        self.clear.clicked.connect(self._take)
        self.row.addWidget(self.text, 1)
        self.row.addWidget(self.clear)

    def show_value(self, value: Value) -> None:
        self.text.setText(f"{len(value)} part" if len(value) == 1 else f"{len(value)} parts")

    def _take(self) -> None:
        self.changed.emit(())
        self.finished.emit()


class SwitchEditor(Editor):
    """On or off."""

    narrow = True

    def __init__(self, parameter: Parameter, session: Session) -> None:
        super().__init__(parameter, session)
        self.box = CheckBox()
        self.box.setAccessibleName(parameter.label)
        self.box.setToolTip(parameter.help)
        self.box.clicked.connect(self._take)
        self.row.addWidget(self.box)

    def show_value(self, value: Value) -> None:
        self.box.setChecked(bool(value))

    def _take(self, checked: bool) -> None:
        self.changed.emit(checked)
        self.finished.emit()


class WordsEditor(Editor):
    """Several lines of text."""

    def __init__(self, parameter: Parameter, session: Session) -> None:
        super().__init__(parameter, session)
        self.text = TextArea()
        self.setMinimumHeight(62)
        self.text.setFixedHeight(58)
        self.text.setTabChangesFocus(True)
        self.text.setAccessibleName(parameter.label)
        self.text.setToolTip(parameter.help)
        self.text.textChanged.connect(self._take)
        self.text.left.connect(self.finished)
        self.row.addWidget(self.text)
        self._showing = False

    def show_value(self, value: Value) -> None:
        if self.text.toPlainText() != value:
            self._showing = True
            self.text.setPlainText(value)
            self._showing = False

    def _take(self) -> None:
        if not self._showing:
            self.changed.emit(self.text.toPlainText())


class DrawingsEditor(Editor):
    """How many drawings there are; the strip under the canvas shows those of a flipbook, copies take files here."""

    def __init__(self, parameter: Parameter, session: Session) -> None:
        super().__init__(parameter, session)
        self.text = QLabel()
        self.text.setObjectName("Quiet")
        self.text.setToolTip("The strip under the canvas shows them; there they are reordered and timed")
        self.row.addWidget(self.text, 1)
        self.choose = QToolButton()
        self.choose.setText("Pictures")
        self.choose.setToolTip("Which of the project's pictures are shown, in the order in which they are ticked")
        self.choose.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self.menu = QMenu(self.choose)
        self.menu.aboutToShow.connect(self._fill)
        self.choose.setMenu(self.menu)
        self.row.addWidget(self.choose)
        self._value: Value = ()

    def _fill(self) -> None:
        """List the project's pictures; those that are shown are ticked."""
        self.menu.clear()
        for source in self.session.project.sources:
            if source.sort.still:
                action = self.menu.addAction(source.name, lambda held=source.id: self._toggle(held))
                action.setCheckable(True)
                action.setChecked(any(shown == source.id for shown, _ in self._value))
        if self.menu.isEmpty():
            self.menu.addAction("Bring pictures in first (Ctrl+I)").setEnabled(False)

    def _toggle(self, source: str) -> None:
        shown = any(held == source for held, _ in self._value)

        def change(own: Value) -> Value:
            kept = tuple(pair for pair in own if pair[0] != source)
            return kept if shown else own if len(kept) < len(own) else (*own, (source, 1))

        self.each.emit(change)
        self.finished.emit()

    def show_value(self, value: Value) -> None:
        self._value = value
        different = len({source for source, _ in value})
        self.text.setText(f"{len(value)} in turn")
        self.text.setToolTip(f"{different} of them different")


EDITORS: dict[Kind, Callable[[Parameter, Session], Editor]] = {
    Kind.NUMBER: NumberEditor, Kind.PAIR: PairEditor, Kind.COLOUR: ColourEditor, Kind.STOPS: StopsEditor,
    Kind.CURVE: CurveEditor,
    Kind.CHOICE: ChoiceEditor, Kind.SWITCH: SwitchEditor, Kind.TEXT: WordsEditor, Kind.FONT: FontEditor,
    Kind.SOURCE: ChoiceEditor, Kind.COMPOSITION: ChoiceEditor, Kind.ART: ArtEditor, Kind.DRAWINGS: DrawingsEditor,
    Kind.RUNS: RunsEditor, Kind.LAYER: LayerEditor,
}  # fmt: skip
