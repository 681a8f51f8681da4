"""Let copies stand along the outline of a shape."""

from __future__ import annotations

from spiralis.core.errors import ModelError
from spiralis.core.geometry import Affine
from spiralis.core.model import Layer
from spiralis.core.model.art import Bundle, Figure
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
