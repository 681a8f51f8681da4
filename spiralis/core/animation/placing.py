"""A layer's place over time: one path or separate x and y, and the turn that follows the way."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from spiralis.core.animation.tracks import evaluate
from spiralis.core.model.layer import Layer

#: How far before and after a moment to look for the way, in frames: where a layer rests, further.
_LOOKS = (0.02, 0.25, 1.0, 4.0, 16.0)


#: The threads of a position whose x and y are apart.
PARTS = ("position_x", "position_y")


def is_separate(layer: Layer) -> bool:
    """Whether x and y are threads of their own."""
    track = layer.properties.get("separate")
    return track is not None and track.value is True


def positions(layer: Layer, frames: np.ndarray) -> np.ndarray:
    """Return a layer's positions at frames (n,) in its parent's space, float64 (n, 2)."""
    names = PARTS if is_separate(layer) else ("position",)
    return np.concatenate([evaluate(layer.track(name), layer.parameter(name), frames) for name in names], axis=1)


def position_frames(layer: Layer) -> list[int]:
    """Return the frames of the keys that a layer's place has, in order."""
    names = PARTS if is_separate(layer) else ("position",)
    return sorted({key.frame for name in names for key in layer.track(name).keys})


def headings(
    layer: Layer, frames: np.ndarray, placed: Callable[[np.ndarray], np.ndarray] | None = None
) -> np.ndarray:  # fmt: skip
    """Return the direction of travel at frames (n,) in degrees, 0 to the right, 90 down; 0 for a layer at rest.

    ``placed(frames)`` gives the layer's positions where something drives them, else they are those of its keys.
    Where the layer stands still for a moment the way is taken from further around.
    """
    result = np.zeros(len(frames))
    open_ = np.ones(len(frames), dtype=bool)
    for look in _LOOKS:
        if not open_.any():
            break
        at = frames[open_]
        before, after = at - look, at + look
        way = positions(layer, after) - positions(layer, before) if placed is None else placed(after) - placed(before)
        moving = np.hypot(way[:, 0], way[:, 1]) > 1e-6 * max(look, 1.0)
        where = np.flatnonzero(open_)[moving]
        result[where] = np.degrees(np.arctan2(way[moving, 1], way[moving, 0]))
        open_[where] = False
    return result
