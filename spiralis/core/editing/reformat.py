"""Change a composition's format and keep its layers where they are about the middle."""

from __future__ import annotations

from fractions import Fraction

from attrs import evolve

from spiralis.core.editing.edits import shifted, with_length
from spiralis.core.model.project import Composition


def reformatted(piece: Composition, width: int, height: int, rate: Fraction, length: int) -> Composition:
    """Return the composition in another format. Layers without a parent move with the middle of the frame.

    Raises:
        ModelError: the format is outside the limits.
    """
    dx, dy = (width - piece.width) / 2, (height - piece.height) / 2
    layers = piece.layers
    if dx or dy:
        layers = tuple(layer if layer.parent else shifted(layer, dx, dy) for layer in layers)
    changed = (
        with_length(evolve(piece, layers=layers), length) if length != piece.length else evolve(piece, layers=layers)
    )
    return evolve(changed, width=width, height=height, rate=rate)
