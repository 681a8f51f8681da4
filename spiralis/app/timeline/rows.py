"""The rows widget: choosing, moving, copying and deleting keys; spans, order, names, eye and lock."""

from __future__ import annotations

import time
from collections.abc import Callable, Sequence
from typing import Any

from attrs import evolve
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, QTimer
from PyQt6.QtGui import (
    QContextMenuEvent,
    QFocusEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
)
from PyQt6.QtWidgets import QToolTip, QWidget

from spiralis.app.commands.layers import Commands
from spiralis.app.session import Session
from spiralis.app.style import MARIGOLD, MINT, QUIET, colour, font
from spiralis.app.timeline.bar_drag import bar_edit, drag_bars
from spiralis.app.timeline.keyboard import RowKeys
from spiralis.app.timeline.layout import (
    LABELS,
    Filter,
    Row,
    TimeAxis,
    bead_at,
    keys_in,
    row_at,
    rows_of,
    snap_frames,
    snapped,
    visible_rows,
)
from spiralis.app.timeline.menu import layer_menu
from spiralis.app.timeline.name_field import NameField
from spiralis.app.timeline.painting import (
    EYE_X,
    INDENT,
    RINGS_X,
    draw_key_here,
    draw_markers,
    draw_playhead,
    line_is_known,
)
from spiralis.app.timeline.row_pictures import RowPictures
from spiralis.app.timeline.thumbnails import Thumbnails
from spiralis.app.timeline.tie_drop import TieDrop
from spiralis.app.widgets.preferences import new_pace
from spiralis.app.widgets.still import Still
from spiralis.app.work.paced import Paced
from spiralis.app.work.soon import Soon
from spiralis.core.editing.edits import reordered, toggle_key
from spiralis.core.editing.grouping import in_order
from spiralis.core.editing.keys import KeyRef, fewer_keys_note, keys_moved
from spiralis.core.editing.removing import with_all_in
from spiralis.core.model import Layer

#: After so many seconds of one painting the lines that were never drawn wait for the next.
_PATIENCE = 0.01


