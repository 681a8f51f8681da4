"""What one effect of a layer acts on, as its editor shows it: its picture, and how often each value occurs in it."""

from __future__ import annotations

from itertools import takewhile

import numpy as np
from attrs import evolve

from spiralis.core.model import Composition, Project, layer_kind
from spiralis.core.render.frame import render_rgba8

#: A histogram has so many columns; the picture behind it is so wide or high, in px.
COLUMNS, _SIZE = 64, 200


def picture_before(project: Project, composition: Composition, layer_id: str, block_id: str, frame: int) -> np.ndarray:
    """Return what an effect acts on, small: uint8 (h, w, 4), premultiplied.

    For an effect layer that is all beneath it; for others the layer alone, with the effects before this one.
    """
    layer = composition.layer(layer_id)
    before = list(takewhile(lambda block: block.id != block_id, layer.blocks))
    plain = layer.with_values(opacity=100.0)
    for block in layer.blocks[len(before) :]:
        plain = plain.without_block(block.id)
    if layer_kind(layer.kind).beneath is not None:
        place = composition.layers.index(layer)
        # What lies above is hidden rather than gone, for other layers may hang on it.
        above = (y.with_values(visible=False) for y in composition.layers[:place])
        piece = evolve(composition, layers=(*above, plain, *composition.layers[place + 1 :]))
    else:
        layers = tuple(evolve(plain if y is layer else y, solo=y is layer) for y in composition.layers)
        piece = evolve(composition, layers=layers, background=None)
    scale = min(1.0, _SIZE / max(piece.width, piece.height))
    return render_rgba8(project.with_composition(piece), piece.id, frame, scale)


def histogram(pixels: np.ndarray) -> np.ndarray:
    """Return how often straight values occur: float64 (3, COLUMNS), each channel's highest column 1.

    Args:
        pixels: uint8 (h, w, 4), premultiplied. Pixels count by their alpha.
    """
    alpha = pixels[..., 3].reshape(-1).astype(np.float64)
    seen = alpha > 0
    counts = np.zeros((3, COLUMNS))
    for channel in range(3):
        straight = pixels[..., channel].reshape(-1)[seen] / alpha[seen]
        counts[channel] = np.histogram(straight, COLUMNS, (0.0, 1.0), weights=alpha[seen])[0]
    return counts / np.maximum(counts.max(axis=1, keepdims=True), 1e-9)
