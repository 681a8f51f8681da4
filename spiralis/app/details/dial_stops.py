"""All that has joined a dial, with its stops: listed, moved, dropped, and the ease between them."""

from __future__ import annotations

from collections.abc import Callable

from attrs import evolve
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QDialog,
    QDialogButtonBox,
    QGridLayout,
    QLabel,
    QScrollArea,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from spiralis.app.session import Session
from spiralis.app.style import icon
from spiralis.app.widgets.fields import ListField, NumberField
from spiralis.app.widgets.value_text import value_text
from spiralis.core.animation.ease_tiles import EASE_TILES
from spiralis.core.animation.easing import Easing
from spiralis.core.editing.edits import set_value
from spiralis.core.editing.linking import joins_of, with_driver, with_stop_moved, without_stop
from spiralis.core.model import Composition, Layer, Value
from spiralis.core.model.drivers import DialJoin


class DialStops(QDialog):
    """Follows the project while it is open; every change is a step of its own."""

    def __init__(self, parent: QWidget, session: Session, dial: str) -> None:
        super().__init__(parent)
        self.session, self.dial = session, dial
        self.setWindowTitle(f"Stops of {session.composition.layer(dial).name}")
        self.resize(460, 420)
        self.places: dict[tuple[str, str], list[NumberField]] = {}
        self.drops: dict[tuple[str, str], list[QToolButton]] = {}
        self.eases: dict[tuple[str, str], ListField] = {}
        self.area = QScrollArea()
        self.area.setWidgetResizable(True)
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Close)
        buttons.rejected.connect(self.reject)
        column = QVBoxLayout(self)
        column.addWidget(self.area, 1)
        column.addWidget(buttons)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        session.projectChanged.connect(self.refresh)
        self._shown: object = None
        self.refresh()

    def refresh(self) -> None:
        """List what has joined the dial as it is now."""
        piece = self.session.composition
        if piece.find(self.dial) is None:
            self.close()
            return
        joins = joins_of(piece, self.dial)
        if joins == self._shown:
            return
        self._shown = joins
        self.places, self.drops, self.eases = {}, {}, {}
        page = QWidget()
        grid = QGridLayout(page)
        grid.setColumnStretch(1, 1)
        row = 0
        for layer_id, name, join in joins:
            row = self._add(grid, row, piece.layer(layer_id), name, join)
        if not joins:
            grid.addWidget(QLabel("Nothing has joined this dial yet: a property's ⋮ in Details offers it."), 0, 0)
        grid.setRowStretch(row + 1, 1)
        self.area.setWidget(page)

    def _add(self, grid: QGridLayout, row: int, layer: Layer, name: str, join: DialJoin) -> int:
        key, label = (layer.id, name), f"{layer.name}: {layer.parameter(name).full_label}"
        grid.addWidget(QLabel(label), row, 0, 1, 2)
        ease = self.eases[key] = ListField()
        ease.setAccessibleName(f"Ease between the stops of {label}")
        ease.setToolTip("How the value goes from one stop to the next")
        for tile in EASE_TILES:
            ease.addItem(tile.label, tile.easing)
        if (at := next((i for i, tile in enumerate(EASE_TILES) if tile.easing == join.ease), -1)) < 0:
            ease.addItem("Its own", join.ease)
            at = ease.count() - 1
        ease.setCurrentIndex(at)
        ease.activated.connect(lambda index, box=ease: self._bend(key, box.itemData(index)))
        grid.addWidget(ease, row, 2, 1, 3)
        self.places[key], self.drops[key] = [], []
        for number, (place, value) in enumerate(join.stops):
            row += 1
            self._add_stop(grid, row, layer, name, number, place, value)
        return row + 1

    def _add_stop(
        self, grid: QGridLayout, row: int, layer: Layer, name: str, number: int, place: float, value: Value
    ) -> None:
        key, text = (layer.id, name), value_text(layer.parameter(name), value)
        field = NumberField(f"Place of {text}", "", -1e6, 1e6, decimals=2)
        field.show_value(place)
        field.setFixedWidth(76)
        field.refused.connect(self.session.failed)
        field.finished.connect(lambda: self._move(key, number, field.value) if field.value != place else None)
        go, drop = self._button("play", f"Set the dial to {place:g}"), self._button("close", f"Drop the stop {text}")
        go.clicked.connect(lambda: self._go(place))
        drop.clicked.connect(lambda: self._drop(key, number))
        drop.setEnabled(len(layer.track(name).driver.stops) > 2)
        shown = QLabel(text)
        shown.setObjectName("Quiet")
        for column, widget in ((0, field), (1, shown), (3, go), (4, drop)):
            grid.addWidget(widget, row, column)
        self.places[key].append(field)
        self.drops[key].append(drop)

    def _button(self, name: str, words: str) -> QToolButton:
        button = QToolButton()
        button.setObjectName("Flat")
        button.setIcon(icon(name))
        button.setToolTip(words)
        button.setAccessibleName(words)
        return button

    def _change(self, step: str, key: tuple[str, str], change: Callable[[Layer, str], Layer]) -> None:
        layer_id, name = key

        def whole(piece: Composition) -> Composition:
            return piece.with_layer(change(piece.layer(layer_id), name))

        self.session.edit(step, whole)
        self._shown = None
        self.refresh()

    def _move(self, key: tuple[str, str], number: int, place: float | None) -> None:
        if place is not None:
            self._change("Move a stop", key, lambda layer, name: with_stop_moved(layer, name, number, place))

    def _drop(self, key: tuple[str, str], number: int) -> None:
        self._change("Drop a stop", key, lambda layer, name: without_stop(layer, name, number))

    def _bend(self, key: tuple[str, str], ease: Easing) -> None:
        def bent(layer: Layer, name: str) -> Layer:
            join = layer.track(name).driver
            assert isinstance(join, DialJoin)
            return with_driver(layer, name, evolve(join, ease=ease))

        self._change("Ease of a dial", key, bent)

    def _go(self, place: float) -> None:
        frame = self.session.frame
        self.session.edit_layers("Dial", lambda y: set_value(y, "value", place, frame), [self.dial])
