"""Which layer lies under a point."""

from __future__ import annotations

from collections.abc import Iterator

from spiralis.app.canvas.sight import distance_to, edge_on, sight
from spiralis.app.session import Session
from spiralis.core.editing.locking import locked_in
from spiralis.core.geometry import Map
from spiralis.core.model import Layer, layer_kind
from spiralis.core.raster.raster import Raster
from spiralis.core.render.extent import shown_box
from spiralis.core.render.layers import Evaluated
from spiralis.core.render.solids import planes_of
from spiralis.core.render.space import by_distance, seen

#: How near to a layer that is seen from its edge a click means it, in composition pixels.
_NEAR_EDGE = 8.0


def layer_at(session: Session, point: tuple[float, float], reach: float) -> Layer | None:
    """Return the front layer that shows something within ``reach`` of a point in composition pixels."""
    return next(layers_at(session, point, reach), None)


def layers_at(session: Session, point: tuple[float, float], reach: float) -> Iterator[Layer]:
    """Yield the layers that show something within ``reach`` of a point in composition pixels, the front one first.

    Locked, hidden and fully transparent layers are passed over.
    """
    at = session.evaluated()
    # A matte lies unseen in front of what it cuts: a click means that, unless the matte is chosen already.
    piece = session.composition
    unseen = piece.kept_from_sight - set(session.selected)
    locked = locked_in(piece)
    # The front one is the nearest to where one looks from.
    for layer in reversed(by_distance(session.looked_at(), tuple(reversed(piece.layers)))):
        if layer.id in unseen or layer.id in locked or layer.gathers:
            continue
        if is_shown(at, layer) and _shows(session, at, layer, point, reach):
            yield layer


def _met(map_: Map, point: tuple[float, float]) -> tuple[float, float] | None:
    """Return what of a layer is seen at a point, in its units; None where it is seen from its edge or lies behind the
    eye."""
    inverse = map_.inverse()
    try:
        return inverse.apply(*point) if inverse is not None else None
    except ValueError:
        return None


def _within(session: Session, plane: Layer, point: tuple[float, float]) -> bool:
    """Whether a plane of a box is seen at a point."""
    at = session.looked_at()
    met = _met(seen(at, plane), point)
    left, top, right, bottom = at.box(plane)
    return met is not None and left <= met[0] <= right and top <= met[1] <= bottom


def is_shown(at: Evaluated, layer: Layer) -> bool:
    """Whether a layer and all groups around it show at this moment."""
    piece = at.composition
    return all(_is_on(at, piece.layer(i)) for i in (layer.id, *piece.groups_around(layer.id)))


def _is_on(at: Evaluated, layer: Layer) -> bool:
    values = at.values(layer)
    return layer.shown_at(at.frame) and values["visible"] and values["opacity"] > 0


def _shows(session: Session, at: Evaluated, layer: Layer, point: tuple[float, float], reach: float) -> bool:
    planes = planes_of(session.looked_at(), layer)
    if planes:
        return any(_within(session, plane, point) for plane in planes)
    line = edge_on(session, layer)
    if line is not None:
        return distance_to(line, point) <= max(reach, _NEAR_EDGE)
    matrix, met = at.matrix(layer), _met(sight(session, layer), point)
    if met is None:
        return False
    x, y = met
    # What is drawn is looked up where the layer would lie flat.
    point = matrix.apply(x, y)
    left, top, right, bottom = shown_box(at, layer)
    kind = layer_kind(layer.kind)
    if (layer.has("text") and not at.values(layer)["path_layer"]) or kind.placements is not None or kind.sees:
        # Words are caught by their box: nobody aims at the stem of a letter.
        return left <= x <= right and top <= y <= bottom
    clip = (point[0] - reach, point[1] - reach, point[0] + reach, point[1] + reach)
    drawing = at.drawing(layer, matrix, clip)
    if not isinstance(drawing, Raster):
        return drawing is not None and left <= x <= right and top <= y <= bottom
    to_pixels = drawing.to_layer.inverse()
    if to_pixels is None:
        return False
    column, row = (int(v) for v in to_pixels.apply(x, y))
    height, width = drawing.data.shape[:2]
    near = drawing.data[max(row - 1, 0) : row + 2, max(column - 1, 0) : column + 2, 3]
    return 0 <= row < height and 0 <= column < width and bool(near.max(initial=0) > 8)
