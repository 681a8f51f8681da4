"""Adding layers: the strip above the layer list."""

from __future__ import annotations

from collections.abc import Sequence

from attrs import evolve
from PyQt6.QtCore import QSize, Qt, pyqtSignal
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QHBoxLayout, QMenu, QToolButton, QWidget

from spiralis.app.session import Session
from spiralis.app.style import icon
from spiralis.core.animation.easing import LINEAR, from_softness
from spiralis.core.editing.carrying import on_carrier, ties_given_up
from spiralis.core.editing.edits import unused_name
from spiralis.core.editing.locking import locked_in
from spiralis.core.editing.wording import named_by_words
from spiralis.core.model import Composition, Key, Layer, Track, layer_kind, layer_kinds
from spiralis.core.model.adding import AddEntry

CARRIER = "carrier"
#: From this width on, in px, the buttons have their names beside their pictures.
_NAMED = 404
#: A new layer lies this part of the frame beside one of its kind that is where it would be.
_STEPS = 36
#: How keys that come with a layer lead to the next.
_SOFT = from_softness(45, 45)
#: Words with a longer line or more lines than that would leave the frame at the usual size.
_SHORT, _FEW = 12, 4


def new_layer(session: Session, kind: str, name: str, **values: object) -> Layer:
    """Return a layer over the whole composition, in the middle of the frame or beside the one that lies there."""
    piece = session.composition
    name = unused_name(name, {layer.name for layer in piece.layers})
    x, y = piece.width / 2, piece.height / 2
    if not layer_kind(kind).fills_frame:
        step = round(min(piece.width, piece.height) / _STEPS)
        taken = {layer.track("position").value for layer in piece.layers if layer.kind == kind}
        while (x, y) in taken and x + step < piece.width and y + step < piece.height:
            x, y = x + step, y + step
    return Layer(name, kind, 0, piece.length).with_values(position=(x, y), **values)


def _ground_place(layers: Sequence[Layer]) -> int:
    """Return where a new ground comes: behind all that stands on grounds, in front of those, which would hide it."""
    place = len(layers)
    while place and _is_ground(layers[place - 1]):
        place -= 1
    return place


def _is_ground(layer: Layer) -> bool:
    """Whether a layer shows something all over the frame; what changes all beneath it goes on doing so."""
    kind = layer_kind(layer.kind)
    return kind.fills_frame and kind.beneath is None


def add_layer(session: Session, layer: Layer, as_ground: bool = False) -> None:
    """Put a layer on top of the chosen one (grounds behind all others, a light under all in depth) and choose it."""
    layers = list(session.composition.layers)
    ids = [other.id for other in layers]
    index = _ground_place(layers) if as_ground else min((ids.index(i) for i in session.selected if i in ids), default=0)
    if layer_kind(layer.kind).lights:
        # Shadows fall on what lies beneath the light, so what throws them lies over it.
        index = max((i + 1 for i, other in enumerate(layers) if other.track("depth").value), default=index)
    layers.insert(index, layer)
    label = layer_kind(layer.kind).label

    def change(piece: Composition) -> Composition:
        return evolve(piece, layers=tuple(layers))

    if session.edit(f"Add {label}", change):
        session.select([layer.id])


def add_text(session: Session) -> Layer:
    """Add a text layer of a size that suits the frame."""
    return add_words(session, "Text")


def add_words(session: Session, words: str, at: tuple[float, float] | None = None) -> Layer:
    """Add a text layer with words, in the middle or ``at`` a place of the frame; many are as large as a box holds.

    Raises:
        ModelError: there are too many letters.
    """
    piece, lines = session.composition, words.split("\n")
    values: dict[str, object] = {"size": float(round(min(piece.width, piece.height) / 7)), "weight": 700.0}
    if max(map(len, lines)) > _SHORT or len(lines) > _FEW:
        values |= {"flow": "fit box", "frame": (0.8 * piece.width, 0.4 * piece.height)}
    if at is not None:
        values["position"] = at
    layer = new_layer(session, "text", named_by_words(words), text=words)
    add_layer(session, layer := layer.with_values(**values))
    return layer


def add_backdrop(session: Session) -> None:
    """Add a backdrop behind everything but other grounds."""
    add_layer(session, new_layer(session, "backdrop", "Backdrop"), as_ground=True)


def add_kind(session: Session, kind: str, entry: AddEntry) -> Layer:
    """Add a layer by an entry of its kind."""
    piece = session.composition
    layer = new_layer(session, kind, entry.label, **entry.values(piece.width, piece.height))
    for name, keys in entry.keys.items():
        rows = tuple(Key(round(part * piece.length), value, LINEAR if entry.even else _SOFT) for part, value in keys)
        layer = layer.with_track(name, Track(rows[0].value, rows))
    chosen = next(iter(session.layers), None)
    if entry.of and chosen is not None:
        # Born where the chosen one stands: the middle of the frame is where such a layer changes nothing.
        layer = layer.with_values(**{entry.of: chosen.id}, position=(piece.width / 2, piece.height / 2))
    add_layer(session, layer, as_ground=entry.behind)
    if entry.of and chosen is None:
        session.said.emit(f"Choose whose shape it is: Details, {layer.parameter(entry.of).label}.")
    return layer


