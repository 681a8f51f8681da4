"""A subject's selection as outlines: a mask on its picture, or a shape of its own; and outlines as a selection."""

from __future__ import annotations

import cv2
import numpy as np
from attrs import evolve

from spiralis.core.editing.combining import with_pivot_of
from spiralis.core.editing.contours import controls, point_on, segment_count
from spiralis.core.editing.edits import unused_name
from spiralis.core.editing.matting import before_with_matte
from spiralis.core.errors import ModelError
from spiralis.core.model import Composition, Layer, Track, layer_kind
from spiralis.core.model.art import Bundle, Contour, Figure, figures_in
from spiralis.core.model.kinds import is_common
from spiralis.core.model.touching import INSIDE, MOST_POINTS, Stroke
from spiralis.core.raster.vectors import art_box
from spiralis.core.render.layers import Evaluated

#: How far outlines may lie from the edge that they follow, in px of the picture, beside its longer side.
_NEAR = 1 / 2500
#: Specks below this share of the picture are no part of an outline.
_SPECK = 1 / 20_000
#: So many points stand for one curve of an outline.
_POINTS = 12


def outlines_of(alpha: np.ndarray) -> Bundle:
    """Return what an alpha, float32 (h, w), covers by half or more as one figure with holes, in the picture's pixels.

    Raises:
        ModelError: nothing is covered.
    """
    height, width = alpha.shape
    # Twice as fine, so that the edge lies where the alpha passes through one half.
    inside = cv2.resize(alpha, (2 * width, 2 * height), interpolation=cv2.INTER_LINEAR) >= 0.5
    found, _ = cv2.findContours(inside.astype(np.uint8), cv2.RETR_CCOMP, cv2.CHAIN_APPROX_NONE)
    near = max(2 * _NEAR * max(alpha.shape), 1.0)
    contours = []
    for outline in found:
        if cv2.contourArea(outline) < max(4 * _SPECK * alpha.size, 8.0):
            continue
        points = (cv2.approxPolyDP(outline, near, True)[:, 0].astype(float) + 0.5) / 2
        if len(points) > 2:
            contours.append(Contour(tuple((x, y) * 3 for x, y in points.tolist()), True))
    if not contours:
        raise ModelError("Nothing of the picture is the subject; draw the box around it, or strokes on it.")
    return Bundle((Figure(tuple(contours), (1.0, 1.0, 1.0, 1.0), "evenodd"),))


#: What an outline in front of a picture does not take over.
_OWN_LOOK = ("opacity", "content_opacity")


def _shape(at: Evaluated, layer: Layer, art: Bundle, name: str) -> Layer:
    """Return a shape layer that stands and moves as a picture layer does, with outlines in the picture's pixels."""
    kept = {n: track for n, track in layer.properties.items() if is_common(n) and n not in _OWN_LOOK and "." not in n}
    shape = Layer(name, "shape", layer.first, layer.last, parent=layer.parent)
    shape = evolve(shape, properties={**kept, "art": Track(art)})
    box = art_box(art)
    assert box is not None
    return with_pivot_of(at, layer, shape, box)


def with_selection_as_shape(at: Evaluated, layer_id: str, alpha: np.ndarray) -> tuple[Composition, str]:
    """Return the composition with a selection of a layer's picture as a shape in front of it, and its id."""
    piece, layer = at.composition, at.composition.layer(layer_id)
    name = unused_name(f"{layer.name} outline", {other.name for other in piece.layers})
    shape = _shape(at, layer, outlines_of(alpha), name)
    place = piece.place_of[layer_id]
    return evolve(piece, layers=(*piece.layers[:place], shape, *piece.layers[place:])), shape.id


def with_selection_as_mask(at: Evaluated, layer_id: str, alpha: np.ndarray) -> tuple[Composition, str]:
    """Return the composition where a selection of a layer's picture masks the layer, and the mask's id."""
    piece, layer = at.composition, at.composition.layer(layer_id)
    art = outlines_of(alpha)
    left, top, right, bottom = art_box(art) or (0.0, 0.0, 1.0, 1.0)
    name = unused_name(f"{layer.name} mask", {other.name for other in piece.layers})
    mask = Layer(name, "shape", layer.first, layer.last, parent=layer_id)
    mask = mask.with_values(art=art, position=((left + right) / 2, (top + bottom) / 2))
    return before_with_matte(piece, layer, mask), mask.id


def outline_strokes(at: Evaluated, layer: Layer, shape: Layer) -> tuple[Stroke, ...]:
    """Return a shape layer's outlines as strokes around a subject, in the pixels of another layer's picture.

    Raises:
        ModelError: the layer draws no outlines, or the picture is seen from its edge.
    """
    kind, inverse = layer_kind(shape.kind), at.matrix(layer).inverse()
    if kind.outlines is None or inverse is None:
        raise ModelError(f"“{shape.name}” has no outlines; choose a shape that was drawn, with the pen say.")
    art = kind.outlines(at.values(shape), at.scene)
    strokes = []
    for _, figure, to_shape in figures_in(art):
        to_picture = inverse @ at.matrix(shape) @ to_shape
        for contour in figure.contours:
            each = max(min(_POINTS, MOST_POINTS // max(segment_count(contour), 1)), 1)
            points = [
                to_picture.apply(*point_on(controls(contour, segment), step / each))
                for segment in range(segment_count(contour)) for step in range(each)
            ][:MOST_POINTS]  # fmt: skip
            if len(points) > 2:
                strokes.append(Stroke(INSIDE, 1.0, tuple(points)))
    if not strokes:
        raise ModelError(f"“{shape.name}” has no outlines; choose a shape that was drawn, with the pen say.")
    return tuple(strokes)
