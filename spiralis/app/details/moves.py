"""The Details section of a layer's moves: adjust, take apart, take away; and take another."""

from __future__ import annotations

from collections.abc import Iterator

from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QToolButton, QWidget

from spiralis.app.details.block_list import BlockList
from spiralis.app.style import icon
from spiralis.core.editing.moving import taken_apart, without_move
from spiralis.core.model import Layer
from spiralis.core.moves import move


class MovesEditor(BlockList):
    """One row a move of the chosen layer."""

    def state(self, layer: Layer) -> object:
        return layer.moves

    def blocks(self, layer: Layer) -> Iterator[QWidget]:
        for index in range(len(layer.moves)):
            yield self._row(layer, index)
        add = QPushButton("Choose a move…")
        add.clicked.connect(lambda: self.session.moveAsked.emit(-1))
        yield add

    def _row(self, layer: Layer, index: int) -> QWidget:
        use = layer.moves[index]
        row = QWidget()
        line = QHBoxLayout(row)
        line.setContentsMargins(0, 0, 0, 0)
        line.setSpacing(2)
        label = move(use.name).label
        name = QPushButton(f"{label}   {use.first}–{use.last}")
        name.setToolTip(f"Adjust {label}: strength, direction, softness, time")
        name.setStyleSheet("text-align: left;")
        name.clicked.connect(lambda: self.session.moveAsked.emit(index))
        line.addWidget(name, 1)
        for picture, text, run in (
            ("unlink", f"Take {label} apart: its keys stay as plain keys", self._apart),
            ("close", f"Take {label} away, with its keys", self._away),
        ):
            button = QToolButton()
            button.setObjectName("Flat")
            button.setIcon(icon(picture))
            button.setToolTip(text)
            button.setAccessibleName(text.partition(":")[0].partition(",")[0])
            button.clicked.connect(lambda _=False, run=run, label=label: run(layer.id, index, label))
            line.addWidget(button)
        return row

    def _apart(self, layer_id: str, index: int, label: str) -> None:
        self.session.edit(
            f"Take {label} apart", lambda piece: piece.with_layer(taken_apart(piece.layer(layer_id), index))
        )

    def _away(self, layer_id: str, index: int, label: str) -> None:
        project = self.session.project
        self.session.edit(
            f"Take {label} away",
            lambda piece: piece.with_layer(without_move(project, piece, piece.layer(layer_id), index)),
        )
