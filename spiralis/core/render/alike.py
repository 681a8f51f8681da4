"""Whether two versions of a project look the same."""

from __future__ import annotations

import numpy as np

from spiralis.core.model import Project
from spiralis.core.render.frame import render_frame

#: The longer side of the pictures that are compared, and the side of the squares over whose mean that is done, in px.
_LONGEST, _SQUARE = 480.0, 4
#: Means that are further apart than this, of 1, are seen: what sampling leaves along edges is less.
_SEEN = 0.05


def look_alike(before: Project, after: Project, composition_id: str, frame: float) -> bool:
    """Return whether a composition of two versions of a project looks the same at a frame, but for what drawing it in
    another way leaves along edges."""
    piece = before.composition(composition_id)
    scale = min(1.0, _LONGEST / max(piece.width, piece.height))
    first, second = (_means(render_frame(project, composition_id, frame, scale)) for project in (before, after))
    return first.shape == second.shape and float(np.abs(first - second).max(initial=0.0)) < _SEEN


def _means(pixels: np.ndarray) -> np.ndarray:
    """Return the means of squares of float pixels (h, w, 4)."""
    height, width = (max(side // _SQUARE, 1) for side in pixels.shape[:2])
    whole = pixels[: height * _SQUARE, : width * _SQUARE]
    if min(pixels.shape[:2]) < _SQUARE:
        return pixels
    means: np.ndarray = whole.reshape(height, _SQUARE, width, _SQUARE, 4).mean(axis=(1, 3))
    return means
