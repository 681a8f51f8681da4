"""The Details section of what a layer's edges hold to: one across, one down."""

from __future__ import annotations

from collections.abc import Iterator

from attrs import evolve
from PyQt6.QtWidgets import QComboBox, QGridLayout, QHBoxLayout, QLabel, QPushButton, QToolButton, QWidget

from spiralis.app.details.block_list import BlockList
from spiralis.app.style import icon
from spiralis.app.widgets.fields import ListField, NumberField
from spiralis.core.editing.holding import hold_as_it_stands, with_hold, without_hold
from spiralis.core.model import Hold, Layer
from spiralis.core.model.holds import ACROSS, DOWN

_NEW = (("Hold across", "left", "left"), ("Hold down", "top", "top"))


class HoldsEditor(BlockList):
    """A block a hold: own edge, whose edge, which, how far off; and buttons for those that are not there."""

    def state(self, layer: Layer) -> object:
        return layer.holds, tuple((other.id, other.name) for other in self.session.composition.layers)

    def blocks(self, layer: Layer) -> Iterator[QWidget]:
        for hold in layer.holds:
            yield self._block(layer, hold)
        there = {hold.axis for hold in layer.holds}
        row = QWidget()
        line = QHBoxLayout(row)
        line.setContentsMargins(0, 0, 0, 0)
        for axis, (text, edge, to) in enumerate(_NEW):
            if axis not in there:
                button = QPushButton(text)
                button.setToolTip("Keep an edge at the frame's or another layer's, whatever becomes of the content")
                button.clicked.connect(lambda _=False, edge=edge, to=to: self._hold(layer.id, edge, to, ""))
                line.addWidget(button)
        yield row

    def _block(self, layer: Layer, hold: Hold) -> QWidget:
        block = QWidget()
        grid = QGridLayout(block)
        grid.setContentsMargins(0, 0, 0, 4)
        grid.setSpacing(3)
        edges = ACROSS if hold.axis == 0 else DOWN
        own, to = (self._edges(edges, now) for now in (hold.edge, hold.to))
        own.setAccessibleName("Own edge")
        to.setAccessibleName("Edge held to")
        whose = ListField()
        whose.setAccessibleName("Held to")
        whose.addItem("the frame", "")
        for other in self.session.composition.layers:
            if other.id != layer.id:
                whose.addItem(other.name, other.id)
        whose.setCurrentIndex(max(whose.findData(hold.layer), 0))
        for box in (own, to, whose):
            box.activated.connect(
                lambda _: self._hold(layer.id, own.currentData(), to.currentData(), whose.currentData())
            )
        gap = NumberField("Gap", "px", -20_000, 20_000)
        gap.show_value(hold.gap)
        gap.finished.connect(lambda: self._gap(layer.id, hold, gap.value))
        grid.addWidget(own, 0, 0)
        grid.addWidget(QLabel("at the"), 0, 1)
        grid.addWidget(to, 0, 2)
        grid.addWidget(self._remove(layer.id, hold), 0, 3)
        grid.addWidget(whose, 1, 0, 1, 2)
        grid.addWidget(gap, 1, 2, 1, 2)
        return block

    @staticmethod
    def _edges(edges: tuple[str, ...], now: str) -> QComboBox:
        box = ListField()
        for edge in edges:
            box.addItem(edge.capitalize(), edge)
        box.setCurrentIndex(edges.index(now))
        return box

    def _remove(self, layer_id: str, hold: Hold) -> QToolButton:
        button = QToolButton()
        button.setObjectName("Flat")
        button.setIcon(icon("close"))
        button.setAccessibleName("Let go of this edge")
        button.setToolTip("Let go of this edge; the layer stays where it is")
        at = self.session.evaluated
        button.clicked.connect(
            lambda: self.session.edit(
                "Let go", lambda piece: piece.with_layer(without_hold(at(), piece.layer(layer_id), hold))
            )
        )
        return button

    def _hold(self, layer_id: str, edge: str, to: str, other: str) -> None:
        at = self.session.evaluated()

        def change(layer: Layer) -> Layer:
            return with_hold(layer, hold_as_it_stands(at, layer, edge, to, other))

        self.session.edit("Hold to an edge", lambda piece: piece.with_layer(change(piece.layer(layer_id))))

    def _gap(self, layer_id: str, hold: Hold, gap: float | None) -> None:
        if gap is not None and gap != hold.gap:
            changed = evolve(hold, gap=gap)
            self.session.edit("Gap", lambda piece: piece.with_layer(with_hold(piece.layer(layer_id), changed)))
