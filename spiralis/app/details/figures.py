"""The editor of a drawing's figures: which one, how it is filled and stroked."""

from __future__ import annotations

from collections.abc import Callable

from attrs import evolve
from PyQt6.QtWidgets import QComboBox, QGridLayout, QLabel, QWidget

from spiralis.app.colours import ColourField
from spiralis.app.details.editor import Editor
from spiralis.app.details.stops import StopsField
from spiralis.app.session import Session
from spiralis.app.widgets.fields import ListField, NumberField
from spiralis.core.colour import Colour
from spiralis.core.editing.recolouring import colours_of, recoloured
from spiralis.core.editing.restyling import painted, restyled, style_of, with_stroke
from spiralis.core.model import Parameter, Value
from spiralis.core.model.art import CAPS, JOINS, Bundle, Figure, Ramp, figures_in

_STYLES = {"none": "None", "flat": "One colour", "linear": "Linear", "radial": "Radial"}
_MOST = 8


class ArtEditor(Editor):
    """Fill and stroke of one figure or of all, and the colours of the whole drawing."""

    def __init__(self, parameter: Parameter, session: Session) -> None:
        super().__init__(parameter, session)
        # As tall as its rows need: a fixed least height would squeeze them.
        self.setMinimumHeight(0)
        self._art: Bundle | None = None
        #: The colour that is being changed throughout, as the gesture found it: on its way it may be like another one,
        #: which must not go along from there.
        self._recoloured: Colour | None = None
        self.fields: list[ColourField] = []
        body = QWidget()
        self.grid = QGridLayout(body)
        self.grid.setContentsMargins(0, 0, 0, 0)
        self.grid.setHorizontalSpacing(4)
        self.grid.setVerticalSpacing(3)
        self.row.addWidget(body)
        self.which = ListField()
        self.which.setAccessibleName("Which outline")
        self.which.setMinimumContentsLength(6)
        self.which.activated.connect(lambda _: self._show())
        self.style_ = self._choice("Filled with", list(_STYLES), list(_STYLES.values()))
        self.style_.activated.connect(lambda i: self._change(lambda f: painted(f, self.style_.itemData(i))))
        self.fill = ColourField("Fill")
        self.fill.changed.connect(lambda value: self._change(lambda f: evolve(f, fill=value)))
        self.stops = StopsField("Gradient of the fill")
        self.stops.changed.connect(self._take_stops)
        self.width_ = NumberField("Stroke width", "px", 0, 2000)
        self.width_.changed.connect(self._take_width)
        self.line = ColourField("Stroke colour")
        self.line.changed.connect(lambda value: self._change(lambda f: with_stroke(f, paint=value)))
        self.cap, self.join = self._choice("Cap", CAPS), self._choice("Join", JOINS)
        self.cap.activated.connect(lambda i: self._change(lambda f: with_stroke(f, cap=CAPS[i])))
        self.join.activated.connect(lambda i: self._change(lambda f: with_stroke(f, join=JOINS[i])))
        self.dash = [NumberField(name, "px", 0, 5000) for name in ("Dash", "Gap")]
        for number in self.dash:
            number.changed.connect(lambda _: self._take_dash())
        fields: tuple[NumberField | ColourField | StopsField, ...] = (
            self.width_, *self.dash, self.fill, self.line, self.stops,
        )  # fmt: skip
        for field in fields:
            field.finished.connect(self.finished)
        self._lay_out()

    def _choice(self, label: str, values: list[str] | tuple[str, ...], texts: list[str] | None = None) -> QComboBox:
        box = ListField()
        box.setAccessibleName(label)
        box.setToolTip(label)
        box.setMinimumContentsLength(4)
        box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        for value, text in zip(values, texts or [v.capitalize() for v in values], strict=True):
            box.addItem(text, value)
        return box

    def _lay_out(self) -> None:
        self.grid.addWidget(self.which, 0, 0, 1, 2)
        self.grid.addWidget(self.style_, 1, 0, 1, 2)
        self.grid.addWidget(self.fill, 2, 0, 1, 2)
        self.grid.addWidget(self.stops, 3, 0, 1, 2)
        self.grid.addWidget(self.width_, 4, 0)
        self.grid.addWidget(self.line, 4, 1)
        self.grid.addWidget(self.cap, 5, 0)
        self.grid.addWidget(self.join, 5, 1)
        for column, field in enumerate(self.dash):
            self.grid.addWidget(field, 6, column)
        self.colours = QLabel("Colours throughout")
        self.colours.setObjectName("Quiet")
        self.grid.addWidget(self.colours, 7, 0, 1, 2)
        self.grid.setColumnStretch(1, 1)

    # -- showing ---------------------------------------------------------------------------------------

    def show_value(self, value: Value) -> None:
        if value is self._art:
            return
        self._art = value
        places = [path for path, _, _ in figures_in(value)]
        items = [(f"All {len(places)} outlines" if len(places) != 1 else "1 outline", None)]
        items += [(f"Outline {i + 1}", path) for i, path in enumerate(places)] if 1 < len(places) <= 60 else []
        if [self.which.itemData(i) for i in range(self.which.count())] != [path for _, path in items]:
            self.which.clear()
            for text, path in items:
                self.which.addItem(text, path)
        self._show()

    def _figure(self) -> Figure | None:
        """Return the figure whose look is shown: the chosen one, or the first."""
        if self._art is None:
            return None
        chosen = self.which.currentData()
        found = list(figures_in(self._art))
        return next((f for path, f, _ in found if path == chosen), found[0][1] if found else None)

    def _show(self) -> None:
        figure = self._figure()
        for widget in (self.style_, self.fill, self.stops, self.width_, self.line, self.cap, self.join, *self.dash):
            widget.setVisible(figure is not None)
        if figure is None:
            return
        style = style_of(figure)
        self.style_.setCurrentIndex(list(_STYLES).index(style))
        self.fill.setVisible(style == "flat")
        self.stops.setVisible(isinstance(figure.fill, Ramp))
        if isinstance(figure.fill, Ramp):
            self.stops.show_value(figure.fill.stops)
        elif figure.fill is not None:
            self.fill.show_value(figure.fill)
        pen = figure.stroke
        self.width_.show_value(pen.width if pen is not None else 0.0)
        stroked = pen is not None and pen.width > 0
        for widget in (self.line, self.cap, self.join, *self.dash):
            widget.setVisible(stroked)
        if pen is not None and stroked:
            self.line.show_value(pen.paint if not isinstance(pen.paint, Ramp) else (1.0, 1.0, 1.0, 1.0))
            self.cap.setCurrentIndex(CAPS.index(pen.cap))
            self.join.setCurrentIndex(JOINS.index(pen.join))
            for field, number in zip(self.dash, (*pen.dash, 0.0, 0.0)[:2], strict=True):
                field.show_value(number)
        self._show_colours()

    def _show_colours(self) -> None:
        if self._recoloured is not None:
            return
        colours = colours_of(self._art) if self._art is not None else []
        colours = colours if 1 < len(colours) <= _MOST else []
        self.colours.setVisible(bool(colours))
        while len(self.fields) < len(colours):
            self._add_field()
        for index, field in enumerate(self.fields):
            field.setVisible(index < len(colours))
            if index < len(colours):
                field.show_value(colours[index])

    def _add_field(self) -> None:
        index = len(self.fields)
        field = ColourField(f"Colour {index + 1}")
        field.changed.connect(lambda value: self._recolour(index, value))
        field.finished.connect(self._finish_colour)
        self.grid.addWidget(field, 8 + index, 0, 1, 2)
        self.fields.append(field)

    # -- taking ----------------------------------------------------------------------------------------

    def _change(self, change: Callable[[Figure], Figure]) -> None:
        only = self.which.currentData()
        self.each.emit(lambda art: restyled(art, change, only))

    def _take_stops(self, stops: Value) -> None:
        def change(figure: Figure) -> Figure:
            return evolve(figure, fill=evolve(figure.fill, stops=stops)) if isinstance(figure.fill, Ramp) else figure

        self._change(change)

    def _take_width(self, width: float) -> None:
        self._change(lambda f: with_stroke(f, width=width) if width > 0 or f.stroke is not None else f)

    def _take_dash(self) -> None:
        dash = tuple(field.value or 0.0 for field in self.dash)
        self._change(lambda f: with_stroke(f, dash=dash if all(dash) else ()))

    def _recolour(self, index: int, value: Value) -> None:
        if self._recoloured is None and self._art is not None:
            self._recoloured = colours_of(self._art)[index]
        if (old := self._recoloured) is not None:
            self.each.emit(lambda art: recoloured(art, old, value))

    def _finish_colour(self) -> None:
        self._recoloured = None
        self._show_colours()
        self.finished.emit()
