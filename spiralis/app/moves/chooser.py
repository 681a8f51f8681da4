"""Choose a move: tiles that play it with the layer's own picture, its numbers below, the canvas playing along."""

from __future__ import annotations

import math
from functools import partial
from itertools import count

from attrs import evolve
from PyQt6.QtCore import QRectF, Qt, QTimer
from PyQt6.QtGui import QAction, QKeyEvent, QPainter, QPen, QPixmap
from PyQt6.QtWidgets import (
    QButtonGroup,
    QDialog,
    QDialogButtonBox,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from spiralis.app.library.keeping import Keeper
from spiralis.app.library.moves import OWN_MOVES
from spiralis.app.moves.tiles import MoveTile
from spiralis.app.session import Session
from spiralis.app.style import MINT, colour
from spiralis.app.timeline.thumbnails import layer_picture
from spiralis.app.widgets.fields import ListField, NumberField
from spiralis.app.work.background import SmallPictures
from spiralis.app.work.playback import Player
from spiralis.core.editing.carrying import on_carrier
from spiralis.core.editing.kept_moves import PREFIX, offer_kept
from spiralis.core.editing.moving import rest_frame, set_by_hand, with_move, with_move_changed
from spiralis.core.errors import SpiralisError
from spiralis.core.model import Composition, Layer, MoveUse, layer_kind
from spiralis.core.model.moves import PARTS
from spiralis.core.moves import FAMILIES, Move, move, moves

_TITLES = {"entrance": "Entrances", "loop": "Loops", "exit": "Exits"}
_COLUMNS = 4
_turns = count(1)


def _frame_picture() -> QPixmap:
    """Return the picture of a frame, crossed, for what shows nothing by itself."""
    made = QPixmap(112, 84)
    made.fill(Qt.GlobalColor.transparent)
    painter = QPainter(made)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(QPen(colour(MINT), 4))
    painter.drawRoundedRect(QRectF(4, 4, 104, 76), 6, 6)
    painter.setPen(QPen(colour(MINT), 1.5))
    painter.drawLine(56, 30, 56, 54)
    painter.drawLine(44, 42, 68, 42)
    painter.end()
    return made


class MovesChooser(QDialog):
    """Takes a move for the chosen layers, or changes the one at ``index`` of the one chosen layer."""

    def __init__(self, parent: QWidget, session: Session, player: Player, index: int | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Moves")
        self.session, self.player, self.index = session, player, index
        self._before, self._base, self._frame = session.version, session.project, session.frame
        self._merge = f"move-{next(_turns)}"
        self.layers = session.layers
        offer_kept(OWN_MOVES.all())
        self._on_carrier = False
        #: The numbers that a person set: another move of the same family keeps them.
        self._held: set[str] = set() if index is None else {"first", "length", "times", "direction"}
        old, self._by_hand = None, list[str]()
        if index is not None:
            old = self.layers[0].moves[index]
            self._by_hand = set_by_hand(session.project, session.composition, self.layers[0], index)
        self.chosen: Move | None = move(old.name) if old is not None else None
        self.tiles: dict[str, MoveTile] = {}
        self._pictures = SmallPictures(self)
        self._pictures.made.connect(self._show_picture)
        self._build()
        self._show_family(self.chosen.family if self.chosen is not None else "entrance")
        if old is not None:
            self._show_numbers(old)
        self._ready()
        self._timer = QTimer(self)
        self._timer.setInterval(33)
        self._timer.timeout.connect(lambda: [tile.update() for tile in self.tiles.values()])
        self._timer.start()

    # -- building --------------------------------------------------------------------------------------

    def _build(self) -> None:
        self.families = QButtonGroup(self)
        top = QHBoxLayout()
        for family in FAMILIES:
            button = QPushButton(_TITLES[family])
            button.setCheckable(True)
            button.setAutoDefault(False)
            button.clicked.connect(lambda _=False, family=family: self._show_family(family))
            self.families.addButton(button)
            top.addWidget(button)
        top.addStretch(1)
        self.grid = QGridLayout()
        self.grid.setSpacing(6)
        self.note = QLabel()
        self.note.setObjectName("Quiet")
        self.note.setWordWrap(True)
        self.buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel)
        self.buttons.accepted.connect(self.accept)
        self.buttons.rejected.connect(self.reject)
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 12, 14, 12)
        column.setSpacing(10)
        column.addLayout(top)
        column.addLayout(self.grid)
        column.addLayout(self._numbers())
        column.addWidget(self.note)
        column.addLayout(self._ways())
        column.addWidget(self.buttons)

    def _ways(self) -> QHBoxLayout:
        """What can be done where layers have keys at that time already."""
        row = QHBoxLayout()
        self.after, self.carried = QPushButton("After its keys"), QPushButton("On a carrier")
        self.after.setToolTip("The move begins when the keys that are there are over")
        self.carried.setToolTip("The layer hangs on a carrier of its own, and that moves; its keys stay as they are")
        self.after.clicked.connect(self._go_after)
        self.carried.clicked.connect(self._go_on_carrier)
        for button in (self.after, self.carried):
            button.setAutoDefault(False)
            button.hide()
            row.addWidget(button)
        row.addStretch(1)
        return row

    def _go_after(self) -> None:
        layers = self.session.composition.layers
        ids = {layer.id for layer in self.layers}
        frames = [k.frame for y in layers if y.id in ids for name in y.animated() for k in y.track(name).keys]
        self.fields["first"].show_value(float(max(frames, default=0) + 1))
        self._hold("first")

    def _hold(self, name: str) -> None:
        self._held.add(name)
        self.apply()

    def _go_on_carrier(self) -> None:
        self._on_carrier = True
        self.apply()

    def _numbers(self) -> QGridLayout:
        length = self.session.composition.length
        self.fields = {
            "first": NumberField("Begins at", "f", -10_000, 1e6, decimals=0),
            "length": NumberField("Takes", "f", 1, max(length * 4, 1000), decimals=0),
            "times": NumberField("Rounds", "", 1, 1000, decimals=0),
            "strength": NumberField("Strength", "%", 0, 1000, decimals=0),
            "softness": NumberField("Softness", "%", 0, 100, decimals=0),
            "direction": NumberField("Direction", "°", -360, 360, decimals=0),
            "apart": NumberField("One after another", "f", -500, 500, decimals=0),
        }
        values = {"first": max(self.layers[0].first, 0), "length": 20, "strength": 100, "direction": 0, "softness": 60,
                  "times": 1, "apart": 0}  # fmt: skip
        grid = QGridLayout()
        grid.setHorizontalSpacing(10)
        self.labels: dict[str, QLabel] = {}
        for place, (name, field) in enumerate(self.fields.items()):
            field.show_value(float(values[name]))
            field.changed.connect(partial(self._hold, name))
            field.refused.connect(self.note.setText)
            self._place(grid, place, name, field.label, field)
        self.part = ListField()
        self.part.setAccessibleName("Part by part")
        for part in PARTS:
            self.part.addItem("All together" if part == "whole" else part.capitalize(), part)
        self.part.activated.connect(lambda: self._held.add("part"))
        self.part.activated.connect(self.apply)
        self._place(grid, len(self.fields), "part", "Part by part", self.part)
        return grid

    def _place(self, grid: QGridLayout, place: int, name: str, label: str, field: QWidget) -> None:
        self.labels[name] = QLabel(label)
        grid.addWidget(self.labels[name], place // 3, place % 3 * 2)
        grid.addWidget(field, place // 3, place % 3 * 2 + 1)

    def _show_family(self, family: str) -> None:
        for button, name in zip(self.families.buttons(), FAMILIES, strict=True):
            button.setChecked(name == family)
        for tile in self.tiles.values():
            self.grid.removeWidget(tile)
            tile.hide()
            tile.deleteLater()
        self.tiles = {}
        flat = any(not layer.track("depth").value for layer in self.layers)
        for place, each in enumerate(each for each in moves(family) if not (flat and each.in_depth)):
            tile = MoveTile(each)
            tile.clicked.connect(lambda _=False, each=each: self.choose(each))
            if each.name.startswith(PREFIX):
                self._let_drop(tile, each)
            self.tiles[each.name] = tile
            self.grid.addWidget(tile, place // _COLUMNS, place % _COLUMNS)
        self._show_picture()
        self._show_tiles()

    def _let_drop(self, tile: MoveTile, own: Move) -> None:
        def drop() -> None:
            if not Keeper(self, OWN_MOVES, self.note.setText).drop(own.label):
                return
            offer_kept(OWN_MOVES.all())
            if self.chosen is own:
                self.chosen = None
                self.apply()
            self._show_family(own.family)

        action = QAction(f"Drop {own.label} from the library", tile)
        action.triggered.connect(drop)
        tile.addAction(action)
        tile.setContextMenuPolicy(Qt.ContextMenuPolicy.ActionsContextMenu)

    def _show_picture(self) -> None:
        """Give the tiles the picture of the first layer, as soon as it is drawn."""
        project, piece, layer = self._base, self.session.composition_id, self.layers[0]
        if layer_kind(layer.kind).unseen:
            # A camera shows nothing by itself: its frame moves as it would.
            for tile in self.tiles.values():
                tile.show_picture(_frame_picture())
            return
        picture = self._pictures.of("layer", lambda: layer_picture(project, project.composition(piece), layer, 112))
        for tile in self.tiles.values():
            tile.show_picture(picture)

    # -- choosing --------------------------------------------------------------------------------------

    def choose(self, chosen: Move) -> None:
        """Choose a move, with the direction, time and place in time that suit it."""
        if self.chosen is not None and self.chosen.family != chosen.family:
            self._held -= {"first", "length", "times"}
        self.chosen, self._on_carrier = chosen, False
        start, length, times = self._usual_time(chosen)
        numbers = MoveUse(chosen.name, start, length, direction=chosen.direction or 0.0, times=times)
        for name in ("first", "length", "times", "direction"):
            if name not in self._held:
                self.fields[name].show_value(float(getattr(numbers, name)))
        if "part" not in self._held:
            self.part.setCurrentIndex(PARTS.index(chosen.part))
        self._show_tiles()
        self.apply()
        self.session.go_to(self.use(chosen).first)
        self.player.play()

    def _usual_time(self, chosen: Move) -> tuple[int, int, int]:
        """Return where a move begins, how long it takes and how often it goes round, where nobody says so."""
        session, layer = self.session, self.layers[0]
        length = max(round(chosen.length * float(session.composition.rate)), 2)
        first, last = max(layer.first, 0), min(layer.last, session.composition.length)
        times = int(self.fields["times"].value or 1)
        if chosen.family == "loop" and session.composition.loop:
            # Whole rounds over what is left, so that the piece's own loop stays closed.
            ends = [use.last for use in layer.moves if move(use.name).family == "entrance"]
            begins = [use.first for use in layer.moves if move(use.name).family == "exit"]
            first, last = max([first, *ends]), min([last, *begins])
            times = max(math.floor((last - first) / length), 1)
            length = max(last - first, 2)
        length = min(length, max(last - first, 2))
        return (last - length if chosen.family == "exit" else first), length, times

    def _show_numbers(self, use: MoveUse) -> None:
        for name in ("first", "length", "direction", "strength", "softness", "times"):
            self.fields[name].show_value(float(getattr(use, name)))
        self.part.setCurrentIndex(PARTS.index(use.part))
        self._held |= {"part"} if use.part != "whole" else set()
        self._show_tiles()

    def use(self, chosen: Move, late: int = 0) -> MoveUse:
        """Return a move as the fields say."""
        number = {name: float(field.value or 0.0) for name, field in self.fields.items()}
        return MoveUse(
            chosen.name, int(number["first"]) + late, max(int(number["length"]), 1), number["strength"],
            number["direction"], number["softness"], max(int(number["times"]), 1) if chosen.family == "loop" else 1,
            self.part.currentData() if chosen.by_parts else "whole",
        )  # fmt: skip

    def _show_tiles(self) -> None:
        text = any(layer.has("spread_by") for layer in self.layers)
        chosen = self.chosen
        for name, tile in self.tiles.items():
            own = chosen is not None and name == chosen.name
            tile.setChecked(own)
            way = self.use(tile.move_).direction if own else (tile.move_.direction or 0.0)
            number = self.use(tile.move_)
            tile.show_use(MoveUse(name, 0, 1000, number.strength, way, number.softness))
        self._show_field("direction", chosen is None or chosen.direction is not None)
        self._show_field("times", chosen is not None and chosen.family == "loop")
        self._show_field("apart", len(self.layers) > 1)
        self._show_field("part", text and (chosen is None or chosen.by_parts))

    def _show_field(self, name: str, shown: bool) -> None:
        (self.part if name == "part" else self.fields[name]).setVisible(shown)
        self.labels[name].setVisible(shown)

    def _ready(self) -> None:
        self.buttons.button(QDialogButtonBox.StandardButton.Ok).setEnabled(self.session.version != self._before)

    # -- applying --------------------------------------------------------------------------------------

    def apply(self) -> None:
        """Take back what was applied and write the move as it is chosen now."""
        self._undo()
        self.note.setText(self._about())
        if self.chosen is not None:
            chosen, apart = self.chosen, float(self.fields["apart"].value or 0.0)
            ids = [layer.id for layer in self.layers]
            try:
                changed = self._changed(chosen, apart)
            except SpiralisError as error:
                self.note.setText(str(error))
                self._offer_ways(self.index is None)
            else:
                self._offer_ways(False)
                self.session.edit(f"{chosen.label}", lambda _: changed, self._merge)
                self.session.select(ids)
        self._show_tiles()
        self._ready()

    def _about(self) -> str:
        if self.chosen is None:
            return ""
        said = f"{self.chosen.help}."
        if self._by_hand:
            said += f" What was set by hand on its keys goes: {', '.join(self._by_hand)}."
        return said

    def _offer_ways(self, offered: bool) -> None:
        for button in (self.after, self.carried):
            button.setVisible(offered)

    def _changed(self, chosen: Move, apart: float) -> Composition:
        project, piece = self._base, self.session.composition
        for place, layer in enumerate(self.layers):
            use = self.use(chosen, round(place * apart))
            if self._on_carrier:
                piece, carrier = on_carrier(project, piece, [layer.id], rest_frame(use), f"Carrier of {layer.name}")
                layer, project = piece.layer(carrier), project.with_composition(piece)
            made: Layer = (
                with_move(project, piece, layer, use)
                if self.index is None
                else with_move_changed(project, piece, layer, self.index, use)
            )
            if chosen.name.startswith(PREFIX):
                # What was kept may be dropped or be missing elsewhere: a project holds its keys alone.
                made = evolve(made, moves=made.moves[:-1])
            piece = piece.with_layer(made)
        return piece

    def _undo(self) -> None:
        if self.session.version != self._before:
            self.session.undo()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        # Enter ends the typing in a field; it must not take the move as well.
        if event is not None and event.key() not in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            super().keyPressEvent(event)

    def done(self, result: int) -> None:
        """End: be again at the frame that was looked at before moves were played; without OK nothing has happened."""
        self.player.stop()
        self.session.go_to(self._frame)
        if result == QDialog.DialogCode.Accepted:
            self.session.close_step()
        else:
            self._undo()
        super().done(result)
