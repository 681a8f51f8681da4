"""Choose an effect or a finish: sorted by purpose, searched by words, each shown on what is chosen."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QDialog, QGridLayout, QHBoxLayout, QLabel, QLineEdit, QScrollArea, QVBoxLayout, QWidget

from spiralis.app.effects.tiles import STAGE, EffectTile, picture_with
from spiralis.app.session import Session
from spiralis.app.work.background import SmallPictures
from spiralis.core.editing.effecting import with_effect
from spiralis.core.geometry import Box, box_around, intersect
from spiralis.core.model import layer_kind
from spiralis.core.model.blocks import EFFECT, FINISH, PURPOSES, EffectKind, effect_kinds

_COLUMNS = 5
#: How much of the piece is shown around what is chosen, beside its size.
_AROUND = 0.25


class EffectsChooser(QDialog):
    """Adds what is clicked to all chosen layers. What an effect layer cannot have is not offered for one."""

    def __init__(self, parent: QWidget, session: Session, role: str = "") -> None:
        super().__init__(parent)
        self.setWindowTitle("Effects and finishes")
        self.session = session
        self.tiles: dict[str, EffectTile] = {}
        self._sections: list[tuple[QLabel, QGridLayout, list[EffectTile]]] = []
        self._pictures = SmallPictures(self)
        self._pictures.made.connect(self._show_pictures)
        self._box = self._part()
        self._build(role)
        self._sort("")
        self._show_pictures()
        self.search.setFocus()

    def _part(self) -> Box:
        """Return the part of the frame that the tiles show: around the chosen layers, in the shape of a tile."""
        at, piece = self.session.evaluated(), self.session.composition
        frame = (0.0, 0.0, float(piece.width), float(piece.height))
        boxes = [at.matrix(layer).box(at.box(layer)) for layer in self.session.layers]
        left, top, right, bottom = intersect(box_around(boxes), frame) or frame
        size = max((right - left) / STAGE[0], (bottom - top) / STAGE[1], 0.2) * (1 + 2 * _AROUND)
        # Never more than the frame has, so that pictures fill their tiles.
        size = min(size, piece.width / STAGE[0], piece.height / STAGE[1])
        width, height = size * STAGE[0], size * STAGE[1]
        x = min(max((left + right - width) / 2, 0.0), piece.width - width)
        y = min(max((top + bottom - height) / 2, 0.0), piece.height - height)
        return x, y, x + width, y + height

    def _build(self, role: str) -> None:
        names = ", ".join(layer.name for layer in self.session.layers[:3])
        more = f" and {len(self.session.layers) - 3} more" if len(self.session.layers) > 3 else ""
        about = QLabel(f"on {names}{more}")
        about.setObjectName("Quiet")
        self.search = QLineEdit()
        self.search.setPlaceholderText("Search: a name, or what it is to do")
        self.search.setAccessibleName("Search effects")
        self.search.textChanged.connect(self._sort)
        top = QHBoxLayout()
        top.addWidget(self.search, 1)
        top.addWidget(about)
        body = QWidget()
        column = QVBoxLayout(body)
        column.setContentsMargins(0, 0, 8, 0)
        column.setSpacing(6)
        purposes = [p for p in PURPOSES if p != "Finish"]
        for purpose in ["Finish", *purposes] if role == FINISH else [*purposes, "Finish"]:
            self._add_section(column, purpose)
        self.none = QLabel("No effect is called like that, or does that.")
        self.none.setObjectName("Quiet")
        column.addWidget(self.none)
        column.addStretch(1)
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        area.setWidget(body)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(14, 12, 14, 12)
        whole.setSpacing(10)
        whole.addLayout(top)
        whole.addWidget(area, 1)
        self.resize(_COLUMNS * (STAGE[0] + 14) + 60, 640)

    def _add_section(self, column: QVBoxLayout, purpose: str) -> None:
        beneath = any(layer_kind(layer.kind).beneath is not None for layer in self.session.layers)
        kinds = [k for k in effect_kinds() if k.purpose == purpose and (k.role == EFFECT or not beneath)]
        if not kinds:
            return
        title = QLabel("FINISHES" if purpose == "Finish" else purpose.upper())
        title.setProperty("part", "heading")
        grid = QGridLayout()
        grid.setSpacing(6)
        grid.setColumnStretch(_COLUMNS, 1)
        column.addWidget(title)
        column.addLayout(grid)
        made = []
        for kind in kinds:
            tile = self.tiles[kind.name] = EffectTile(kind)
            tile.clicked.connect(lambda _=False, kind=kind: self._take(kind))
            made.append(tile)
        self._sections.append((title, grid, made))

    def _sort(self, text: str) -> None:
        """Show those whose name, help or purpose holds all the words."""
        words = text.lower().split()
        any_fits = False
        for title, grid, tiles in self._sections:
            fitting = [t for t in tiles if all(word in self._said(t.kind) for word in words)]
            for tile in tiles:
                grid.removeWidget(tile)
                tile.setVisible(tile in fitting)
            for place, tile in enumerate(fitting):
                grid.addWidget(tile, place // _COLUMNS, place % _COLUMNS)
            title.setVisible(bool(fitting))
            any_fits |= bool(fitting)
        self.none.setVisible(not any_fits)

    @staticmethod
    def _said(kind: EffectKind) -> str:
        return f"{kind.label} {kind.help} {kind.purpose} {kind.role}".lower()

    def _show_pictures(self) -> None:
        session = self.session
        project, piece, frame, ids = session.project, session.composition, session.frame, session.selected
        for name, tile in self.tiles.items():
            kind, box = tile.kind, self._box
            tile.show_picture(
                self._pictures.of(name, lambda kind=kind, box=box: picture_with(project, piece, ids, kind, frame, box))
            )

    def _take(self, kind: EffectKind) -> None:
        self.session.edit_layers(f"Add {kind.label}", lambda layer: with_effect(layer, kind.name))
        self.accept()