class Rows(QWidget):
    """All rows of the composition on the time axis."""

    def __init__(self, session: Session, axis: Callable[[], TimeAxis]) -> None:
        super().__init__()
        Paced(self)
        self.session, self.axis = session, axis
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Timeline")
        self.thumbnails = Thumbnails(session, self)
        self.keyboard = RowKeys(session, self.rows, self._add_key)
        self._by_keyboard = False
        self._still, self.pictures = Still(), RowPictures(session)
        #: The frame whose playhead was painted last, as far as one knows.
        self._at = session.frame
        self._thumbnails_came = Soon(self, lambda: self.update(0, 0, LABELS, self.height()))
        self.thumbnails.made.connect(self._thumbnails_came.ask)
        self.filter = Filter()
        self._action: Callable[[QMouseEvent], None] | None = None
        self._box: tuple[QPointF, QPointF] | None = None
        self._drop: int | None = None
        self._name_field: NameField | None = None
        self.tie_drop = TieDrop(self, session, self.rows)
        for signal in (session.selectionChanged, session.keysChanged):
            signal.connect(self.update)
        session.frameChanged.connect(self._on_frame)
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.setInterval(40)
        self._later.timeout.connect(self.update)
        self._soon = Soon(self, self._resize)
        session.projectChanged.connect(self._soon.ask)
        session.compositionChanged.connect(self._resize)
        self._resize()

    def rows(self) -> list[Row]:
        """The rows as they are now."""
        return rows_of(self.session.composition, self.filter)

    def set_filter(self, chosen: Filter) -> None:
        """Show only some layers."""
        self.filter = chosen
        self._resize()

    def _resize(self) -> None:
        rows = self.rows()
        self.setMinimumHeight(int(rows[-1].top + rows[-1].height + 24) if rows else 80)
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(500, self.minimumHeight())

    # -- painting --------------------------------------------------------------------------------------

    def update(self, *region: Any) -> None:
        """Paint anew; moves of the playhead alone only show it elsewhere."""
        self._still.forget()
        super().update(*region)

    def _on_frame(self) -> None:
        """Paint where the playhead was and where it is, and the rings that tell of a key under it."""
        axis = self.axis()
        for frame in (self._at, self.session.frame):
            super().update(round(axis.x(frame)) - 2, 0, 5, self.height())
        super().update(RINGS_X - 5, 0, 10, self.height())
        self._at = self.session.frame

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        session, axis, rows = self.session, self.axis(), self.rows()
        area = self.visibleRegion().boundingRect()
        area = area if area.contains(event.rect()) else event.rect()
        visible = visible_rows(rows, area.top(), area.bottom())
        self._still.paint(painter, area, (session.project, session.composition, session.selected, session.keys), axis,
                          lambda inner: self._paint_rows(inner, visible, axis))  # fmt: skip
        for row in visible:
            draw_key_here(painter, row, session)
        if not rows:
            painter.setPen(colour(QUIET))
            painter.setFont(font(13))
            hint = "No layer is called like that." if self.session.composition.layers else ""
            hint = hint or "Add a backdrop, text or artwork above,\nor drop files anywhere in the window."
            painter.drawText(QRectF(self.rect()), Qt.AlignmentFlag.AlignCenter, hint)
        else:
            draw_playhead(painter, axis, session, self.height())
        self.tie_drop.paint(painter)
        if self.hasFocus() and self._by_keyboard:
            self.keyboard.paint(painter, self.width())
        if self._box is not None:
            painter.setPen(QPen(colour(MINT), 1))
            painter.setBrush(colour(MINT, 0.12))
            painter.drawRect(QRectF(*self._box).normalized())
        if self._drop is not None:
            places = self.session.composition.place_of
            tops = [r.top for r in rows if r.name is None and places[r.layer.id] == self._drop]
            y = tops[0] if tops else rows[-1].top + rows[-1].height
            painter.fillRect(QRectF(0, y - 1, self.width(), 2), colour(MARIGOLD))
        painter.end()

    def _paint_rows(self, painter: QPainter, rows: Sequence[Row], axis: TimeAxis) -> None:
        """Paint what stays while the playhead moves."""
        started = time.perf_counter()

        def may_draw(row: Row) -> bool:
            if row.name is None or time.perf_counter() - started < _PATIENCE or line_is_known(row, axis):
                return True
            self._later.start()
            return False

        self.pictures.paint(painter, rows, axis, self.width(), lambda row: self.thumbnails.of(row.layer), may_draw)
        if rows:
            draw_markers(painter, axis, self.session, self.height())

    # -- mouse -----------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() != Qt.MouseButton.LeftButton:
            return
        self.setFocus()
        rows, axis = self.rows(), self.axis()
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
        elif row.name is not None or not self._press_span(row, x, event):
            self._start_box(event)

    def _press_bead(self, bead: KeyRef, event: QMouseEvent) -> None:
        several = event.modifiers() & (Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
        keys = set(self.session.keys)
        if several:
            keys ^= {bead}
        elif bead not in keys:
            keys = {bead}
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
                said = ", ".join(filter(None, (f"{by:+d} frames", fewer_keys_note(before, changed))))
                QToolTip.showText(moved.globalPosition().toPoint(), said, self)

        self._action = drag

    def _press_span(self, row: Row, x: float, event: QMouseEvent) -> bool:
        """Start dragging a bar or one of its ends; False where the point is beside it."""
        how = bar_edit(row.layer, self.axis(), x, event.modifiers())
        if how is None:
            return False
        self._choose(row.layer, event)
        if not row.layer.locked:
            self._action = drag_bars(self, self.session, self.axis(), row.layer, how, x)
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
        self._choose(layer, event)
        if row.name is None and layer.gathers and 10 + INDENT * row.depth <= x < 32 + INDENT * row.depth:
            Commands(self.session).toggle_flag("folded", "Fold")
            return
        if row.name is not None:
            self._choose_track(layer, row.name, event)
            return
        start = event.position().y()

        def reorder(moved: QMouseEvent) -> None:
            if abs(moved.position().y() - start) > 6 or self._drop is not None:
                self._drop = self._index_at(moved.position().y())
                self.update()

        self._action = reorder

    def _choose_track(self, layer: Layer, name: str, event: QMouseEvent) -> None:
        """Choose all keys of a thread; with Alt those of the same property on every layer, with others added."""
        layers = [layer]
        if event.modifiers() & Qt.KeyboardModifier.AltModifier:
            layers = [other for other in self.session.composition.layers if name in other.animated()]
        keys = {KeyRef(y.id, name, key.frame) for y in layers for key in y.track(name).keys}
        if event.modifiers() & (Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier):
            keys |= self.session.keys
        self.session.select(self._layers_of(keys), keys)

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
        self.session.select(selected)

    def _start_box(self, event: QMouseEvent) -> None:
        start = event.position()

        def drag(moved: QMouseEvent) -> None:
            self._box = (start, moved.position())
            box = QRectF(start, moved.position()).normalized()
            found = keys_in(self.rows(), self.axis(), (box.left(), box.top(), box.right(), box.bottom()))
            self.session.select(self._layers_of(found), found)
            self.update()

        self.session.select(self.session.selected)
        self._action = drag

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        row = row_at(self.rows(), event.pos().y())
        if row is not None:
            if row.layer.id not in self.session.selected:
                self.session.select([row.layer.id])
            layer_menu(self, self.session, lambda: self.rename(row)).exec(event.globalPos())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._action is not None and event.buttons() & Qt.MouseButton.LeftButton:
            self._action(event)
            self.update()
        elif not event.buttons():
            self._show_cursor(event)

    def _show_cursor(self, event: QMouseEvent) -> None:
        x, y = event.position().x(), event.position().y()
        rows, axis = self.rows(), self.axis()
        row = row_at(rows, y)
        shape = Qt.CursorShape.ArrowCursor
        if x > LABELS and row is not None:
            if row.name is not None and bead_at(rows, axis, x, y) is not None:
                shape = Qt.CursorShape.PointingHandCursor
            elif row.name is None and any(abs(axis.x(f) - x) <= 7 for f in (row.layer.first, row.layer.last)):
                shape = Qt.CursorShape.SizeHorCursor
        self.setCursor(shape)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._drop is not None:
            index, ids = self._drop, self.session.selected
            self.session.edit(
                "Reorder layers", lambda piece: in_order(reordered(piece, with_all_in(piece, ids), index))
            )
        self._action, self._box, self._drop = None, None, None
        self.session.close_step()
        self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        rows, axis = self.rows(), self.axis()
        row = row_at(rows, event.position().y())
        if row is None:
            return
        x = event.position().x()
        bead = bead_at(rows, axis, x, event.position().y()) if x > LABELS - 8 else None
        if bead is not None:
            self.session.go_to(bead.frame)
        elif row.name is not None and x > LABELS:
            self._add_key(row, axis.frame(x))
        elif row.name is None and row.layer.has("composition") and (x < 34 or x > LABELS):
            self.session.go_into(row.layer)
        elif row.name is None and x < EYE_X:
            self.rename(row)

    def _add_key(self, row: Row, frame: int) -> None:
        """Add a key with the thread's own value on a frame, choose it and go there."""
        session, layer, name = self.session, row.layer, row.name
        if name is None:
            return
        if layer.track(name).index_at(frame) is None:
            label = f"Key for {layer.parameter(name).full_label}"
            session.edit_layers(label, lambda old: toggle_key(old, name, frame, new_pace()), [layer.id])
        session.select([layer.id], {KeyRef(layer.id, name, frame)})
        session.go_to(frame)

    def rename(self, row: Row) -> None:
        """Open a field over the layer's name."""
        self._action = None
        self._name_field = NameField(self, self.session, row)

    # -- keys ------------------------------------------------------------------------------------------

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if self.keyboard.press(event):
            self._by_keyboard = True
            self.update()
        else:
            super().keyPressEvent(event)

    def focusInEvent(self, event: QFocusEvent) -> None:
        self._by_keyboard = event.reason() in (Qt.FocusReason.TabFocusReason, Qt.FocusReason.BacktabFocusReason)
        super().focusInEvent(event)
