"""Hang a layer on another one without moving it."""

from __future__ import annotations

import math

from attrs import evolve

from spiralis.core.geometry import Affine
from spiralis.core.model import Layer
from spiralis.core.render.layers import Evaluated, pivot_point


def with_parent(at: Evaluated, layer: Layer, parent_id: str | None) -> Layer:
    """Return the layer with another parent, placed so that it looks the same at ``at``'s frame.

    Properties with keys keep their keys, which from then on count in the new parent's space. A parent that
    is stretched unevenly and turned can only be matched up to a skew, which is set too.
    """
    if parent_id == layer.parent:
        return layer
    parent = at.composition.find(parent_id)
    outer = at.matrix(parent) if parent is not None else Affine()
    inverse = outer.inverse()
    if inverse is None:
        return evolve(layer, parent=parent_id)
    own = inverse @ at.matrix(layer)
    pivot = pivot_point(at.values(layer), at.box(layer))
    position = own.apply(*pivot)
    scale, rotation, skew = decomposed(own)
    placed = {"position": position, "scale": scale, "rotation": rotation, "skew": skew}
    free = {name: value for name, value in placed.items() if not layer.track(name).animated}
    return evolve(layer, parent=parent_id).with_values(**free)


def decomposed(matrix: Affine) -> tuple[tuple[float, float], float, tuple[float, float]]:
    """Return scale in percent, rotation and skew (x, 0) in degrees of a map's linear part (QR decomposition)."""
    width = math.hypot(matrix.a, matrix.b)
    if width < 1e-12:
        return (0.0, 0.0), 0.0, (0.0, 0.0)
    rotation = math.degrees(math.atan2(matrix.b, matrix.a))
    height = matrix.determinant / width
    slant = (matrix.a * matrix.c + matrix.b * matrix.d) / width
    skew = math.degrees(math.atan(slant / height)) if abs(height) > 1e-12 else 0.0
    rounded = (round(100 * width, 6), round(100 * height, 6))
    return rounded, round(rotation, 6), (round(min(max(skew, -89), 89), 6), 0.0)
