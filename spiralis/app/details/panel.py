"""The Details panel: sections of rows made from the parameters that the chosen layers' kind declares."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable

from attrs import Factory, define, evolve
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QHBoxLayout,
    QLabel,
    QScrollArea,
    QStackedLayout,
    QVBoxLayout,
    QWidget,
)

from spiralis.app.commands.tying import drag_thread
from spiralis.app.details.block_list import BlockList
from spiralis.app.details.composition import CompositionDetails
from spiralis.app.details.dials import DialsSection
from spiralis.app.details.editor import Editor
from spiralis.app.details.editors import EDITORS
from spiralis.app.details.effects import EffectsSections
from spiralis.app.details.holds import HoldsEditor
from spiralis.app.details.linking import LinkButton
from spiralis.app.details.mattes import MattesEditor
from spiralis.app.details.moves import MovesEditor
from spiralis.app.details.section import Section
from spiralis.app.session import Session
from spiralis.app.timeline.painting import shared_count
from spiralis.app.widgets.fields import BeadButton, ListField, NumberField
from spiralis.app.work.soon import Soon
from spiralis.core.editing.edits import toggle_key
from spiralis.core.editing.linking import set_seen_value
from spiralis.core.editing.reparenting import with_parent
from spiralis.core.model import Composition, Kind, Layer, Parameter, Value, layer_kind
from spiralis.core.model.blocks import EFFECT, FINISH

_SECTIONS = ("Content", "Place", "Look", "Timing")
#: How many sorts of layers keep their rows, so that going to and fro between them is quick.
_MOST_PAGES = 8


@define(eq=False)
class _Page:
    """The rows for one sort of layers, and what brings each up to date."""

    area: QScrollArea
    editors: dict[str, Editor] = Factory(dict)
    beads: dict[str, BeadButton] = Factory(dict)
    refreshers: list[Callable[[], None]] = Factory(list)
    relative: QCheckBox | None = None


def _scroll_area() -> QScrollArea:
    area = QScrollArea()
    area.setWidgetResizable(True)
    area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    return area


class DetailsPanel(QWidget):
    """Values of the chosen layers; several edit together."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setObjectName("Panel")
        self.setMinimumWidth(290)
        self.area = _scroll_area()
        self.stack = QStackedLayout(self)
        self.relative: QCheckBox | None = None
        self.editors: dict[str, Editor] = {}
        self.beads: dict[str, BeadButton] = {}
        self._refreshers: list[Callable[[], None]] = []
        self._shape: object = None
        self._built: OrderedDict[object, _Page] = OrderedDict()
        self._gesture = 0
        self._soon = Soon(self, self.refresh)
        session.projectChanged.connect(self._soon.ask)
        session.frameChanged.connect(self._soon.ask)
        session.compositionChanged.connect(self.refresh)
        session.selectionChanged.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Show what is chosen; rows are made anew only where other rows are needed."""
        layers = self.session.layers
        shape = self._shape_of(layers)
        if shape != self._shape:
            self._shape = shape
            self._show_page(shape, layers)
        for refresh in self._refreshers:
            refresh()

    def _shape_of(self, layers: list[Layer]) -> object:
        if not layers:
            return ("composition", self.session.composition_id)
        names = tuple(p.name for p in self._parameters(layers))
        sources = tuple(source.id for source in self.session.project.sources)
        kinds, blocks = tuple(sorted({y.kind for y in layers})), layers[0].blocks if len(layers) == 1 else ()
        return (self.session.composition_id, kinds, len(layers) > 1, names, sources, blocks)

    def _parameters(self, layers: list[Layer]) -> list[Parameter]:
        """Return the parameters that all chosen layers share and that matter as they are set."""
        first = layers[0]
        shared = [p for p in first.parameters if all(y.has(p.name) and y.parameter(p.name) == p for y in layers[1:])]
        values, kind = self.session.evaluated().values(first), layer_kind(first.kind)
        return [p for p in shared if kind.matters(p, values, self.session.project)]

    def _show_page(self, shape: object, layers: list[Layer]) -> None:
        """Show the rows for such layers, made the first time they are asked for."""
        self._end_typing()
        page = self._built.pop(shape, None) or self._page(layers)
        self.area, self.editors, self.beads = page.area, page.editors, page.beads
        self._refreshers, self.relative = page.refreshers, page.relative
        self._built[shape] = page
        self.stack.setCurrentWidget(page.area)
        for section in page.area.findChildren(Section):
            section.show_folding()
        while len(self._built) > _MOST_PAGES:
            old = self._built.popitem(last=False)[1].area
            self.stack.removeWidget(old)
            old.deleteLater()

    def _end_typing(self) -> None:
        """What is half typed belongs to no layer that is chosen from now on."""
        typed = self.area.focusWidget()
        if isinstance(typed, NumberField):
            typed.rest()
        if typed is not None:
            typed.blockSignals(True)
            typed.clearFocus()
            typed.blockSignals(False)

    def _page(self, layers: list[Layer]) -> _Page:
        """Make the rows for such layers."""
        page = _Page(_scroll_area())
        self.stack.addWidget(page.area)
        body = QWidget()
        self.editors, self.beads, self._refreshers = page.editors, page.beads, page.refreshers
        column = QVBoxLayout(body)
        column.setContentsMargins(14, 12, 12, 12)
        column.setSpacing(4)
        dials = DialsSection(self.session)
        column.addWidget(dials)
        self._refreshers.append(dials.refresh)
        if not layers:
            composition = CompositionDetails(self.session)
            column.addWidget(composition)
            self._refreshers.append(composition.refresh)
        else:
            column.addWidget(self._header())
            page.relative = self.relative
            self._add_sections(column, layers)
        column.addStretch(1)
        page.area.setWidget(body)
        return page

    def _header(self) -> QWidget:
        head = QWidget()
        row = QVBoxLayout(head)
        row.setContentsMargins(0, 0, 0, 6)
        row.setSpacing(1)
        title, kind = QLabel(), QLabel()
        relative = self.relative = QCheckBox("Change each by as much")
        relative.setToolTip("Numbers change by the difference on every chosen layer, instead of becoming the same")
        title.setObjectName("Title")
        kind.setObjectName("Quiet")
        row.addWidget(title)
        row.addWidget(kind)
        row.addWidget(relative)

        def refresh() -> None:
            layers = self.session.layers
            if not layers:
                return
            relative.setVisible(len(layers) > 1)
            text = layers[0].name if len(layers) == 1 else f"{len(layers)} layers"
            title.setText(title.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, 220))
            kind.setText(
                ", ".join(sorted({layer_kind(layer.kind).label for layer in layers})) + self._size_text(layers)
            )

        self._refreshers.append(refresh)
        return head

    def _size_text(self, layers: list[Layer]) -> str:
        if len(layers) != 1:
            return ""
        box = self.session.evaluated().box(layers[0])
        locked = " · locked" if layers[0].locked else ""
        shared = shared_count(self.session, layers[0])
        if shared > 1:
            locked += f" · shared ×{shared}"
        return f" · {box[2] - box[0]:.0f} × {box[3] - box[1]:.0f} px{locked}"

    def _add_sections(self, column: QVBoxLayout, layers: list[Layer]) -> None:
        parameters = self._parameters(layers)
        for group in _SECTIONS:
            members = [parameter for parameter in parameters if parameter.group == group]
            if not members and group != "Timing":
                continue
            section = Section(group)
            if group == "Timing":
                self._add_span(section)
            for parameter in members:
                self._add_row(section, parameter)
            if group == "Place":
                section.add("Parent", self._parent_box(), help="The layer whose place this one follows")
            column.addWidget(section)
            if group == "Place" and len(layers) == 1:
                self._add_blocks(column, "Hold", HoldsEditor(self.session))
            if group == "Look":
                self._add_looks(column, layers)

    def _add_looks(self, column: QVBoxLayout, layers: list[Layer]) -> None:
        if not any(layer_kind(layer.kind).unseen for layer in layers):
            wanted = {p.name for p in self._parameters(layers)}

            def add_row(section: Section, parameter: Parameter) -> None:
                if parameter.name in wanted:
                    self._add_row(section, parameter)

            sections = EffectsSections(self.session, self, add_row)
            # An effect layer shows nothing of its own that could be finished.
            beneath = any(layer_kind(layer.kind).beneath is not None for layer in layers)
            for role in (EFFECT,) if beneath else (FINISH, EFFECT):
                sections.build(column, layers, role)
            if len(layers) == 1:
                self._add_blocks(column, "Matte", MattesEditor(self.session))
        if len(layers) == 1:
            self._add_blocks(column, "Moves", MovesEditor(self.session))

    def _add_blocks(self, column: QVBoxLayout, title: str, blocks: BlockList) -> None:
        section = Section(title)
        section.grid.addWidget(blocks, 0, 1, 1, 2)
        self._refreshers.append(blocks.refresh)
        column.addWidget(section)

    def _add_row(self, section: Section, parameter: Parameter) -> None:
        editor = EDITORS[parameter.kind](parameter, self.session)
        bead = BeadButton(parameter.label, parameter.family)
        name = parameter.name
        editor.changed.connect(lambda value: self._take(parameter, value))
        editor.finished.connect(self._finish)
        bead.clicked.connect(lambda: self._toggle(parameter))
        if parameter.numeric and not parameter.steady:
            bead.thread_name = name
            bead.torn.connect(lambda thread, bead=bead: drag_thread(bead, thread))
            bead.setToolTip(f"{bead.toolTip()}; drag it onto a thread that {parameter.label} is to follow")
        more = None if parameter.steady else LinkButton(self.session, parameter, self)
        section.add(parameter.label, editor, None if parameter.steady else bead, parameter.help, more)
        self.editors[name], self.beads[name] = editor, bead

        def refresh() -> None:
            layers = self.session.layers
            if not layers:
                return
            editor.show_value(self.session.evaluated().values(layers[0])[name])
            track = layers[0].track(name)
            here = track.index_at(self.session.frame) is not None
            bead.show_state("here" if here else "keys" if track.animated else "none")
            editor.setEnabled(not all(layer.locked for layer in layers))
            if more is not None:
                more.refresh()

        self._refreshers.append(refresh)

    def _take(self, parameter: Parameter, value: object) -> None:
        """Set the value on all chosen layers; pairs change by component, so that each keeps its other one."""
        layers = self.session.layers
        if not layers:
            return
        shown = self.session.evaluated().values(layers[0])[parameter.name]
        merge = f"details-{parameter.name}-{self._gesture}"
        relative = len(layers) > 1 and self.relative is not None and self.relative.isChecked()
        if relative and parameter.kind in (Kind.NUMBER, Kind.PAIR):
            self._take_difference(parameter, value, shown, merge)
            return
        if len(layers) == 1 or not isinstance(value, tuple) or not isinstance(shown, tuple) or len(shown) != 2:
            self.session.set_property(parameter.name, value, merge=merge)
            return
        at, frame = self.session.evaluated(), self.session.frame

        def change(layer: Layer) -> Layer:
            own = at.values(layer)[parameter.name]
            pair = tuple(new if new != old else mine for new, old, mine in zip(value, shown, own, strict=True))
            return set_seen_value(at.composition, layer, parameter.name, pair, frame)

        self.session.edit_layers(f"{parameter.label} of {len(layers)} layers", change, merge=merge)

    def _take_difference(self, parameter: Parameter, value: Value, shown: Value, merge: str) -> None:
        """Change each chosen layer's value by as much as the first one's."""
        at, frame = self.session.evaluated(), self.session.frame
        by = parameter.to_array(value) - parameter.to_array(shown)

        def change(layer: Layer) -> Layer:
            own = parameter.to_array(at.values(layer)[parameter.name]) + by
            return set_seen_value(at.composition, layer, parameter.name, parameter.from_array(own), frame)

        count = len(self.session.layers)
        self.session.edit_layers(f"{parameter.label} of {count} layers", change, merge=merge)

    def _finish(self) -> None:
        self._gesture += 1
        self.session.close_step()

    def _toggle(self, parameter: Parameter) -> None:
        frame = self.session.frame
        self.session.edit_layers(f"Key for {parameter.label}", lambda y: toggle_key(y, parameter.name, frame))

    def _parent_box(self) -> QComboBox:
        box = ListField()
        box.setAccessibleName("Parent")
        box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        box.setMinimumContentsLength(6)

        def refresh() -> None:
            chosen = set(self.session.selected)
            items = [("none", None)] + [(y.name, y.id) for y in self.session.composition.layers if y.id not in chosen]
            if [(box.itemText(i), box.itemData(i)) for i in range(box.count())] != items:
                box.clear()
                for label, data in items:
                    box.addItem(label, data)
            if self.session.layers:
                box.setCurrentIndex(max(box.findData(self.session.layers[0].parent), 0))

        box.activated.connect(lambda index: self._set_parent(box.itemData(index)))
        self._refreshers.append(refresh)
        return box

    def _set_parent(self, parent: str | None) -> None:
        at, ids = self.session.evaluated(), self.session.selected

        def change(piece: Composition) -> Composition:
            for layer_id in ids:
                layer = piece.layer(layer_id)
                if not layer.locked:
                    piece = piece.with_layer(with_parent(at, layer, parent))
            return piece

        self.session.edit("Parent", change)
        self._soon.ask()

    def _add_span(self, section: Section) -> None:
        pair = QWidget()
        row = QHBoxLayout(pair)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(4)
        fields = (
            NumberField("First frame", "f", -1e6, 1e6, decimals=0),
            NumberField("Last frame", "f", -1e6, 1e6, decimals=0),
        )
        for field in fields:
            row.addWidget(field)
            field.refused.connect(self.session.failed)
            field.finished.connect(self._finish)

        def refresh() -> None:
            if self.session.layers:
                fields[0].show_value(self.session.layers[0].first)
                fields[1].show_value(self.session.layers[0].last - 1)

        def take() -> None:
            first, last = (int(field.value or 0) for field in fields)
            self.session.edit_layers(
                "Span", lambda y: evolve(y, first=first, last=last + 1), merge=f"details-span-{self._gesture}"
            )

        for field in fields:
            field.changed.connect(take)
        section.add("Span", pair, help="First and last frame on which the layer shows")
        self._refreshers.append(refresh)
