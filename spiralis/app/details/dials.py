"""The dials of the composition on top of Details, and those of a chosen nested composition, set from outside."""

from __future__ import annotations

from attrs import evolve
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QGridLayout, QLabel, QPushButton, QWidget

from spiralis.app.details.dial_stops import DialStops
from spiralis.app.session import Session
from spiralis.app.widgets.bead_button import BeadButton
from spiralis.app.widgets.fields import NumberField, Slider
from spiralis.app.widgets.preferences import new_pace
from spiralis.core.editing.edits import set_value, toggle_key
from spiralis.core.model import Layer

_STEPS = 1000


class DialsSection(QWidget):
    """One row a dial: bead, name, slider, number. Hidden where there are none."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.grid = QGridLayout(self)
        self.grid.setContentsMargins(0, 0, 0, 6)
        self.grid.setHorizontalSpacing(6)
        self.grid.setVerticalSpacing(4)
        self.grid.setColumnStretch(2, 1)
        self.rows: dict[tuple[str, str], tuple[Slider, NumberField, BeadButton | None]] = {}
        self._shown: object = None
        self.refresh()

    def dials(self) -> list[tuple[str, Layer]]:
        """Return (id of the nested layer, or empty, dial) of what is to be shown."""
        session = self.session
        found = [("", layer) for layer in session.composition.layers if layer.control]
        if len(session.layers) == 1 and session.layers[0].has("composition"):
            nested = session.layers[0]
            inner = session.project.find(nested.track("composition").value)
            found += [(nested.id, y) for y in inner.layers if y.control] if inner is not None else []
        return found

    def refresh(self) -> None:
        """Show the dials as they stand."""
        dials = self.dials()
        shape = tuple((outer, y.id, y.name, y.track("minimum").value, y.track("maximum").value) for outer, y in dials)
        if shape != self._shown:
            self._shown = shape
            self._build(dials)
        self.setVisible(bool(dials))
        for outer, dial in dials:
            slider, field, bead = self.rows[outer, dial.id]
            value = self._value(outer, dial)
            low, high = _ends(dial)
            field.show_value(round(value, 2))
            slider.blockSignals(True)
            slider.setValue(round(_STEPS * (value - low) / (high - low)))
            slider.blockSignals(False)
            if bead is not None:
                track = dial.track("value")
                here = track.index_at(self.session.frame) is not None
                bead.show_state("here" if here else "keys" if track.animated else "none")

    def _value(self, outer: str, dial: Layer) -> float:
        if not outer:
            return float(self.session.evaluated().values(dial)["value"])
        given = dict(self.session.composition.layer(outer).dial_values)
        return given.get(dial.id, float(dial.track("value").value))

    def _build(self, dials: list[tuple[str, Layer]]) -> None:
        while (item := self.grid.takeAt(0)) is not None:
            item.widget().deleteLater()
        self.rows = {}
        for row, (outer, dial) in enumerate(dials):
            low, high = _ends(dial)
            name: QWidget = QLabel(dial.name)
            if not outer:
                name = self._stops_button(dial)
            name.setToolTip(
                "A dial of the nested composition, set for this layer alone" if outer
                else "A dial: list what has joined it, and its stops"
            )  # fmt: skip
            slider = Slider(Qt.Orientation.Horizontal)
            slider.setRange(0, _STEPS)
            slider.setAccessibleName(dial.name)
            field = NumberField(dial.name, "", low, high)
            field.setFixedWidth(58)
            bead = None if outer else BeadButton(dial.name, "content")
            if bead is not None:
                bead.clicked.connect(lambda _=False, d=dial.id: self._toggle(d))
                self.grid.addWidget(bead, row, 0)
            slider.valueChanged.connect(
                lambda value, o=outer, d=dial.id, a=low, b=high: self._set(o, d, a + value / _STEPS * (b - a))
            )
            slider.sliderReleased.connect(self.session.close_step)
            field.changed.connect(lambda value, o=outer, d=dial.id: self._set(o, d, value))
            field.finished.connect(self.session.close_step)
            field.refused.connect(self.session.failed)
            for column, widget in ((1, name), (2, slider), (3, field)):
                self.grid.addWidget(widget, row, column)
            self.rows[outer, dial.id] = (slider, field, bead)

    def _stops_button(self, dial: Layer) -> QPushButton:
        button = QPushButton(f"{dial.name} …")
        button.setObjectName("Flat")
        button.setStyleSheet("padding: 3px 4px; text-align: left;")
        button.setAccessibleName(f"Stops of {dial.name}")
        button.clicked.connect(lambda: DialStops(self.window(), self.session, dial.id).show())
        return button

    def _toggle(self, dial: str) -> None:
        frame = self.session.frame
        self.session.edit_layers("Key for a dial", lambda y: toggle_key(y, "value", frame, new_pace()), [dial])

    def _set(self, outer: str, dial: str, value: float) -> None:
        session, frame = self.session, self.session.frame
        if not outer:
            session.edit_layers("Dial", lambda y: set_value(y, "value", value, frame), [dial], f"dial-{dial}")
            return

        def change(layer: Layer) -> Layer:
            return evolve(layer, dial_values=tuple(sorted({**dict(layer.dial_values), dial: value}.items())))

        session.edit_layers("Dial of a nest", change, [outer], f"dial-{outer}-{dial}")


def _ends(dial: Layer) -> tuple[float, float]:
    low, high = float(dial.track("minimum").value), float(dial.track("maximum").value)
    return low, high if high > low else low + 1.0
