"""Everything drawn over the picture, in order, from what the canvas is doing."""

from __future__ import annotations

from PyQt6.QtGui import QPainter

from spiralis.app.canvas import painting
from spiralis.app.canvas.aids import draw_aids
from spiralis.app.canvas.choosing import BoxChoice
from spiralis.app.canvas.content_grips import content_grips, grip_layer
from spiralis.app.canvas.group_handles import group_frame
from spiralis.app.canvas.hand import Hand
from spiralis.app.canvas.handles import frame_of
from spiralis.app.canvas.path_editing import PathDrag
from spiralis.app.canvas.sight import planes_in_sight, sight
from spiralis.app.canvas.space_handles import draw_space_handles
from spiralis.app.canvas.toolbox import Toolbox
from spiralis.app.canvas.typing import Typing
from spiralis.app.canvas.viewpoint_bar import draw_cameras
from spiralis.app.session import Session
from spiralis.app.work.cached import Cached
from spiralis.core.editing.uses import missing_source
from spiralis.core.geometry import Affine
from spiralis.core.model import Layer
from spiralis.core.render.extent import own_box


def make_ready(painter: QPainter, typing: Typing, toolbox: Toolbox, hand: Hand) -> None:
    """Work out what overlays are made of and take longest, while the picture that they come with is still drawn.

    The painter is of anything as large as the canvas.
    """
    if _shows_way(typing, toolbox, hand):
        painting.draw_way(painter, hand.session, hand.viewport.to_widget)
    for layer in hand.session.layers:
        sight(hand.session, layer)


def _shows_way(typing: Typing, toolbox: Toolbox, hand: Hand) -> bool:
    free = typing.editing is None and toolbox.tool is None
    return free and (hand.drag is None or isinstance(hand.drag, PathDrag))


def paint_overlays(painter: QPainter, typing: Typing, toolbox: Toolbox, hand: Hand) -> None:
    """Draw aids, motion path, outlines, handles, caret, tool and what a drag snapped to."""
    session, viewport, tool, drag = hand.session, hand.viewport, toolbox.tool, hand.drag
    to_widget, words = viewport.to_widget, typing.editing
    draw_aids(painter, session, to_widget, viewport.widget.width(), viewport.widget.height())
    if _shows_way(typing, toolbox, hand):
        painting.draw_motion_path(painter, session, to_widget)
    draw_cameras(painter, session, to_widget)
    at = session.evaluated()
    for layer, name in _missing.of(session.project, session.composition_id, lambda: _missing_in(session)):
        if layer.shown_at(session.frame):
            painting.draw_missing(painter, to_widget @ sight(session, layer), at.box(layer), name)
    for layer in session.layers:
        painting.draw_outline(painter, to_widget @ sight(session, layer), own_box(at, layer))
        for plane, map_ in planes_in_sight(session, layer):
            painting.draw_outline(painter, to_widget @ map_, session.looked_at().box(plane), 1.0, 0.7)
    if words is not None:
        layer = session.composition.layer(words.layer_id)
        painting.draw_caret(painter, words, to_widget @ at.matrix(layer), typing.lit)
    elif tool is None:
        _paint_handles(painter, session, to_widget)
    if tool is not None:
        tool.paint(painter, to_widget)
    if drag is not None:
        size = (session.composition.width, session.composition.height)
        painting.draw_guides(painter, drag.guides, to_widget, size)
        if isinstance(drag, BoxChoice) and drag.box is not None:
            painting.draw_choice(painter, drag.box, to_widget)
        if drag.says:
            painting.draw_saying(painter, drag.says, hand.pointer)


#: Layers whose file is missing, with its name, by the project.
_missing: Cached[list[tuple[Layer, str]]] = Cached(4)


def _missing_in(session: Session) -> list[tuple[Layer, str]]:
    layers = (layer for layer in session.composition.layers if layer.ties)
    return [(layer, name) for layer in layers if (name := missing_source(session.project, layer)) is not None]


def _paint_handles(painter: QPainter, session: Session, to_widget: Affine) -> None:
    group, frame = group_frame(session, to_widget), frame_of(session, to_widget)
    if group is not None:
        painting.draw_group(painter, group)
    elif frame is not None and not frame.layer.locked:
        painting.draw_handles(painter, frame)
        draw_space_handles(painter, frame)
    if grip_layer(session) is not None:
        painting.draw_content_grips(painter, content_grips(session, to_widget))
