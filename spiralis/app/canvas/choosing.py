"""Choosing on the canvas: by a box dragged over empty space, among what lies at one point, by walking through all."""

from __future__ import annotations

from attrs import define, field
from PyQt6.QtWidgets import QMenu, QWidget

from spiralis.app.canvas.handles import Drag, Point
from spiralis.app.canvas.picking import is_shown
from spiralis.app.canvas.sight import sight
from spiralis.app.session import Session
from spiralis.app.widgets.passing_menu import PassingMenu
from spiralis.core.editing.grouping import unit_at
from spiralis.core.editing.locking import locked_in
from spiralis.core.geometry import Box, box_around
from spiralis.core.model import Layer, layer_kind
from spiralis.core.render.extent import shown_box


@define
class BoxChoice(Drag):
    """Chooses what the box touches, beside what was chosen before where ``kept`` says so."""

    kept: tuple[str, ...] = ()
    boxes: dict[str, Box] = field(factory=dict)
    #: The box as it is now, in the composition's pixels.
    box: Box | None = None

    @staticmethod
    def begin(session: Session, start: Point, adds: bool) -> BoxChoice:
        """Remember where everything lies."""
        at, piece = session.evaluated(), session.composition
        locked, boxes = locked_in(piece), dict[str, Box]()
        for layer in piece.layers:
            kind = layer_kind(layer.kind)
            skipped = kind.fills_frame or kind.gathers or kind.unseen
            if layer.id not in locked and not skipped and is_shown(at, layer):
                unit = unit_at(piece, layer.id, session.inside)
                box = sight(session, layer).box(shown_box(at, layer))
                boxes[unit] = box_around([box, boxes.get(unit, box)])
        return BoxChoice(session, start, kept=session.selected if adds else (), boxes=boxes)

    def move(self, point: Point, shift: bool, control: bool, reach: float) -> None:
        """Draw the box on to a point, and choose what it touches."""
        (x0, x1), (y0, y1) = (sorted(pair) for pair in zip(self.start, point, strict=True))
        self.box = (x0, y0, x1, y1)
        touched = [
            name for name, (left, top, right, bottom) in self.boxes.items()
            if left <= x1 and right >= x0 and top <= y1 and bottom >= y0
        ]  # fmt: skip
        chosen = list(dict.fromkeys((*self.kept, *touched)))
        if tuple(chosen) != self.session.selected:
            self.session.select(chosen)


def menu_of(parent: QWidget, session: Session, layers: list[Layer]) -> QMenu:
    """Return a menu of layers to choose from, the front one first."""
    menu = PassingMenu(parent)
    for layer in layers:
        action = menu.addAction(layer.name, lambda chosen=layer.id: session.select([chosen]))
        action.setCheckable(True)
        action.setChecked(layer.id in session.selected)
    return menu


def walk(session: Session, forwards: bool) -> bool:
    """Choose the next layer from the front to the back, or the one before; False at the end."""
    ids = [layer.id for layer in session.composition.layers]
    chosen = [place for place, name in enumerate(ids) if name in session.selected]
    if not chosen:
        place = 0 if forwards else len(ids) - 1
    else:
        place = chosen[-1] + 1 if forwards else chosen[0] - 1
    if not 0 <= place < len(ids):
        return False
    session.select([ids[place]])
    return True
