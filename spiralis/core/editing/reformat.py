"""Change a composition's format and keep its layers where they are about the middle."""

from __future__ import annotations

from fractions import Fraction

from attrs import evolve

from spiralis.core.editing.edits import with_length
from spiralis.core.model.layer import Layer
from spiralis.core.model.project import Composition


def reformatted(piece: Composition, width: int, height: int, rate: Fraction, length: int) -> Composition:
    """Return the composition in another format. Layers without a parent move with the middle of the frame.

    Raises:
        ModelError: the format is outside the limits.
    """
    dx, dy = (width - piece.width) / 2, (height - piece.height) / 2
    layers = piece.layers
    if dx or dy:
        layers = tuple(layer if layer.parent else _shifted(layer, dx, dy) for layer in layers)
    changed = (
        with_length(evolve(piece, layers=layers), length) if length != piece.length else evolve(piece, layers=layers)
    )
    return evolve(changed, width=width, height=height, rate=rate)


def _shifted(layer: Layer, dx: float, dy: float) -> Layer:
    track = layer.track("position")
    keys = tuple(evolve(key, value=(key.value[0] + dx, key.value[1] + dy)) for key in track.keys)
    moved = evolve(track, value=(track.value[0] + dx, track.value[1] + dy), keys=keys)
    return layer.with_track("position", moved)