def add_entries() -> list[tuple[str, AddEntry]]:
    """Return the entries of all kinds in the order of the menu, each with its kind."""
    entries = [(kind.name, entry) for kind in layer_kinds() for entry in kind.adds]
    return sorted(entries, key=lambda pair: pair[1].order)


def add_shape(session: Session, form: str) -> Layer:
    """Add a plain form in the middle of the frame."""
    return add_kind(session, *next(pair for pair in add_entries() if pair[1].label == form.capitalize()))


def add_ground(session: Session, kind: str) -> None:
    """Add a colour field or clouds as a ground, or a pattern in front of the chosen layer."""
    add_kind(session, *next(pair for pair in add_entries() if pair[0] == kind))


def add_carrier(session: Session) -> None:
    """Hang the chosen layers on a carrier of their size, or add one in the middle of the frame where none is chosen."""
    piece = session.composition
    chosen = [layer.id for layer in session.layers if layer.id not in locked_in(piece)]
    if not chosen:
        add_layer(session, new_layer(session, "carrier", "Carrier"))
        return
    changed, carrier = on_carrier(session.project, piece, chosen, session.frame, "Carrier")
    if session.edit("Hang on a carrier", lambda _: changed):
        session.select([carrier])
        if left := ties_given_up(piece, chosen):
            session.said.emit(left)


class AddStrip(QWidget):
    """Buttons in the order of the work."""

    textAdded = pyqtSignal(str)
    drawerAsked = pyqtSignal()
    filesAsked = pyqtSignal()
    penAsked = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setObjectName("Panel")
        self.setFixedHeight(40)
        row = QHBoxLayout(self)
        row.setContentsMargins(10, 4, 10, 4)
        row.setSpacing(4)
        self.backdrop = self._button(
            "Backdrop", "backdrop", "Add a ground behind everything, in front of grounds that are there",
            lambda: add_backdrop(session),
        )
        self.artwork = self._button(
            "Artwork", "picture", "Bring pictures, layered files, footage or fonts in (Ctrl+I)", self.filesAsked.emit
        )
        self.shape = self._button("Shape", "shape", "Add a rectangle, an ellipse, a polygon, a star or a line", None)
        self.shape.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        menu = QMenu(self.shape)
        menu.addAction("Draw with the pen", self.penAsked.emit)
        menu.addSeparator()
        before, parts = None, {"": menu}
        for kind, entry in add_entries():
            if before is not None and before // 100 != entry.order // 100:
                menu.addSeparator()
            before = entry.order
            if entry.menu not in parts:
                parts[entry.menu] = part = QMenu(entry.menu, menu)
                menu.addMenu(part)
            parts[entry.menu].addAction(entry.label, lambda kind=kind, entry=entry: self._add(kind, entry))
        self.shape.setMenu(menu)
        self.text = self._button("Text", "text", "Add words and type them (Alt+Shift+W)", self.add_text)
        self.drawer = self._button(
            "Sources", "drawer", "Everything this project is made of (Ctrl+J)", self.drawerAsked.emit
        )
        # The strip is as narrow as an upright canvas, so the drawer's button goes by its picture.
        self.drawer.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonIconOnly)
        self._named = (self.backdrop, self.artwork, self.shape, self.text)
        for button in self._named:
            row.addWidget(button)
        row.addStretch(1)
        row.addWidget(self.drawer)

    def minimumSizeHint(self) -> QSize:
        """As narrow as the pictures alone."""
        return QSize(240, self.height())

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Name the buttons where there is room."""
        style = Qt.ToolButtonStyle
        named = self.width() >= _NAMED
        for button in self._named:
            button.setToolButtonStyle(style.ToolButtonTextBesideIcon if named else style.ToolButtonIconOnly)
        super().resizeEvent(event)

    def _button(self, text: str, picture: str, help: str, action) -> QToolButton:  # type: ignore[no-untyped-def]
        button = QToolButton()
        button.setObjectName("Flat")
        button.setText(text)
        button.setAccessibleName(text)
        button.setIcon(icon(picture, "#f5b23d"))
        button.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextBesideIcon)
        button.setToolTip(help)
        if action is not None:
            button.clicked.connect(lambda: action())
        return button

    def _add(self, kind: str, entry: AddEntry) -> None:
        if kind == CARRIER:
            # Chosen layers hang on it at once.
            add_carrier(self.session)
        else:
            add_kind(self.session, kind, entry)

    def add_text(self) -> None:
        """Add words and let the person type them at once."""
        layer = add_text(self.session)
        self.textAdded.emit(layer.id)
