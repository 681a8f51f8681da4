"""Let copies stand, and layers go, along the outline of a shape."""

from __future__ import annotations

from collections.abc import Sequence

from attrs import evolve

from spiralis.core.animation.easing import LINEAR
from spiralis.core.errors import ModelError
from spiralis.core.geometry import Affine
from spiralis.core.model import Composition, EdgePin, Key, Layer, Track
from spiralis.core.model.art import Bundle, Figure
from spiralis.core.model.edge_pins import LINE_ENDS, OWN_ACROSS, OWN_DOWN
from spiralis.core.render.along_lines import DRAWN, MOVED, has_line
from spiralis.core.render.layers import Evaluated
from spiralis.core.render.live_paths import first_outline


def copies_along(at: Evaluated, copies: Layer, shape: Layer) -> Layer:
    """Return the copies standing along a shape's first outline as it is seen now.

    Raises:
        ModelError: the shape has no outline to stand along.
    """
    contour = first_outline(at, shape)
    if contour is None:
        raise ModelError(f"“{shape.name}” has no outline that copies could stand along.")
    inverse = at.matrix(copies).inverse() or Affine()
    return copies.with_values(layout="path", along=Bundle((Figure((contour.mapped(inverse).rounded(),)),)))


def path_among(layers: Sequence[Layer], chosen_last: str) -> Layer | None:
    """Return the layer that others are to go along: the only shape, the only one that is but a line, or else the shape
    that was chosen last; None where that is none."""
    shapes = [layer for layer in layers if has_line(layer)]
    lines = [layer for layer in shapes if _is_line(layer)]
    for found in (shapes, lines):
        if len(found) == 1:
            return found[0]
    return next((layer for layer in shapes if layer.id == chosen_last), None)


def _is_line(shape: Layer) -> bool:
    """Whether a shape shows nothing but a line, as far as its own numbers say."""
    return bool(shape.track("form").value == "line" or shape.track("fill").value[3] == 0)


def going_along(at: Evaluated, layers: Sequence[Layer], shape: Layer) -> Composition:
    """Return the piece with layers that go along a shape's first outline, by their pivots, wherever that is.

    Where a part of the line is drawn over time they go with its end; else the line's offset gets keys from 0 to 100 %
    over the play span, which changes nothing about a line that is drawn whole. Several go evenly spaced.

    Raises:
        ModelError: the shape has no outline to go along, or hangs on one of the layers.
    """
    piece = at.composition
    if first_outline(at, shape) is None:
        raise ModelError(f"“{shape.name}” has no outline that something could go along.")
    moving = set(shape.shown_tracks())
    end = LINE_ENDS[0] if DRAWN[1] in moving and MOVED not in moving else LINE_ENDS[1]
    if not moving & {*DRAWN, MOVED}:
        first, last = piece.span
        keys = (Key(first, 0.0, LINEAR), Key(last, 100.0))
        piece = piece.with_layer(shape.with_track(MOVED, Track(0.0, keys)))
    for number, layer in enumerate(layers):
        along = 0.0 - 100.0 * number / len(layers) if end == LINE_ENDS[1] else 0.0
        pins = (EdgePin(edge, end, shape.id, along=along) for edge in (OWN_ACROSS[-1], OWN_DOWN[-1]))
        piece = piece.with_layer(evolve(piece.layer(layer.id), edge_pins=tuple(pins)))
    return piece
