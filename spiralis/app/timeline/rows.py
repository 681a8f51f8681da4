"""The rows widget: paints them, and hands on what mouse and keys do."""

from __future__ import annotations

import time
from collections.abc import Callable, Sequence
from typing import Any

from PyQt6.QtCore import QEvent, QPoint, QRectF, QSize, Qt, QTimer
from PyQt6.QtGui import (
    QContextMenuEvent,
    QFocusEvent,
    QHelpEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
)
from PyQt6.QtWidgets import QToolTip, QWidget

from spiralis.app.session import Session
from spiralis.app.style import QUIET, colour, font
from spiralis.app.timeline.hand import RowHand
from spiralis.app.timeline.keyboard import RowKeys
from spiralis.app.timeline.layout import (
    LABELS,
    Filter,
    Row,
    TimeAxis,
    bead_at,
    row_at,
    rows_of,
    visible_rows,
)
from spiralis.app.timeline.marks import EYE_X, said_at, said_of_key
from spiralis.app.timeline.menu import layer_menu
from spiralis.app.timeline.name_field import NameField
from spiralis.app.timeline.painting import (
    RINGS_X,
    draw_key_here,
    draw_markers,
    draw_playhead,
    line_is_known,
)
from spiralis.app.timeline.row_pictures import RowPictures
from spiralis.app.timeline.sounding import Outlines
from spiralis.app.timeline.thumbnails import Thumbnails
from spiralis.app.timeline.tie_drop import TieDrop
from spiralis.app.widgets.preferences import new_pace
from spiralis.app.widgets.still import Still
from spiralis.app.work.paced import Paced
from spiralis.app.work.soon import Soon
from spiralis.core.editing.edits import toggle_key
from spiralis.core.editing.keys import KeyRef

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
        self.outlines = Outlines(session, self)
        self.outlines.made.connect(self.update)
        self.keyboard = RowKeys(session, self.rows, self._add_key)
        self._by_keyboard = False
        self._still, self.pictures = Still(), RowPictures(session)
        #: The frame whose playhead was painted last, as far as one knows.
        self._at = session.frame
        self._thumbnails_came = Soon(self, lambda: self.update(0, 0, LABELS, self.height()))
        self.thumbnails.made.connect(self._thumbnails_came.ask)
        self.filter = Filter()
        self.hand = RowHand(self, session, self.rows, axis)
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
        self.hand.paint(painter)
        painter.end()

    def _paint_rows(self, painter: QPainter, rows: Sequence[Row], axis: TimeAxis) -> None:
        """Paint what stays while the playhead moves."""
        started = time.perf_counter()

        def may_draw(row: Row) -> bool:
            if row.name is None or time.perf_counter() - started < _PATIENCE or line_is_known(row, axis):
                return True
            self._later.start()
            return False

        self.pictures.paint(painter, rows, axis, self.width(), lambda row: self.thumbnails.of(row.layer),
                            lambda row: self.outlines.of(row.layer), may_draw)  # fmt: skip
        if rows:
            draw_markers(painter, axis, self.session, self.height())

    # -- mouse -----------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton:
            self.setFocus()
            self.hand.press(event)

    def event(self, event: QEvent) -> bool:
        if isinstance(event, QHelpEvent):
            QToolTip.showText(event.globalPos(), self._said_at(event.pos()), self)
            return True
        return super().event(event)

    def _said_at(self, place: QPoint) -> str:
        rows = self.rows()
        row = row_at(rows, place.y())
        bead = bead_at(rows, self.axis(), place.x(), place.y()) if place.x() > LABELS - 8 else None
        if row is not None and bead is not None:
            track = row.layer.track(bead.name)
            index = track.index_at(bead.frame)
            return said_of_key(row.layer, bead.name, track.keys[index]) if index is not None else ""
        return said_at(self.session, row, place.x()) if row is not None else ""

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        row = row_at(self.rows(), event.pos().y())
        if row is not None:
            if row.layer.id not in self.session.selected:
                self.session.select([row.layer.id])
            layer_menu(self, self.session, lambda: self.rename(row)).exec(event.globalPos())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if not self.hand.move(event) and not event.buttons():
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
        self.hand.release()

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
        self.hand.let_go()
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
