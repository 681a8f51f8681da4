"""Dragging the bars of layers: all chosen ones move and are trimmed together, and snap."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QMouseEvent
from PyQt6.QtWidgets import QToolTip, QWidget

from spiralis.app.session import Session
from spiralis.app.timeline.layout import TimeAxis, snap_frames, snapped
from spiralis.core.editing.spans import BarEdit, bars_edited, slips
from spiralis.core.model import Layer

#: How near the pointer must be to an end of a bar to grab it, in px.
REACH = 7


def bar_edit(layer: Layer, axis: TimeAxis, x: float, modifiers: Qt.KeyboardModifier) -> BarEdit | None:
    """Return what a press at ``x`` on the row of a layer would do to its bar; None beside the bar."""
    left, right = axis.x(layer.first), axis.x(layer.last)
    if not left - 5 <= x <= right + 5:
        return None
    if abs(x - left) <= REACH:
        return BarEdit.BEGIN
    if abs(x - right) <= REACH:
        return BarEdit.END
    if modifiers & Qt.KeyboardModifier.AltModifier and slips(layer):
        return BarEdit.SLIP
    return BarEdit.MOVE_ALONE if modifiers & Qt.KeyboardModifier.ControlModifier else BarEdit.MOVE


def drag_bars(
    widget: QWidget, session: Session, axis: TimeAxis, grabbed: Layer, how: BarEdit, x: float
) -> Callable[[QMouseEvent], None]:
    """Return what is done with each movement of the mouse after a bar was grabbed at ``x``.

    Where the bar is one of several chosen ones, all of them go along. An end that is dragged, or the nearer end of a
    bar that is moved, snaps to other bars and keys, the playhead, markers and ends; Ctrl held on the way lets go of
    that.
    """
    before = session.composition
    ids = session.selected if grabbed.id in session.selected else (grabbed.id,)
    merge = f"span-{session.version}"
    going = {*ids, *(y.id for i in ids if before.layer(i).gathers for y in before.descendants(i))}
    marks = snap_frames(before, session.frame, leaving=going)
    ends = {BarEdit.BEGIN: [grabbed.first], BarEdit.END: [grabbed.last], BarEdit.SLIP: []}.get(
        how, [grabbed.first, grabbed.last]
    )
    several = "" if len(ids) == 1 else f"{len(ids)} layers"
    name = {
        BarEdit.SLIP: f"Slip {several or grabbed.name}",
        BarEdit.BEGIN: f"Trim {several or grabbed.name}",
        BarEdit.END: f"Trim {several or grabbed.name}",
    }.get(how, f"Move {several or grabbed.name} in time")

    def drag(moved: QMouseEvent) -> None:
        way = (moved.position().x() - x) / axis.per_frame
        by = round(way)
        if not moved.modifiers() & Qt.KeyboardModifier.ControlModifier:
            snaps = [at for end in ends if (at := snapped(end + way, marks, axis) - end) + end in marks]
            by = min(snaps, key=lambda at: abs(at - way), default=by)
        session.edit(name, lambda _: bars_edited(before, ids, how, by), merge=merge)
        QToolTip.showText(moved.globalPosition().toPoint(), f"{by:+d} frames", widget)

    return drag
