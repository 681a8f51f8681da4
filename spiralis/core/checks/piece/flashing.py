"""Count flashes in pictures as WCAG 2.2 (2.3.1) and ITU-R BT.1702 define them.

A general flash is a pair of opposing changes of relative luminance by a tenth or more, the darker state below 0.8; a
red flash a pair of opposing changes to or from a saturated red (R / (R + G + B) of 0.8 or more) over more than 0.2 in
the CIE 1976 UCS diagram. More than three within a second over more than a quarter of any field of ten degrees harm;
a field is 341 x 256 px where the picture fits a screen of 1024 x 768. Fine patterns whose light is even in the mean
do not count.
"""

from __future__ import annotations

import cv2
import numpy as np
from attrs import frozen

from spiralis.core.colour import srgb_to_linear

_LUMINANCE = np.array([0.2126, 0.7152, 0.0722])
_CHANGE, _DARK, _REDNESS, _AWAY = 0.1, 0.8, 0.8, 0.2
_SCREEN, _FIELD, _SHARE = (1024.0, 768.0), (341.0, 256.0), 0.25
#: Three flashes are six changes; a seventh is too many.
_MOST = 6
_TO_XYZ = np.array([
    [0.4123908, 0.3575843, 0.1804808], [0.2126390, 0.7151687, 0.0721923], [0.0193308, 0.1191948, 0.9505322],
])  # fmt: skip
#: Light is evened out by a Gaussian of this sigma beside the longer side: changes within less are a pattern, no flash.
_FINE = 1 / 50


@frozen
class Flashing:
    """Frames (first and last index) where it flashes too much, the share of the frame that does, flashes a second."""

    first: int
    last: int
    area: float
    flashes: float


def _evened(linear: np.ndarray) -> np.ndarray:
    """Return light (n, h, w, 3) as means of its surroundings: what moves over fine detail does not flash."""
    sigma = max(_FINE * max(linear.shape[1:3]), 0.8)
    soft = (cv2.GaussianBlur(frame, (0, 0), sigma, borderType=cv2.BORDER_REFLECT) for frame in linear)
    return np.stack([np.asarray(frame) for frame in soft])


def general_changes(frames: np.ndarray) -> np.ndarray:
    """Return bool (n, h, w): where a half of a general flash is complete; frames are (n, h, w, 3), sRGB-encoded."""
    light = _evened(srgb_to_linear(np.clip(frames, 0, 1))) @ _LUMINANCE
    low, high, way = light[0].copy(), light[0].copy(), np.zeros(light[0].shape, dtype=np.int8)
    made = np.zeros(light.shape, dtype=bool)
    for index in range(1, len(light)):
        now = light[index]
        up = (now - low >= _CHANGE) & (low < _DARK) & (way != 1)
        down = (high - now >= _CHANGE) & (now < _DARK) & (way != -1)
        way[up], way[down] = 1, -1
        made[index] = up | down
        low, high = np.minimum(low, now), np.maximum(high, now)
        low[made[index]] = high[made[index]] = now[made[index]]
    return made


def red_changes(frames: np.ndarray) -> np.ndarray:
    """Return bool (n, h, w): where a half of a red flash is complete; frames are (n, h, w, 3), sRGB-encoded."""
    linear = _evened(srgb_to_linear(np.clip(frames, 0, 1)).astype(np.float64))
    total = linear.sum(axis=-1)
    red = (linear[..., 0] >= _REDNESS * total) & (total > 1e-3)
    xyz = linear @ _TO_XYZ.T
    weight = np.maximum(xyz @ np.array([1.0, 15.0, 3.0]), 1e-6)
    # What is black has no colour of its own: it counts as white does.
    u = np.where(total > 1e-3, 4 * xyz[..., 0] / weight, 0.1978)
    v = np.where(total > 1e-3, 9 * xyz[..., 1] / weight, 0.4683)
    at_u, at_v, was_red = u[0].copy(), v[0].copy(), red[0].copy()
    made = np.zeros(red.shape, dtype=bool)
    for index in range(1, len(red)):
        away = np.hypot(u[index] - at_u, v[index] - at_v) > _AWAY
        made[index] = away & (red[index] | was_red)
        for held, now in ((at_u, u), (at_v, v), (was_red, red)):
            held[made[index]] = now[index][made[index]]
    return made


def worst_flashing(
    changes: np.ndarray, rate: float, size: tuple[int, int], loops: bool = True
) -> Flashing | None:
    """Return where it flashes most beyond what is safe, or None.

    Args:
        changes: bool (n, h, w) of ``general_changes`` or ``red_changes``.
        rate: frames a second.
        size: width and height of the piece in px, which says how large a field is.
        loops: whether the first frame follows the last.
    """
    count, height, width = changes.shape
    second = max(round(rate), 1)
    row = np.concatenate([changes[-min(second, count) :], changes]) if loops else changes
    before = len(row) - count
    total = np.cumsum(row, axis=0, dtype=np.int16)
    within = total.copy()
    within[second:] -= total[:-second]
    within = within[before:]
    fit = min(_SCREEN[0] / size[0], _SCREEN[1] / size[1])
    field = (_FIELD[0] / (size[0] * fit) * width, _FIELD[1] / (size[1] * fit) * height)
    across, down = (max(min(round(side), whole), 1) for side, whole in zip(field, (width, height), strict=True))
    harms = np.zeros(count, dtype=bool)
    for index in range(count):
        mask = (within[index] > _MOST).astype(np.float64)
        if mask.any():
            means = cv2.blur(mask, (across, down), borderType=cv2.BORDER_CONSTANT)
            # A little below: sums of the filter carry rounding.
            harms[index] = means.max() * across * down >= _SHARE * field[0] * field[1] - 1e-6
    if not harms.any():
        return None
    found = np.flatnonzero(harms)
    areas = [(within[index] > _MOST).mean() for index in found]
    first = max(int(found[0]) - second + 1, 0)
    return Flashing(first, int(found[-1]), float(max(areas)), float(within[found].max()) / 2)
