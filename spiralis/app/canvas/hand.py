"""The mouse on the canvas where no tool has it: what is grabbed, dragged, chosen."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QMouseEvent

from spiralis.app.canvas.aids import RULER, GuideDrag, guide_press
from spiralis.app.canvas.choosing import BoxChoice
from spiralis.app.canvas.content_grips import ContentDrag, content_grip_at
from spiralis.app.canvas.group_handles import GroupDrag, group_frame
from spiralis.app.canvas.handles import Drag, MoveDrag, PivotDrag, ScaleDrag, SkewDrag, TurnDrag, frame_of
from spiralis.app.canvas.path_editing import PathDrag, grip_at
from spiralis.app.canvas.picking import layer_at, layers_at
from spiralis.app.canvas.resizing import ResizeDrag
from spiralis.app.canvas.space_handles import SpaceDrag, space_handle_at
from spiralis.app.canvas.viewport import Viewport
from spiralis.app.session import Session
from spiralis.core.editing.duplicating import duplicated
from spiralis.core.editing.grouping import unit_at
from spiralis.core.model import Composition, Layer, layer_kind

SNAP = 7.0
#: Clicks so near to each other, in px, are at the same place.
_SAME_PLACE = 6.0
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
        #: Where the pointer is, in the widget.
        self.pointer = QPointF()
        #: What a mere click means that turns out to be no drag.
        self._click: Callable[[], object] | None = None
        #: Where the last click was that chose something: another one there goes on to what lies beneath.
        self._clicked: QPointF | None = None
        self._copies = False
        #: Called before something is dragged on, with the frame at which it was grabbed.
        self.dragging: Callable[[int], None] = lambda frame: None
        self._frame = 0
        #: Called with the layers that lie at a point, to let one be chosen from a list.
        self.lister: Callable[[list[Layer]], None] = lambda layers: None

    def let_go(self) -> None:
        """Stop dragging; what was done so far stays."""
        self.drag = self.guide = self._click = None
        self._copies = False
        self.session.gesture.end()

    def press(self, event: QMouseEvent) -> None:
        """Grab what is under the pointer, or choose it."""
        self.session.gesture.begin(self.let_go)
        self.pointer, self._click, self._copies = event.position(), None, False
        self._frame = self.session.frame
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
            slants = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
            return GroupDrag.begin(self.session, here, group, corner, slants)
        frame = frame_of(self.session, to_widget)
        in_depth = space_handle_at(frame, place) if frame is not None else None
        if frame is not None and in_depth is not None:
            return SpaceDrag.begin(self.session, here, frame, in_depth, to_widget)
        handle = frame.handle_at(place) if frame is not None and not frame.layer.locked else None
        alt = bool(event.modifiers() & Qt.KeyboardModifier.AltModifier)
        if handle is not None:
            control = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
            return self._handle_drag(handle, here, control, alt)
        on_path = grip_at(self.session, to_widget, place, alt)
        return PathDrag.begin(self.session, here, on_path, alt) if on_path is not None else None

    def _handle_drag(self, handle: str, here: tuple[float, float], control: bool, alt: bool) -> Drag | None:
        frame = frame_of(self.session, self.viewport.to_widget)
        if frame is None:
            return None
        if handle == "turn":
            return TurnDrag.begin(self.session, here, frame)
        if handle == "pivot":
            return PivotDrag.begin(self.session, here, frame)
        if control and len(handle) == 1:
            return SkewDrag.begin(self.session, here, frame, handle)
        # What has a size of its own is resized; with Alt it is scaled with all that is in it, as everything else is.
        by_size = None if alt else ResizeDrag.begin(self.session, here, frame, handle)
        return by_size or ScaleDrag.begin(self.session, here, frame, handle)

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
        keys = event.modifiers()
        several = bool(keys & (Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier))
        front = self.layer_under(event.position())
        hit = self.unit(front) if front is not None else None
        if hit is None or (layer_kind(hit.kind).fills_frame and hit.id not in self.session.selected):
            # A ground moves only once it is chosen: dragging over it by accident must not shift the scene.
            self._press_ground(hit, here, several)
        elif keys & Qt.KeyboardModifier.AltModifier:
            self._press_to_copy(hit, here)
        elif hit.id in self.session.selected:
            self.drag = MoveDrag.begin(self.session, here)
            # The same keys constrain a drag, so a chosen layer leaves the choice only if it was not dragged.
            self._click = (lambda: self._leave(hit.id)) if several else (lambda: self._go_deeper(hit))
        elif not several and self._chosen_lies_at(here):
            # What is chosen can be dragged although another layer covers it; a mere click takes that one.
            self.drag = MoveDrag.begin(self.session, here)
            self._click = lambda: self._go_deeper(hit)
        else:
            self.session.select([*self.session.selected, hit.id] if several else [hit.id])
            self.drag = MoveDrag.begin(self.session, here)
            self._click = lambda: None

    def _press_ground(self, ground: Layer | None, here: tuple[float, float], several: bool) -> None:
        """A drag over empty space or a ground chooses by a box; a click means the ground, or nothing."""

        def click() -> None:
            if ground is not None:
                self.session.select([*self.session.selected, ground.id] if several else [ground.id])
            elif not several:
                self.session.inside = None
                self.session.select(())

        if not several and self._chosen_lies_at(here):
            self.drag = MoveDrag.begin(self.session, here)
        else:
            self.drag = BoxChoice.begin(self.session, here, several)
        self._click = click

    def _press_to_copy(self, hit: Layer, here: tuple[float, float]) -> None:
        """With Alt a drag takes a copy along, and a click lists what lies at the point."""
        if hit.id not in self.session.selected:
            self.session.select([hit.id])
        self._copies = True
        self.drag = MoveDrag.begin(self.session, here)
        self._click = lambda: self.lister(self.units_at(here))

    def units_at(self, here: tuple[float, float]) -> list[Layer]:
        """Return all that shows at a point of the composition, each group once, the front one first."""
        return [self.session.composition.layer(name) for name in dict.fromkeys(self._names_at(here))]

    def _names_at(self, here: tuple[float, float]) -> Iterator[str]:
        piece, inside = self.session.composition, self.session.inside
        return (unit_at(piece, layer.id, inside) for layer in layers_at(self.session, here, 3 / self.viewport.zoom))

    def _chosen_lies_at(self, here: tuple[float, float]) -> bool:
        """Whether something chosen shows at a point, a ground apart; what lies beneath it is not looked at any more."""
        movable = {layer.id for layer in self.session.layers if not layer_kind(layer.kind).fills_frame}
        return bool(movable) and any(name in movable for name in self._names_at(here))

    def _leave(self, layer_id: str) -> None:
        self.session.select([i for i in self.session.selected if i != layer_id])

    def _go_deeper(self, hit: Layer) -> None:
        """A click where the last one was means what lies beneath what is chosen, any other the layer it hit."""
        last = self._clicked
        if last is None or (self.pointer - last).manhattanLength() > _SAME_PLACE:
            self.session.select([hit.id])
            return
        stack = [layer.id for layer in self.units_at(self.viewport.to_composition(self.pointer))]
        chosen = [place for place, name in enumerate(stack) if name in self.session.selected]
        if chosen and len(stack) > 1:
            self.session.select([stack[(chosen[-1] + 1) % len(stack)]])

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
        self.pointer = point
        keys, start = event.modifiers(), self.drag.start
        # A click trembles; a drag begins after three pixels.
        far = abs(here[0] - start[0]) + abs(here[1] - start[1]) > 3 / self.viewport.zoom
        if far or self._click is None or self.drag.guides:
            if not isinstance(self.drag, BoxChoice):
                self.dragging(self._frame)
            if self._copies:
                self._copies = False
                self._take_copies()
            self._click = None
            shift = bool(keys & Qt.KeyboardModifier.ShiftModifier)
            control = bool(keys & Qt.KeyboardModifier.ControlModifier)
            self.drag.move(here, shift, control, SNAP / self.viewport.zoom)
        return True

    def pass_by(self, event: QMouseEvent) -> None:
        """Take note of a move that is not followed by itself, as a newer one will be."""
        if self.drag is not None:
            self.drag.pass_by(self.viewport.to_composition(event.position()))

    def _take_copies(self) -> None:
        """Let the drag move copies of what is chosen; copy and move are one step to undo."""
        session, drag, made = self.session, self.drag, []
        if drag is None:
            return

        def change(piece: Composition) -> Composition:
            changed, ids = duplicated(piece, session.selected)
            made.extend(ids)
            return changed

        if session.edit("Drag a copy", change, merge=drag.merge):
            session.select(made)
            merge, self.drag = drag.merge, MoveDrag.begin(session, drag.start)
            self.drag.merge = merge

    def release(self) -> None:
        """End the drag, or what a mere click meant."""
        click, drags = self._click, self.drag is not None or self.guide is not None
        self.let_go()
        if click is not None:
            click()
            self._clicked = self.pointer
        elif drags:
            self._clicked = None
        if drags:
            self.session.close_step()

    def cursor_at(self, point: QPointF) -> Qt.CursorShape:
        """Return the pointer that says what a press would grab."""
        frame = frame_of(self.session, self.viewport.to_widget)
        handle = frame.handle_at((point.x(), point.y())) if frame is not None else None
        return _CURSORS[handle] if handle else Qt.CursorShape.ArrowCursor
