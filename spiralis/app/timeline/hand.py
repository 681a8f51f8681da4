"""The hand over the timeline's rows: presses, and what goes on while the button is held."""

from __future__ import annotations

from collections.abc import Callable

from attrs import evolve
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QMouseEvent, QPainter, QPen
from PyQt6.QtWidgets import QToolTip, QWidget

from spiralis.app.commands.layers import Commands
from spiralis.app.session import Session
from spiralis.app.style import MARIGOLD, MINT, colour
from spiralis.app.timeline.bar_drag import bar_edit, drag_bars
from spiralis.app.timeline.layout import (
    LABELS,
    Row,
    TimeAxis,
    bead_at,
    keys_in,
    row_at,
    segment_at,
    snap_frames,
    snapped,
)
from spiralis.app.timeline.marks import EYE_X
from spiralis.app.timeline.painting import INDENT
from spiralis.core.editing.edits import reordered
from spiralis.core.editing.grouping import in_order
from spiralis.core.editing.keys import KeyRef, fewer_keys_note, keys_moved
from spiralis.core.editing.removing import with_all_in
from spiralis.core.model import Layer

#: So far, in px, the pointer may slip during a click.
_STILL = 3.0
_SEVERAL = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier


class RowHand:
    """Chooses and drags keys, bars and whole layers in ``rows`` on an ``axis``, as they are when it is asked."""

    def __init__(
        self, widget: QWidget, session: Session, rows: Callable[[], list[Row]], axis: Callable[[], TimeAxis]
    ) -> None:
        self.widget, self.session, self.rows, self.axis = widget, session, rows, axis
        self._action: Callable[[QMouseEvent], None] | None = None
        self._box: tuple[QPointF, QPointF] | None = None
        self._drop: int | None = None
        #: Where the button was pressed, as long as the pointer is still there, and what a mere click there means.
        self._pressed: QPointF | None = None
        self._click: Callable[[], object] | None = None

    def press(self, event: QMouseEvent) -> None:
        """Take what lies under the pointer in hand, or choose it."""
        self.session.gesture.begin(self.let_go)
        rows, axis = self.rows(), self.axis()
        self._pressed, self._click = event.position(), None
        x, y = event.position().x(), event.position().y()
        row = row_at(rows, y)
        bead = bead_at(rows, axis, x, y) if x > LABELS - 8 else None
        if bead is not None:
            self._press_bead(bead, event)
        elif row is None:
            self.session.select(())
            self._start_box(event)
        elif x < LABELS:
            self._press_label(row, event)
        elif row.name is not None:
            self._press_thread(row, x, event)
        elif not self._press_span(row, x, event):
            self._start_box(event)

    def move(self, event: QMouseEvent) -> bool:
        """Go on with what is in hand; False where nothing is."""
        if self._action is None or not event.buttons() & Qt.MouseButton.LeftButton:
            return False
        if self._pressed is not None and (event.position() - self._pressed).manhattanLength() <= _STILL:
            return True
        self._pressed = self._click = None
        self._action(event)
        self.widget.update()
        return True

    def release(self) -> None:
        """Put down what is in hand; a mere click on one of several chosen ones chooses it alone."""
        if self._click is not None:
            self._click()
        if self._drop is not None:
            index, ids = self._drop, self.session.selected
            self.session.edit(
                "Reorder layers", lambda piece: in_order(reordered(piece, with_all_in(piece, ids), index))
            )
        self.let_go()
        self.session.close_step()
        self.widget.update()

    def let_go(self) -> None:
        """Go on with nothing."""
        self._action, self._box, self._drop, self._click = None, None, None, None
        self.session.gesture.end()
        self.widget.update()

    def paint(self, painter: QPainter) -> None:
        """Draw the box that chooses keys, or the line where layers would go."""
        if self._box is not None:
            painter.setPen(QPen(colour(MINT), 1))
            painter.setBrush(colour(MINT, 0.12))
            painter.drawRect(QRectF(*self._box).normalized())
        if self._drop is not None:
            rows, places = self.rows(), self.session.composition.place_of
            tops = [r.top for r in rows if r.name is None and places[r.layer.id] == self._drop]
            y = tops[0] if tops else rows[-1].top + rows[-1].height
            painter.fillRect(QRectF(0, y - 1, self.widget.width(), 2), colour(MARIGOLD))

    def _press_bead(self, bead: KeyRef, event: QMouseEvent) -> None:
        several = event.modifiers() & _SEVERAL
        keys = set(self.session.keys)
        if several:
            keys ^= {bead}
        elif bead not in keys:
            keys = {bead}
        else:
            self._click = lambda: self.session.select([bead.layer], {bead})
        self.session.select(self._layers_of(keys), keys)
        self._start_key_drag(event, bead.frame)

    def _layers_of(self, keys: set[KeyRef]) -> list[str]:
        wanted = {ref.layer for ref in keys}
        return [layer.id for layer in self.session.composition.layers if layer.id in wanted]

    def _start_key_drag(self, event: QMouseEvent, grabbed: int) -> None:
        start, before, refs = event.position().x(), self.session.composition, self.session.keys
        merge = f"keys-{self.session.version}"
        copying = bool(event.modifiers() & Qt.KeyboardModifier.AltModifier)
        axis = self.axis()
        marks = snap_frames(before, self.session.frame, refs)

        def drag(moved: QMouseEvent) -> None:
            way = (moved.position().x() - start) / axis.per_frame
            by = round(way)
            if not moved.modifiers() & Qt.KeyboardModifier.ControlModifier:
                by = snapped(grabbed + way, marks, axis) - grabbed
            changed, chosen = keys_moved(before, refs, by, copying)
            name = "Copy keys" if copying else "Move keys"
            if changed is self.session.composition or (by == 0 and self.session.composition is before):
                return
            if self.session.edit(name, lambda _: changed, merge=merge):
                self.session.select(self.session.selected, chosen)
                said = ", ".join(filter(None, (f"{by:+d} frames", fewer_keys_note(before, changed, refs, chosen))))
                QToolTip.showText(moved.globalPosition().toPoint(), said, self.widget)

        self._action = drag

    def _press_thread(self, row: Row, x: float, event: QMouseEvent) -> None:
        """Start a box; a mere click between two keys chooses the segment there by the key it leaves."""
        segment = segment_at(row, self.axis(), x)
        keys = set(self.session.keys) if event.modifiers() & _SEVERAL else set()
        self._start_box(event, keeps=segment is not None)
        if segment is not None:
            chosen = keys ^ {segment}
            self._click = lambda: self.session.select(self._layers_of(chosen) or [row.layer.id], chosen)

    def _press_span(self, row: Row, x: float, event: QMouseEvent) -> bool:
        """Start dragging a bar or one of its ends; False where the point is beside it."""
        how = bar_edit(row.layer, self.axis(), x, event.modifiers())
        if how is None:
            return False
        self._choose(row.layer, event)
        if not row.layer.locked:
            self._action = drag_bars(self.widget, self.session, self.axis(), row.layer, how, x)
        return True

    def _press_label(self, row: Row, event: QMouseEvent) -> None:
        layer, x = row.layer, event.position().x()
        if row.name is None and x >= EYE_X - 2:
            if x < EYE_X + 19:
                shown = self.session.evaluated().values(layer)["visible"]
                self.session.set_property("visible", not shown, [layer.id])
            else:
                self.session.edit("Lock" if not layer.locked else "Unlock", lambda piece: piece.with_layer(
                    evolve(layer, locked=not layer.locked)))  # fmt: skip
            return
        if row.name is not None:
            self._choose_track(layer, row.name, event)
            return
        self._choose(layer, event)
        if layer.gathers and 10 + INDENT * row.depth <= x < 32 + INDENT * row.depth:
            self._click = None
            Commands(self.session).toggle_flag("folded", "Fold")
            return
        start = event.position().y()

        def reorder(moved: QMouseEvent) -> None:
            if abs(moved.position().y() - start) > 6 or self._drop is not None:
                self._drop = self._index_at(moved.position().y())
                self.widget.update()

        self._action = reorder

    def _choose_track(self, layer: Layer, name: str, event: QMouseEvent) -> None:
        """Choose all keys of a thread; with Alt those of the same property on every layer; beside the others, or out of
        them again."""
        layers = [layer]
        if event.modifiers() & Qt.KeyboardModifier.AltModifier:
            layers = [other for other in self.session.composition.layers if name in other.animated()]
        keys = {KeyRef(y.id, name, key.frame) for y in layers for key in y.track(name).keys}
        if event.modifiers() & _SEVERAL:
            others = set(self.session.keys)
            keys = others - keys if keys <= others else others | keys
        self.session.select(self._layers_of(keys) or [layer.id], keys)

    def _index_at(self, y: float) -> int:
        """Return before which layer something dropped at a height would go."""
        layers = self.session.composition.layers
        for row in self.rows():
            if row.name is None and y < row.middle:
                return layers.index(row.layer)
        return len(layers)

    def _choose(self, layer: Layer, event: QMouseEvent) -> None:
        selected = list(self.session.selected)
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            selected = [i for i in selected if i != layer.id] if layer.id in selected else [*selected, layer.id]
        elif event.modifiers() & Qt.KeyboardModifier.ShiftModifier and selected:
            ids = [other.id for other in self.session.composition.layers]
            ends = sorted((ids.index(selected[-1]), ids.index(layer.id)))
            selected = ids[ends[0] : ends[1] + 1]
        elif layer.id not in selected:
            selected = [layer.id]
        else:
            self._click = lambda: self.session.select([layer.id])
        self.session.select(selected)

    def _start_box(self, event: QMouseEvent, keeps: bool = False) -> None:
        start = event.position()

        def drag(moved: QMouseEvent) -> None:
            self._box = (start, moved.position())
            box = QRectF(start, moved.position()).normalized()
            found = keys_in(self.rows(), self.axis(), (box.left(), box.top(), box.right(), box.bottom()))
            self.session.select(self._layers_of(found), found)
            self.widget.update()

        if not keeps:
            self.session.select(self.session.selected)
        self._action = drag
