"""Curves through points that never swing past them: tone curves, and what particles do over their life."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np

STRAIGHT = ((0.0, 0.0), (1.0, 1.0))


def curve(points: Any) -> Callable[[np.ndarray], np.ndarray]:
    """Return the monotone cubic through points, flat outside of them, cut to 0 to 1.

    It never swings past its points: slopes are weighted harmonic means (Fritsch and Butland, *A Method for Constructing
    Local Monotone Piecewise Cubic Interpolants*, 1984). SciPy has the same, but takes long to load.

    Args:
        points: (x, y) pairs of 0 to 1 with rising x.
    """
    x, y = np.asarray(points, dtype=np.float64).T
    size, rise = np.diff(x), np.diff(y) / np.diff(x)
    slope = _slopes(size, rise)

    def through(place: np.ndarray) -> np.ndarray:
        place = np.clip(place, x[0], x[-1])
        k = np.clip(np.searchsorted(x, place, side="right") - 1, 0, len(size) - 1)
        t = (place - x[k]) / size[k]
        start, end = slope[k] * size[k], slope[k + 1] * size[k]
        # Cubic Hermite, by Horner's rule.
        step = y[k + 1] - y[k]
        value = y[k] + t * (start + t * (3 * step - 2 * start - end + t * (start + end - 2 * step)))
        return np.asarray(np.clip(value, 0.0, 1.0))

    return through


def _slopes(size: np.ndarray, rise: np.ndarray) -> np.ndarray:
    """Return the slope at each point, of the widths and the rises between them."""
    if len(size) == 1:
        return np.array([rise[0], rise[0]])
    before, after = 2 * size[1:] + size[:-1], size[1:] + 2 * size[:-1]
    same = rise[:-1] * rise[1:] > 0
    with np.errstate(divide="ignore", invalid="ignore"):
        mean = (before + after) / (before / rise[:-1] + after / rise[1:])
    return np.array([_end(size[0], size[1], rise[0], rise[1]), *np.where(same, mean, 0.0),
                     _end(size[-1], size[-2], rise[-1], rise[-2])])  # fmt: skip


def _end(near: float, far: float, rise: float, next_rise: float) -> float:
    """Return the slope at an end: of three points, but never against the first rise nor over three times it."""
    slope = ((2 * near + far) * rise - near * next_rise) / (near + far)
    if slope * rise <= 0:
        return 0.0
    return 3 * rise if rise * next_rise < 0 and abs(slope) > 3 * abs(rise) else slope
