"""How large what layers show is when it is drawn: strokes, copies, letters that fly and blur of movement with it."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from spiralis.core.cache import Beside
from spiralis.core.geometry import Affine, Box, box_around, boxes_under, cropped, intersect, rounded_out
from spiralis.core.model import Layer, layer_kind
from spiralis.core.render.building import Builder
from spiralis.core.render.layers import Evaluated, pivot_point
from spiralis.core.render.nodes import Node

#: The longer side of the grid on which that is looked at, in pixels.
_GRID = 540.0
#: Copies that come later are looked at so many different times.
_MOMENTS = 6
_boxes: Beside[dict[str, Box]] = Beside(dict)
_WHOLE = ((0.0, 0.0), (0.0, 0.0))
#: From this opacity on a pixel is seen.
_SEEN = 1 / 512


def drawn_box(at: Evaluated, layers: Sequence[Layer]) -> Box | None:
    """Return a box, in the composition's pixels, around all that some layers show within its frame; None for nothing.

    It is exact to a pixel of a coarse grid.
    """
    piece = at.composition
    scale = min(1.0, _GRID / max(piece.width, piece.height))
    to_grid = Affine.scaling(scale, scale)
    frame = (0.0, 0.0, piece.width * scale, piece.height * scale)
    builder = Builder(at, to_grid, frame)
    seen = _box_of(builder.standing(at, to_grid, layers), frame)
    return (seen[0] / scale, seen[1] / scale, seen[2] / scale, seen[3] / scale) if seen is not None else None


def around_shown(at: Evaluated, layers: Sequence[Layer]) -> Box | None:
    """Return the box around the content of some layers and what they show beyond it, in the composition's pixels."""
    boxes = [at.matrix(layer).box(shown_box(at, layer)) for layer in layers if not layer_kind(layer.kind).unseen]
    if not boxes:
        return None
    held, drawn = box_around(boxes), drawn_box(at, layers)
    return widened(held, beyond(at, held, drawn))


def widened(box: Box, sides: Sequence[float]) -> Box:
    """Return a box that reaches so much further at its left, top, right and bottom."""
    return box[0] - sides[0], box[1] - sides[1], box[2] + sides[2], box[3] + sides[3]


def beyond(at: Evaluated, held: Box, drawn: Box | None) -> Box:
    """Return how far what is drawn reaches over the sides of a box, 0 where that may be the coarse grid alone."""
    if drawn is None:
        return (0.0, 0.0, 0.0, 0.0)
    least = max(1.0, max(at.composition.width, at.composition.height) / _GRID)
    over = (held[0] - drawn[0], held[1] - drawn[1], drawn[2] - held[2], drawn[3] - held[3])
    left, top, right, bottom = (side if side > least else 0.0 for side in over)
    return left, top, right, bottom


def own_box(at: Evaluated, layer: Layer) -> Box:
    """Return the box, in a layer's own units, that one sees and grabs it by: around all copies where it shows such,
    that of its content elsewhere."""
    if layer_kind(layer.kind).placements is None:
        return at.box(layer)
    known = _boxes.of(at)
    if layer.id not in known:
        # Copies may show copies, but not themselves.
        known[layer.id] = at.box(layer)
        known[layer.id] = _around_copies(at, layer) or at.box(layer)
    return known[layer.id]


def shown_box(at: Evaluated, layer: Layer) -> Box:
    """Return what a layer's crop leaves of its box, in its own units."""
    values, own = at.values(layer), own_box(at, layer)
    crop = (values["crop_across"], values["crop_down"])
    if crop == _WHOLE:
        return own
    # A crop is a part of the content's box.
    return intersect(own, cropped(at.box(layer), *crop)) or own


def _around_copies(at: Evaluated, layer: Layer) -> Box | None:
    """Return the box around copies in their layer's units; of those that come later, at a few of their moments."""
    piece, values, kind = at.composition, at.values(layer), layer_kind(layer.kind)
    source = piece.find(values["of"])
    if source is None or kind.placements is None:
        return None
    copies = kind.placements(values)
    shown = [y for y in (source, *piece.shown_on(source.id)) if not layer_kind(y.kind).unseen and not y.gathers]
    if not shown or not len(copies):
        return None
    first = at.at_frame(0.0)
    x, y = first.matrix(source).apply(*pivot_point(first.values(source), first.box(source)))
    late = np.unique(copies.late)
    boxes = []
    for by in late[np.linspace(0, len(late) - 1, min(len(late), _MOMENTS)).astype(int)].tolist():
        frame = at.frame - by
        then = at.at_frame(frame % piece.length if piece.loop else min(max(frame, 0.0), piece.length - 1.0))
        boxes += [then.matrix(each).box(own_box(then, each)) for each in shown]
    left, top, right, bottom = box_around(boxes)
    placed = boxes_under(copies.matrices, np.array([(left - x, top - y, right - x, bottom - y)]))
    low, high = placed[:, :2].min(axis=0), placed[:, 2:].max(axis=0)
    return float(low[0]), float(low[1]), float(high[0]), float(high[1])


def _box_of(node: Node, frame: Box) -> Box | None:
    picture = node.drawn_in(rounded_out(frame))
    if picture is None:
        return None
    seen = picture.data[..., 3] > _SEEN
    rows, columns = np.flatnonzero(seen.any(axis=1)), np.flatnonzero(seen.any(axis=0))
    if not len(rows):
        return None
    return picture.to_layer.box((float(columns[0]), float(rows[0]), columns[-1] + 1.0, rows[-1] + 1.0))
