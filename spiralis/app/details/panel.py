"""The Details panel: a page of rows for each sort of layers, the one of what is chosen shown."""

from __future__ import annotations

from collections import OrderedDict

from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QCheckBox, QStackedLayout, QWidget

from spiralis.app.details.editor import Editor
from spiralis.app.details.page import Page, shown_parameters
from spiralis.app.session import Session
from spiralis.app.widgets.bead_button import BeadButton
from spiralis.app.widgets.fields import NumberField
from spiralis.app.work.soon import MOMENT, Soon, in_the_way
from spiralis.core.model import Layer

#: How many sorts of layers keep their rows, so that going to and fro between them is quick.
_MOST_PAGES = 8
#: How often building puts itself off by a moment while a picture is awaited.
_MOST_WAITS = 12


class DetailsPanel(QWidget):
    """Values of the chosen layers; several edit together."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setObjectName("Panel")
        self.setMinimumWidth(296)
        self.stack = QStackedLayout(self)
        self.area: Page | None = None
        self._shape: object = None
        #: The effects of the one chosen layer, by its id, and the one that was just added.
        self._blocks: tuple[str, frozenset[str]] = ("", frozenset())
        self._added: str | None = None
        self._built: OrderedDict[object, Page] = OrderedDict()
        self._soon = Soon(self, self.refresh)
        self._building = QTimer(self)
        self._building.setInterval(0)
        self._building.timeout.connect(self._build_when_due)
        self._waits = 0
        #: Whether something else was chosen than what is shown.
        self._behind = False
        session.projectChanged.connect(self._soon.ask)
        session.frameChanged.connect(self._soon.ask)
        session.keysChanged.connect(self._soon.ask)
        # What was refused is not so: the rows show again what is.
        session.failed.connect(self._soon.ask)
        session.compositionChanged.connect(self._follow)
        session.selectionChanged.connect(self._follow)
        self.refresh()

    @property
    def building(self) -> bool:
        """Whether the page of what is chosen, or sections of it, are still to come."""
        return self._behind or self._building.isActive()

    @property
    def page(self) -> Page:
        """The page of what is chosen, with all of its sections."""
        if self._behind:
            self.refresh()
        while self.area is None or not self.area.whole:
            self._build_next()
        return self.area

    @property
    def editors(self) -> dict[str, Editor]:
        """The editors that are shown, by the names of their parameters."""
        return self.page.editors

    @property
    def beads(self) -> dict[str, BeadButton]:
        """The buttons for keys beside them."""
        return self.page.beads

    @property
    def relative(self) -> QCheckBox | None:
        """The box by which several layers change by the same difference."""
        return self.page.relative

    def _follow(self) -> None:
        """Show what was chosen once the canvas has shown it; until then nothing can be done by other layers' rows."""
        self._note_added(self.session.layers)
        self._end_typing()
        self._let(False)
        self._behind = True
        self._soon.ask_next()

    def _let(self, act: bool) -> None:
        """Let the rows act, or not: those that are to go are not painted as such in between."""
        if self.area is not None:
            self.area.setUpdatesEnabled(False)
            self.area.setEnabled(act)
            self.area.setUpdatesEnabled(act)

    def refresh(self) -> None:
        """Show what is chosen; rows are made anew only where other rows are needed."""
        layers = self.session.layers
        if self._behind:
            self._behind = False
            self._let(True)
        shape = self._shape_of(layers)
        self._note_added(layers)
        if shape != self._shape or self.area is None:
            self._shape = shape
            self._show_page(shape, layers)
        else:
            self.area.refresh()

    def _note_added(self, layers: list[Layer]) -> None:
        """Remember an effect that came while its layer was chosen: its numbers are what one wants to see next."""
        owner = layers[0].id if len(layers) == 1 else ""
        now = frozenset(block.id for block in layers[0].blocks) if owner else frozenset()
        new = now - self._blocks[1] if owner == self._blocks[0] else frozenset()
        if len(new) == 1:
            self._added = next(iter(new))
        self._blocks = (owner, now)

    def _shape_of(self, layers: list[Layer]) -> object:
        if not layers:
            return ("composition", self.session.composition_id)
        names = tuple(p.name for p in shown_parameters(self.session, layers))
        sources = tuple(source.id for source in self.session.project.sources)
        kinds = tuple(sorted({y.kind for y in layers}))
        return (self.session.composition_id, kinds, len(layers) > 1, names, sources, layers[0].blocks)

    def _show_page(self, shape: object, layers: list[Layer]) -> None:
        """Show the rows for such layers; those that were never asked for come a section at a time."""
        self._end_typing()
        page = self._built.pop(shape, None)
        if page is None:
            page = Page(self.session, layers)
            self.stack.addWidget(page)
        self.area = self._built[shape] = page
        page.refresh()
        page.show_folding()
        self.stack.setCurrentWidget(page)
        if not page.whole:
            self._waits = 0
            self._building.start()
        while len(self._built) > _MOST_PAGES:
            old = self._built.popitem(last=False)[1]
            self.stack.removeWidget(old)
            old.deleteLater()

    def _build_when_due(self) -> None:
        """Build on, but not before it is this panel's turn to show itself, nor while a picture is being drawn for which
        somebody waits: building holds the interpreter's lock, which drawing needs as well."""
        waits = self._waits < _MOST_WAITS and in_the_way(self)
        self._waits += waits
        self._building.setInterval(MOMENT if waits else 0)
        if self.updatesEnabled() and not waits:
            # A page that has begun goes on: half of it would stand there squeezed.
            self._waits = _MOST_WAITS
            self._build_next()

    def _build_next(self) -> None:
        """Build one more section, unless an edit has meanwhile made other rows right."""
        if self._shape_of(self.session.layers) != self._shape:
            self.refresh()
        if self.area is not None:
            self.area.build_next()
        if self.area is None or self.area.whole:
            self._building.stop()
            if self.area is not None and self._added is not None:
                # The layout comes to rest in a turn of its own.
                QTimer.singleShot(0, self._reveal_added)

    def _reveal_added(self) -> None:
        if self.area is not None and self._added is not None:
            self.area.reveal(self._added)
        self._added = None

    def _end_typing(self) -> None:
        """What is half typed belongs to no layer that is chosen from now on."""
        typed = None if self.area is None else self.area.focusWidget()
        if isinstance(typed, NumberField):
            typed.rest()
        if typed is not None:
            typed.blockSignals(True)
            typed.clearFocus()
            typed.blockSignals(False)
