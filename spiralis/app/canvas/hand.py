"""The mouse on the canvas where no tool has it: what is grabbed, dragged, chosen."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QMouseEvent

from spiralis.app.canvas.aids import RULER, GuideDrag, guide_press
from spiralis.app.canvas.content_grips import ContentDrag, content_grip_at
from spiralis.app.canvas.group_handles import GroupDrag, group_frame
from spiralis.app.canvas.handles import Drag, MoveDrag, PivotDrag, ScaleDrag, SkewDrag, TurnDrag, frame_of
from spiralis.app.canvas.path_editing import PathDrag, grip_at
from spiralis.app.canvas.picking import layer_at
from spiralis.app.canvas.viewport import Viewport
from spiralis.app.session import Session
from spiralis.core.editing.grouping import unit_at
from spiralis.core.model import Layer, layer_kind

_SNAP = 7.0
_CURSORS = {
    "nw": Qt.CursorShape.SizeFDiagCursor, "se": Qt.CursorShape.SizeFDiagCursor,
    "ne": Qt.CursorShape.SizeBDiagCursor, "sw": Qt.CursorShape.SizeBDiagCursor,
    "n": Qt.CursorShape.SizeVerCursor, "s": Qt.CursorShape.SizeVerCursor,
    "e": Qt.CursorShape.SizeHorCursor, "w": Qt.CursorShape.SizeHorCursor,
    "turn": Qt.CursorShape.PointingHandCursor, "pivot": Qt.CursorShape.CrossCursor,
}  # fmt: skip


class Hand:
    """Chooses layers and drags what can be dragged; one drag is one step to undo."""

    def __init__(self, session: Session, viewport: Viewport) -> None:
        self.session, self.viewport = session, viewport
        self.drag: Drag | None = None
        self.guide: GuideDrag | None = None
        self._leaves: str | None = None

    def let_go(self) -> None:
        """Stop dragging; what was done so far stays."""
        self.drag = self.guide = None

    def press(self, event: QMouseEvent) -> None:
        """Grab what is under the pointer, or choose it."""
        to_widget = self.viewport.to_widget
        self.guide = guide_press(self.session, to_widget, event.position())
        if self.guide is not None:
            return
        here = self.viewport.to_composition(event.position())
        self.drag = self._grip_drag(event, here)
        if self.drag is None:
            self._press_layer(here, event)

    def _grip_drag(self, event: QMouseEvent, here: tuple[float, float]) -> Drag | None:
        """Return the drag of what can be grabbed around the chosen layers, or None."""
        to_widget, place = self.viewport.to_widget, (event.position().x(), event.position().y())
        grip = content_grip_at(self.session, to_widget, place)
        if grip is not None:
            return ContentDrag.begin(self.session, here, grip)
        group = group_frame(self.session, to_widget)
        corner = group.handle_at(place) if group is not None else None
        if group is not None and corner is not None:
            return GroupDrag.begin(self.session, here, group, corner)
        frame = frame_of(self.session, to_widget)
        handle = frame.handle_at(place) if frame is not None and not frame.layer.locked else None
        if handle is not None:
            return self._handle_drag(handle, here, bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier))
        pulling = bool(event.modifiers() & Qt.KeyboardModifier.AltModifier)
        on_path = grip_at(self.session, to_widget, place, pulling)
        return PathDrag.begin(self.session, here, on_path, pulling) if on_path is not None else None

    def _handle_drag(self, handle: str, here: tuple[float, float], control: bool) -> Drag | None:
        frame = frame_of(self.session, self.viewport.to_widget)
        if frame is None:
            return None
        if handle == "turn":
            return TurnDrag.begin(self.session, here, frame)
        if handle == "pivot":
            return PivotDrag.begin(self.session, here, frame)
        if control and len(handle) == 1:
            return SkewDrag.begin(self.session, here, frame, handle)
        return ScaleDrag.begin(self.session, here, frame, handle)

    def layer_under(self, point: QPointF) -> Layer | None:
        """Return the front layer that shows something at a point of the widget, or None."""
        return layer_at(self.session, self.viewport.to_composition(point), 3 / self.viewport.zoom)

    def choose_at(self, point: QPointF) -> None:
        """Choose what lies under a point of the widget, unless it is chosen already."""
        hit = self.layer_under(point)
        if hit is None:
            self.session.select(())
        elif (unit := self.unit(hit)).id not in self.session.selected:
            self.session.select([unit.id])

    def _press_layer(self, here: tuple[float, float], event: QMouseEvent) -> None:
        hit = self.layer_under(event.position())
        several = event.modifiers() & (Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
        if hit is None:
            if not several:
                self.session.inside = None
                self.session.select(())
            return
        hit = self.unit(hit)
        was_chosen = hit.id in self.session.selected
        if not was_chosen:
            self.session.select([*self.session.selected, hit.id] if several else [hit.id])
        # The same keys constrain a drag, so a chosen layer leaves the choice only if it was not dragged.
        self._leaves = hit.id if several and was_chosen else None
        # A backdrop moves only once it is chosen: dragging over it by accident must not shift the scene.
        if not layer_kind(hit.kind).fills_frame or was_chosen:
            self.drag = MoveDrag.begin(self.session, here)

    def unit(self, hit: Layer) -> Layer:
        """Return what a click on a layer means: its group, or what is directly in the group one works inside."""
        piece = self.session.composition
        unit = unit_at(piece, hit.id, self.session.inside)
        if self.session.inside not in piece.groups_around(unit):
            self.session.inside = None
        return piece.layer(unit)

    def move(self, event: QMouseEvent) -> bool:
        """Drag on; False where nothing is dragged."""
        point, here = event.position(), self.viewport.to_composition(event.position())
        if self.guide is not None:
            ruler = point.x() < RULER if self.guide.axis == 0 else point.y() < RULER
            self.guide.move(here[self.guide.axis], ruler)
            return True
        if self.drag is None:
            return False
        keys, start = event.modifiers(), self.drag.start
        # A click trembles; a drag begins after three pixels.
        if abs(here[0] - start[0]) + abs(here[1] - start[1]) > 3 / self.viewport.zoom or self.drag.guides:
            self._leaves = None
            shift = bool(keys & Qt.KeyboardModifier.ShiftModifier)
            control = bool(keys & Qt.KeyboardModifier.ControlModifier)
            self.drag.move(here, shift, control, _SNAP / self.viewport.zoom)
        return True

    def release(self) -> None:
        """End the drag, or what a mere click meant."""
        if self._leaves is not None:
            self.session.select([i for i in self.session.selected if i != self._leaves])
            self._leaves = None
        if self.drag is not None or self.guide is not None:
            self.let_go()
            self.session.close_step()

    def cursor_at(self, point: QPointF) -> Qt.CursorShape:
        """Return the pointer that says what a press would grab."""
        frame = frame_of(self.session, self.viewport.to_widget)
        handle = frame.handle_at((point.x(), point.y())) if frame is not None else None
        return _CURSORS[handle] if handle else Qt.CursorShape.ArrowCursor
