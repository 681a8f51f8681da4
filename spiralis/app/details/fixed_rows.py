"""Rows of Details for what a layer has besides parameters: its span and its parent."""

from __future__ import annotations

from collections.abc import Callable

from attrs import evolve
from PyQt6.QtWidgets import QComboBox, QHBoxLayout, QWidget

from spiralis.app.details.values import ChosenValues
from spiralis.app.session import Session
from spiralis.app.widgets.fields import LongList, NumberField
from spiralis.core.editing.reparenting import with_hung
from spiralis.core.model import Composition, Layer


class SpanEditor(QWidget):
    """First and last frame on which the chosen layers show."""

    def __init__(self, session: Session, values: ChosenValues, relative: Callable[[], bool]) -> None:
        super().__init__()
        self.session, self.values, self._relative = session, values, relative
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(4)
        self.fields = (
            NumberField("First frame", "f", -1e6, 1e6, decimals=0),
            NumberField("Last frame", "f", -1e6, 1e6, decimals=0),
        )
        for field, end in zip(self.fields, ("first", "last"), strict=True):
            row.addWidget(field)
            field.refused.connect(session.failed)
            field.finished.connect(values.finish)
            field.changed.connect(lambda value, end=end: self._take(end, value))
            field.same.connect(lambda value, end=end: self._take(end, value))

    def refresh(self) -> None:
        """Show the first chosen layer's span."""
        if self.session.layers:
            self.fields[0].show_value(self.session.layers[0].first)
            self.fields[1].show_value(self.session.layers[0].last - 1)

    def _take(self, end: str, value: float) -> None:
        """Put one end of all chosen layers there, or each as far on; the other one stays."""
        frame = int(value) + (end == "last")
        by = frame - getattr(self.session.layers[0], end) if self._relative() else None

        def change(layer: Layer) -> Layer:
            return evolve(layer, **{end: frame if by is None else getattr(layer, end) + by})

        self.session.edit_layers("Span", change, merge=self.values.merge("span"))


class ParentList(LongList):
    """The layer whose place the chosen ones follow."""

    def __init__(self, session: Session) -> None:
        super().__init__(self._offered)
        self.session = session
        self.setAccessibleName("Parent")
        self.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.setMinimumContentsLength(6)
        self.activated.connect(lambda index: self.take(self.itemData(index)))

    def refresh(self) -> None:
        """Show the present parent."""
        piece, layers = self.session.composition, self.session.layers
        parent = piece.find(layers[0].parent) if layers and layers[0].parent else None
        self.show_one(parent.name if parent is not None else "none", parent.id if parent is not None else None)

    def _offered(self) -> list[tuple[str, object]]:
        chosen = set(self.session.selected)
        return [("none", None), *((y.name, y.id) for y in self.session.composition.layers if y.id not in chosen)]

    def take(self, parent: str | None) -> None:
        """Hang the chosen layers on another one, or on none; they stay where they are seen."""
        at, ids = self.session.evaluated(), self.session.selected

        def change(piece: Composition) -> Composition:
            for layer_id in ids:
                if not piece.layer(layer_id).locked:
                    piece = with_hung(at, piece, layer_id, parent)
            return piece

        self.session.edit("Parent", change)
        self.refresh()
