"""How much of the frame a layer leaves bare."""

from __future__ import annotations

from spiralis.core.model import Layer
from spiralis.core.render.layers import Evaluated


def uncovered(at: Evaluated, layer: Layer) -> float:
    """Return by how many px a corner of the frame lies outside the layer at most; 0 where it covers the frame."""
    box, inverse = at.box(layer), at.matrix(layer).inverse()
    if inverse is None:
        return float(max(at.scene.width, at.scene.height))
    stretch = max(at.matrix(layer).stretch())
    worst = 0.0
    for corner in ((0, 0), (at.scene.width, 0), (0, at.scene.height), (at.scene.width, at.scene.height)):
        x, y = inverse.apply(*corner)
        outside = max(box[0] - x, x - box[2], box[1] - y, y - box[3], 0.0)
        worst = max(worst, outside * stretch)
    return worst
