"""Pin a layer to four places of the frame: the places become the corners of its corner pin."""

from __future__ import annotations

import math
from collections.abc import Sequence

from spiralis.core.editing.edits import set_value
from spiralis.core.editing.effecting import with_effect
from spiralis.core.effects.corner_pin import CORNERS, NAME
from spiralis.core.errors import ModelError
from spiralis.core.geometry import Projection, percent_in
from spiralis.core.model import Layer
from spiralis.core.model.blocks import Block
from spiralis.core.render.layers import Evaluated

Point = tuple[float, float]


def in_order(points: Sequence[Point]) -> tuple[Point, ...]:
    """Return four points clockwise as seen, the one nearest to the top left of all first."""
    x, y = (sum(part) / len(points) for part in zip(*points, strict=True))
    around = sorted(points, key=lambda point: math.atan2(point[1] - y, point[0] - x))
    left, top = min(px for px, _ in points), min(py for _, py in points)
    first = min(range(len(around)), key=lambda index: math.dist(around[index], (left, top)))
    return tuple(around[first:] + around[:first])


def pin_of(layer: Layer) -> Block | None:
    """Return the last corner pin of a layer, or None."""
    return next((block for block in reversed(layer.blocks) if block.kind == NAME), None)


def pinned_to(at: Evaluated, layer: Layer, points: Sequence[Point]) -> Layer:
    """Return a layer whose corners lie on four points of the frame at a moment, in any order.

    A corner pin that it has already takes them, with a key where its corners have keys.

    Raises:
        ModelError: the points are no corners of a four-sided outline, or the layer has no size.
    """
    box, inverse = at.box(layer), at.matrix(layer).inverse()
    ordered = in_order(points)
    if inverse is None or box[2] - box[0] < 1e-3 or box[3] - box[1] < 1e-3:
        raise ModelError(f"“{layer.name}” has no size on this frame, so nothing of it can be pinned.")
    if Projection.pinning(box, ordered) is None:
        raise ModelError("Those four places are no corners of one surface; choose four that stand around it.")
    block = pin_of(layer)
    if block is None:
        layer = with_effect(layer, NAME)
        block = layer.blocks[-1]
    for (name, _, _), point in zip(CORNERS, ordered, strict=True):
        share = percent_in(box, inverse.apply(*point), 3)
        layer = set_value(layer, block.named(name), share, round(at.frame))
    return layer
