"""Palette indices of frames, with patterns that hide missing colours: ordered, blue noise, diffused errors."""

from __future__ import annotations

from functools import cache

import cv2
import numpy as np

from spiralis.core.compositing.kernels import output
from spiralis.core.media.kernels import gif_packing
from spiralis.core.media.palette import Palette

#: Marks a pixel of which nothing is shown yet.
NOTHING = 65_535
KINDS = ("none", "ordered", "blue noise", "diffusion")
_SIDE = 64
_SIGMA = 1.9
#: So large is what is looked at around a pixel; so many times further off it stays where nothing else changes there.
_AROUND, _LONE = (7, 7), np.float32(3.0)


def indexed(
    rgba: np.ndarray, palette: Palette, pattern: str = "none", strength: float = 0.0,
    steady: np.ndarray | None = None, before: np.ndarray | None = None,
) -> np.ndarray:  # fmt: skip
    """Return the palette indices of a frame, uint16 (h, w).

    Args:
        rgba: straight uint8 (h, w, 4).
        palette: its colours.
        pattern: one of KINDS, with a ``strength`` of 0 to 1; colours that are in the palette are never dithered.
        steady: by how many levels more than the nearest a colour may be off before its pixel leaves the index that it
            had, float32 (h, w): up to three times that where hardly anything else changes, as a lone pixel costs much,
            and not at all in the midst of change. None is not at all.
        before: the indices of the frame before, NOTHING where nothing was shown.
    """
    out = np.empty(rgba.shape[:2], dtype=np.uint16)
    holds = steady is not None and before is not None
    if steady is None or before is None:
        steady, before = np.zeros(out.shape, dtype=np.float32), np.full_like(out, NOTHING)
    rest = (palette.colours.astype(np.float32), palette.transparent, palette.lookup, palette.beside)
    if pattern == "diffusion":
        gif_packing.diffuse(rgba, *rest, np.float32(strength), steady, before, out)
        return out
    reach = np.float32(1.6 * strength * palette.spacing if pattern != "none" else 0.0)
    excess = np.empty(out.shape, dtype=np.float32)
    gif_packing.choose(rgba, *rest, thresholds(pattern), reach, before, out, excess)
    if not holds:
        return out
    changes = cv2.blur((excess > steady).astype(np.float32), _AROUND)
    return np.where(excess <= steady * (_LONE - _LONE * changes), before, out)


def thresholds(kind: str) -> np.ndarray:
    """Return the thresholds of an ordered kind, float32 (n, n), 0 to 1; a flat one for the others."""
    if kind == "ordered":
        return np.asarray(output.THRESHOLDS, dtype=np.float32)
    if kind == "blue noise":
        return blue_noise()
    return np.full((1, 1), 0.5, dtype=np.float32)


@cache
def blue_noise() -> np.ndarray:
    """Return a tile of blue noise, float32 (64, 64), every level from 0 to 1 once; the same at every call.

    Void and cluster (Ulichney, 1993): points are ranked by taking away the one in the tightest cluster, then put in
    where the largest void is; neighbourhoods are Gaussian and go round the tile's edges.
    """
    side, count = _SIDE, _SIDE * _SIDE
    away = np.minimum(np.arange(side), side - np.arange(side))
    bell = np.exp(-(away[:, None] ** 2 + away[None, :] ** 2) / (2 * _SIGMA**2))

    def around(place: int) -> np.ndarray:
        return np.roll(bell, (place // side, place % side), axis=(0, 1))

    pattern = np.zeros(count, dtype=bool)
    pattern[np.random.Generator(np.random.Philox(7)).choice(count, count // 10, replace=False)] = True
    energy = sum((around(int(p)) for p in np.flatnonzero(pattern)), np.zeros((side, side)))
    while True:
        tightest = int(np.argmax(np.where(pattern, energy.ravel(), -np.inf)))
        pattern[tightest] = False
        energy = energy - around(tightest)
        widest = int(np.argmin(np.where(pattern, np.inf, energy.ravel())))
        pattern[widest] = True
        energy = energy + around(widest)
        if widest == tightest:
            break
    ranks = np.zeros(count)
    left, sinking = pattern.copy(), energy.copy()
    for rank in range(int(pattern.sum()) - 1, -1, -1):
        tightest = int(np.argmax(np.where(left, sinking.ravel(), -np.inf)))
        left[tightest], ranks[tightest] = False, rank
        sinking -= around(tightest)
    for rank in range(int(pattern.sum()), count):
        widest = int(np.argmin(np.where(pattern, np.inf, energy.ravel())))
        pattern[widest], ranks[widest] = True, rank
        energy += around(widest)
    made: np.ndarray = ((ranks + 0.5) / count).reshape(side, side).astype(np.float32)
    return made
