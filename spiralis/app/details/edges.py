"""The Details section of what a layer's edges are pinned to: one across, one down."""

from __future__ import annotations

from collections.abc import Iterator

from attrs import evolve
from PyQt6.QtWidgets import QComboBox, QGridLayout, QHBoxLayout, QLabel, QPushButton, QSizePolicy, QToolButton, QWidget

from spiralis.app.details.block_list import BlockList
from spiralis.app.style import icon
from spiralis.app.widgets.fields import ListField, NumberField
from spiralis.core.editing.edge_pinning import pin_as_it_stands, with_edge_pin, with_pins_along, without_edge_pin
from spiralis.core.model import EdgePin, Layer
from spiralis.core.model.edge_pins import ACROSS, DOWN, LINE_ENDS, OWN_ACROSS, OWN_DOWN
from spiralis.core.render.along_lines import has_line

#: What of the entries is said in fewer words.
_SHORT = {OWN_ACROSS[-1]: "Pivot", OWN_DOWN[-1]: "Pivot", LINE_ENDS[0]: "Its end", LINE_ENDS[1]: "Its start"}
_NEW = (("Pin across", "left", "left"), ("Pin down", "top", "top"))


class EdgesEditor(BlockList):
    """A block a pin: own edge, whose edge, which, how far off; and buttons for those that are not there."""

    def state(self, layer: Layer) -> object:
        others = self.session.composition.layers if layer.edge_pins else ()
        return layer.edge_pins, tuple((other.id, other.name) for other in others)

    def blocks(self, layer: Layer) -> Iterator[QWidget]:
        for pin in layer.edge_pins:
            yield self._block(layer, pin)
        there = {pin.axis for pin in layer.edge_pins}
        row = QWidget()
        line = QHBoxLayout(row)
        line.setContentsMargins(0, 0, 0, 0)
        for axis, (text, edge, to) in enumerate(_NEW):
            if axis not in there:
                button = QPushButton(text)
                button.setToolTip("Keep an edge at the frame's or another layer's, whatever becomes of the content")
                button.clicked.connect(lambda _=False, edge=edge, to=to: self._pin(layer.id, None, edge, to, ""))
                line.addWidget(button)
        yield row

    def _block(self, layer: Layer, pin: EdgePin) -> QWidget:
        block = QWidget()
        grid = QGridLayout(block)
        grid.setContentsMargins(0, 0, 0, 4)
        grid.setSpacing(3)
        edges = ACROSS if pin.axis == 0 else DOWN
        other = self.session.composition.find(pin.layer)
        line = LINE_ENDS if (other is not None and has_line(other)) or pin.on_line else ()
        own = self._edges(OWN_ACROSS if pin.axis == 0 else OWN_DOWN, pin.edge)
        to = self._edges((*edges, *line), pin.to)
        own.setAccessibleName("Own edge")
        to.setAccessibleName("Edge it is pinned to")
        to.setToolTip("An edge; of a shape also the start or the end of what is drawn of its line")
        whose = _narrow()
        whose.setAccessibleName("Pinned to")
        whose.addItem("the frame", "")
        for each in self.session.composition.layers:
            if each.id != layer.id:
                whose.addItem(each.name, each.id)
        whose.setCurrentIndex(max(whose.findData(pin.layer), 0))
        for box in (own, to, whose):
            box.activated.connect(
                lambda _: self._pin(layer.id, pin, own.currentData(), to.currentData(), whose.currentData())
            )
        gap = NumberField("Gap", "px", -20_000, 20_000)
        gap.show_value(pin.gap)
        gap.finished.connect(lambda: self._gap(layer.id, pin, gap.value))
        grid.addWidget(own, 0, 0)
        grid.addWidget(QLabel("at the"), 0, 1)
        grid.addWidget(to, 0, 2)
        grid.addWidget(self._remove(layer.id, pin), 0, 3)
        grid.addWidget(whose, 1, 0, 1, 2)
        grid.addWidget(gap, 1, 2, 1, 2)
        if pin == next((each for each in layer.edge_pins if each.on_line), None):
            along = NumberField("How far along the line from there", "%", -20_000, 20_000)
            along.show_value(pin.along)
            along.finished.connect(lambda: self._along(layer.id, pin, along.value))
            grid.addWidget(QLabel("further along"), 2, 0, 1, 2)
            grid.addWidget(along, 2, 2, 1, 2)
        return block

    @staticmethod
    def _edges(edges: tuple[str, ...], now: str) -> QComboBox:
        box = _narrow()
        for edge in edges:
            box.addItem(_SHORT.get(edge, edge.capitalize()), edge)
        box.setCurrentIndex(edges.index(now))
        return box

    def _remove(self, layer_id: str, pin: EdgePin) -> QToolButton:
        button = QToolButton()
        button.setObjectName("Flat")
        button.setIcon(icon("close"))
        button.setAccessibleName("Let go of this edge")
        button.setToolTip("Let go of this edge; the layer stays where it is")
        at = self.session.evaluated
        button.clicked.connect(
            lambda: self.session.edit(
                "Let go", lambda piece: piece.with_layer(without_edge_pin(at(), piece.layer(layer_id), pin))
            )
        )
        return button

    def _pin(self, layer_id: str, old: EdgePin | None, edge: str, to: str, other: str) -> None:
        at = self.session.evaluated()
        shape = at.composition.find(other)
        if to in LINE_ENDS and (shape is None or not has_line(shape)):
            to = (ACROSS if edge in OWN_ACROSS else DOWN)[1]

        def change(layer: Layer) -> Layer:
            pin = pin_as_it_stands(at, layer, edge, to, other)
            kept = old is not None and old.on_line and pin.on_line
            return with_edge_pin(layer, evolve(pin, gap=old.gap, along=old.along) if old is not None and kept else pin)

        self.session.edit("Pin to an edge", lambda piece: piece.with_layer(change(piece.layer(layer_id))))

    def _along(self, layer_id: str, pin: EdgePin, along: float | None) -> None:
        if along is not None and along != pin.along:
            self.session.edit(
                "Along the line", lambda piece: piece.with_layer(with_pins_along(piece.layer(layer_id), along))
            )

    def _gap(self, layer_id: str, pin: EdgePin, gap: float | None) -> None:
        if gap is not None and gap != pin.gap:
            changed = evolve(pin, gap=gap)
            self.session.edit("Gap", lambda piece: piece.with_layer(with_edge_pin(piece.layer(layer_id), changed)))


def _narrow() -> ListField:
    """Return a list that is as wide as there is room, not as its longest entry."""
    box = ListField()
    box.setMinimumWidth(64)
    box.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
    return box
