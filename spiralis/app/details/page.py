"""The rows of Details for one sort of layers, built from the parameters that their kind declares."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QCheckBox, QLabel, QScrollArea, QVBoxLayout, QWidget

from spiralis.app.commands.tying import drag_track
from spiralis.app.details.block_list import BlockList
from spiralis.app.details.composition import composition_parts
from spiralis.app.details.dials import DialsSection
from spiralis.app.details.edges import EdgesEditor
from spiralis.app.details.editor import Editor
from spiralis.app.details.editors import EDITORS
from spiralis.app.details.effects import EffectsSections
from spiralis.app.details.fixed_rows import ParentList, SpanEditor
from spiralis.app.details.linking import LinkButton
from spiralis.app.details.mattes import MattesEditor
from spiralis.app.details.moves import MovesEditor
from spiralis.app.details.section import Section
from spiralis.app.details.values import ChosenValues
from spiralis.app.session import Session
from spiralis.app.timeline.marks import shared_count
from spiralis.app.widgets.bead_button import BeadButton
from spiralis.app.widgets.fields import CheckBox
from spiralis.app.widgets.short_label import ShortLabel
from spiralis.core.model import Layer, Parameter, Value, layer_kind
from spiralis.core.model.blocks import EFFECT, FINISH
from spiralis.core.render.extent import own_box

#: A turn of building makes so many rows of a section.
_ROWS_AT_ONCE = 4
#: A kind's own sections come after its content.
_FIRST, _LAST = ("Content",), ("Place", "Look", "Timing")


def shown_parameters(session: Session, layers: list[Layer]) -> list[Parameter]:
    """Return the parameters that all chosen layers share and that matter as they are set."""
    first = layers[0]
    shared = [p for p in first.parameters if all(y.has(p.name) and y.parameter(p.name) == p for y in layers[1:])]
    values, kind = session.evaluated().values(first), layer_kind(first.kind)
    return [p for p in shared if kind.matters(p, values, session.project)]


def size_text(session: Session, layers: list[Layer]) -> str:
    """Return what the heading says beside the kind of one layer: its size, whether it is locked or shared."""
    if len(layers) != 1:
        return ""
    box = own_box(session.evaluated(), layers[0])
    size = "" if layer_kind(layers[0].kind).unseen else f" · {box[2] - box[0]:.0f} × {box[3] - box[1]:.0f} px"
    locked = " · locked" if layers[0].locked else ""
    shared = shared_count(session, layers[0])
    if shared > 1:
        locked += f" · shared ×{shared}"
    return size + locked


class Page(QScrollArea):
    """A scrolling column of sections, built one at a time (``build_next``) so that the window answers in between."""

    def __init__(self, session: Session, layers: list[Layer]) -> None:
        super().__init__()
        self.session = session
        self.editors: dict[str, Editor] = {}
        self.beads: dict[str, BeadButton] = {}
        self.relative: QCheckBox | None = None
        self._values = ChosenValues(session)
        self._blocks_shown: dict[str, Section] = {}
        self._refreshers: list[Callable[[], None]] = []
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        body = QWidget()
        self._column = QVBoxLayout(body)
        self._column.setContentsMargins(10, 12, 10, 12)
        self._column.setSpacing(4)
        self._column.addStretch(1)
        self.setWidget(body)
        self._parts: Iterator[QWidget] | None = self._composition_parts() if not layers else self._layer_parts(layers)

    @property
    def whole(self) -> bool:
        """Whether all sections are built."""
        return self._parts is None

    def build_next(self) -> None:
        """Build one more section, or a few rows of one, and show in it what is chosen."""
        part = None if self._parts is None else next(self._parts, None)
        if part is None:
            self._parts = None
        elif part.parent() is None:
            self._column.insertWidget(self._column.count() - 1, part)

    def refresh(self) -> None:
        """Show what is chosen."""
        for refresh in self._refreshers:
            refresh()

    def reveal(self, block_id: str) -> None:
        """Scroll to the section of an effect or finish."""
        section = self._blocks_shown.get(block_id)
        if section is not None:
            self.ensureWidgetVisible(section.body, 0, 12)
            self.ensureWidgetVisible(section.head, 0, 12)

    def show_folding(self) -> None:
        """Fold what is folded elsewhere."""
        for section in self.findChildren(Section):
            section.show_folding()

    # -- parts -----------------------------------------------------------------------------------------

    def _keep_fresh(self, refresh: Callable[[], None]) -> None:
        self._refreshers.append(refresh)
        refresh()

    def _composition_parts(self) -> Iterator[QWidget]:
        dials = DialsSection(self.session)
        self._keep_fresh(dials.refresh)
        yield dials
        for part in composition_parts(self.session):
            self._keep_fresh(part.refresh)
            yield part

    def _layer_parts(self, layers: list[Layer]) -> Iterator[QWidget]:
        dials = DialsSection(self.session)
        self._keep_fresh(dials.refresh)
        yield dials
        yield self._header()
        parameters = shown_parameters(self.session, layers)
        # Those of effects stand with their effect.
        plain = [parameter for parameter in parameters if not parameter.block]
        own = dict.fromkeys(p.group for p in plain if p.group not in (*_FIRST, *_LAST))
        for group in (*_FIRST, *own, *_LAST):
            members = [parameter for parameter in plain if parameter.group == group]
            if members or group == "Timing":
                yield from self._section(group, members)
            if group == "Place" and members and len(layers) == 1:
                yield self._blocks("Edges", EdgesEditor(self.session))
            if group == "Look":
                yield from self._looks(parameters, layers)

    def _header(self) -> QWidget:
        head = QWidget()
        row = QVBoxLayout(head)
        row.setContentsMargins(0, 0, 0, 6)
        row.setSpacing(1)
        title, kind = QLabel(), QLabel()
        relative = self.relative = CheckBox("Change each by as much")
        relative.setToolTip("Numbers change by the difference on every chosen layer or key, not to the same value")
        title.setObjectName("Title")
        kind.setObjectName("Quiet")
        for widget in (title, kind, relative):
            row.addWidget(widget)

        def refresh() -> None:
            layers = self.session.layers
            if not layers:
                return
            relative.setVisible(len(layers) > 1 or len(self.session.keys) > 1)
            text = layers[0].name if len(layers) == 1 else f"{len(layers)} layers"
            title.setText(title.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, 220))
            kinds = ", ".join(sorted({layer_kind(layer.kind).label for layer in layers}))
            chosen = len(self.session.keys)
            several = f" · {chosen} keys chosen, values change them" if chosen > 1 else ""
            kind.setText(kinds + (several or size_text(self.session, layers)))

        self._keep_fresh(refresh)
        return head

    def _section(self, group: str, members: list[Parameter]) -> Iterator[Section]:
        """Give the section as soon as it has its first rows, and again with each few more."""
        section = Section(group)
        if group == "Timing":
            span = SpanEditor(self.session, self._values, self._relative)
            label = section.add("Span", span, help="First and last frame on which the layer shows")
            self._keep_fresh(span.refresh)
            self._keep_noted(label, lambda: self._values.unlike_in(lambda layer: (layer.first, layer.last)))
        for count, parameter in enumerate(members, 1):
            self._add_row(section, parameter)
            if count % _ROWS_AT_ONCE == 0:
                yield section
        if group == "Place":
            parents = ParentList(self.session)
            label = section.add("Parent", parents, help="The layer whose place this one follows")
            self._keep_fresh(parents.refresh)
            self._keep_noted(label, lambda: self._values.unlike_in(lambda layer: layer.parent))
        yield section

    def _looks(self, parameters: list[Parameter], layers: list[Layer]) -> Iterator[QWidget]:
        if not any(layer_kind(layer.kind).unseen for layer in layers):
            wanted = {p.name for p in parameters}

            def add_row(section: Section, parameter: Parameter) -> None:
                if parameter.name in wanted:
                    self._add_row(section, parameter)

            sections = EffectsSections(self.session, self, add_row)
            self._blocks_shown = sections.sections
            # An effect layer shows nothing of its own that could be finished.
            beneath = any(layer_kind(layer.kind).beneath is not None for layer in layers)
            for role in (EFFECT,) if beneath else (FINISH, EFFECT):
                yield from sections.parts(layers, role)
            if len(layers) == 1:
                yield self._blocks("Matte", MattesEditor(self.session))
        if len(layers) == 1 and not layers[0].placeless:
            yield self._blocks("Moves", MovesEditor(self.session))

    def _blocks(self, title: str, blocks: BlockList) -> Section:
        section = Section(title)
        section.grid.addWidget(blocks, 0, 1, 1, 2)
        self._keep_fresh(blocks.refresh)
        return section

    def _take_same(self, parameter: Parameter, value: Value, part: int) -> None:
        if not self._relative():  # By as much as the first is by nothing.
            self._values.take_same(parameter, value, part)

    def _add_row(self, section: Section, parameter: Parameter) -> None:
        name = parameter.name
        editor = self.editors[name] = EDITORS[parameter.kind](parameter, self.session)
        bead = self.beads[name] = BeadButton(parameter.label, parameter.family)
        editor.changed.connect(lambda value: self._values.take(parameter, value, self._relative()))
        editor.same.connect(lambda value, part: self._take_same(parameter, value, part))
        editor.each.connect(lambda change: self._values.take_each(parameter, change, self._relative()))
        editor.finished.connect(self._values.finish)
        bead.clicked.connect(lambda: self._values.toggle(parameter))
        if parameter.numeric and not parameter.steady:
            bead.track_name = name
            bead.torn.connect(lambda thread, bead=bead: drag_track(bead, thread))
            bead.setToolTip(f"{bead.toolTip()}; drag it onto a thread that {parameter.label} is to follow")
        more = None if parameter.steady else LinkButton(self.session, parameter, self)
        label = section.add(parameter.label, editor, None if parameter.steady else bead, parameter.help, more)

        def refresh() -> None:
            layers = self.session.layers
            if not layers:
                return
            editor.show_value(self._values.shown(parameter))
            track = layers[0].track(name)
            here = track.index_at(self.session.frame) is not None
            bead.show_state("here" if here else "keys" if track.animated else "none")
            editor.setEnabled(not all(layer.locked for layer in layers))
            if more is not None:
                more.refresh()

        self._keep_fresh(refresh)
        self._keep_noted(label, lambda: self._values.unlike(parameter))

    def _keep_noted(self, label: ShortLabel, sentence: Callable[[], str]) -> None:
        """Say at a row's name where it does not tell all of what is chosen."""

        def refresh() -> None:
            # Asked for each row at each edit: mostly one layer is chosen.
            several = len(self.session.selected) > 1 or len(self.session.keys) > 1
            label.set_note(sentence() if several and self.session.layers else "")

        self._keep_fresh(refresh)

    def _relative(self) -> bool:
        return self.relative is not None and self.relative.isChecked()
