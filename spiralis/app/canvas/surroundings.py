"""What lies around a drag that it may snap to, as the view options have it."""

from __future__ import annotations

from spiralis.app.canvas.sight import sight
from spiralis.app.canvas.snapping import Line, aid_lines, box_lines, frame_lines
from spiralis.app.session import Session
from spiralis.core.geometry import Box
from spiralis.core.model import layer_kind
from spiralis.core.render.extent import shown_box

_MOST = 60


def other_boxes(session: Session, moving: set[str]) -> list[Box]:
    """Return the seen boxes of layers that do not move along, front ones first; those that fill the frame are none."""
    at, piece, found = session.evaluated(), session.composition, []
    hidden = piece.kept_from_sight
    for layer in piece.layers:
        values = at.values(layer)
        out = layer.id in moving or layer.parent in moving or layer.id in hidden or layer_kind(layer.kind).fills_frame
        if out or layer_kind(layer.kind).unseen or not layer.shown_at(session.frame):
            continue
        if values["visible"] and values["opacity"] > 0:
            found.append(sight(session, layer).box(shown_box(at, layer)))
        if len(found) >= _MOST:
            break
    return found


def lines_around(session: Session, boxes: list[Box]) -> list[Line]:
    """Return the lines of frame, guides, safe area and other layers."""
    piece = session.composition
    lines = frame_lines((float(piece.width), float(piece.height)))
    aids = [line for line in aid_lines(piece) if session.view["guides" if line.label == "guide" else "safe"]]
    return lines + aids + box_lines(boxes)
