"""Gaussian blur of premultiplied pixels and of covers: wide ones on a smaller picture, enlarged again."""

from __future__ import annotations

import math
from functools import lru_cache

import cv2
import numpy as np

#: Above this sigma, in pixels, a picture is better drawn smaller, blurred, and enlarged as it is sampled.
WIDEST = 8.0
#: How many sigmas a Gaussian reaches.
REACH = 3.5
#: Linear enlarging by a whole factor is itself a blur: in pixels of the small picture it adds this variance.
_ENLARGING = 1 / 6
#: Above this sigma ``softened`` works on a smaller picture.
_DIRECT = 4.0


def reduction_for(sigma: float) -> int:
    """Return how often to halve a picture so that a blur of ``sigma`` pixels stays quick."""
    return max(0, math.ceil(math.log2(sigma / WIDEST))) if sigma > WIDEST else 0


def blurred(
    pixels: np.ndarray, sigma_x: float, sigma_y: float, enlarged: tuple[bool, bool] = (False, False)
) -> np.ndarray:
    """Return uint8 or float32 (h, w, 4) pixels blurred by Gaussians of these sigmas, float32 from 0 to 1.

    ``enlarged`` takes off the blur that bilinear enlarging, across and down, will add. Outside all is clear.
    """
    scale = np.float32(1 / 255 if pixels.dtype == np.uint8 else 1)
    image = np.ascontiguousarray(pixels, dtype=np.float32) * scale
    less = [_ENLARGING if larger else 0.0 for larger in enlarged]
    own = (math.sqrt(max(s**2 - by, 0.0)) for s, by in zip((sigma_x, sigma_y), less, strict=True))
    across, down = (_shares(sigma) for sigma in own)
    return cv2.sepFilter2D(image, -1, across, down, borderType=cv2.BORDER_CONSTANT)


def reach(sigma: float) -> int:
    """Return how many pixels around a pixel ``softened`` looks, the halving and doubling of wide blurs included."""
    return math.ceil(REACH * sigma) + (6 * 2 ** _halvings(sigma) if sigma > _DIRECT else 1)


@lru_cache(maxsize=64)
def _shares(sigma: float) -> np.ndarray:
    """Return the shares of a Gaussian that fall on each pixel, out to 3.5 sigma, adding up to 1."""
    if sigma < 1e-3:
        return np.ones(1, dtype=np.float32)
    radius = math.ceil(REACH * sigma)
    edges = [math.erf((k - 0.5) / (sigma * math.sqrt(2))) for k in range(-radius, radius + 2)]
    weights = np.diff(edges)
    return (weights / weights.sum()).astype(np.float32)


@lru_cache(maxsize=64)
def _samples(sigma: float) -> np.ndarray:
    """Return a Gaussian at whole pixels, out to 3.5 sigma, adding up to 1."""
    if sigma < 0.05:
        return np.ones(1, dtype=np.float32)
    radius = max(math.ceil(REACH * sigma), 1)
    weights = np.exp(-0.5 * (np.arange(-radius, radius + 1) / sigma) ** 2)
    return (weights / weights.sum()).astype(np.float32)


def softened(
    image: np.ndarray, sigma_x: float, sigma_y: float, corner: tuple[int, int] = (0, 0), repeat: bool = False
) -> np.ndarray:
    """Return float32 (h, w) or (h, w, 4) blurred by Gaussians, of the same size.

    Args:
        image: not written to.
        sigma_x, sigma_y: standard deviations in pixels.
        corner: where the image begins in a grid of pixels. Wide blurs keep every second pixel of it, so that a part of
            a picture blurs exactly as the whole does.
        repeat: whether the edge goes on outside; else all is clear there.
    """
    image = np.ascontiguousarray(image, dtype=np.float32)
    if max(sigma_x, sigma_y) < 0.05:
        return image.copy()
    if max(sigma_x, sigma_y) <= _DIRECT:
        return _filtered(image, sigma_x, sigma_y, repeat)
    counts = tuple(_halvings(sigma) for sigma in (sigma_x, sigma_y))
    own = [math.sqrt(max(s**2 - _added(n), 0.0)) / 2**n for s, n in zip((sigma_x, sigma_y), counts, strict=True)]
    border = cv2.BORDER_REPLICATE if repeat else cv2.BORDER_CONSTANT
    soft, place = image, corner
    cuts: list[tuple[tuple[int, int, int, int], tuple[bool, bool]]] = []
    for level in range(max(counts)):
        axes = (level < counts[0], level < counts[1])
        # Four pixels more on each side, so that the outermost of the smaller picture hold nothing but the edge.
        left, top = (4 + part % 2 if goes else 0 for part, goes in zip(place, axes, strict=True))
        height, width = soft.shape[:2]
        cuts.append(((left, top, left + width, top + height), axes))
        right, bottom = (4 + (n % 2) if goes else 0 for n, goes in zip((left + width, top + height), axes, strict=True))
        soft = cv2.copyMakeBorder(soft, top, bottom, left, right, border, value=(0, 0, 0, 0))
        soft = _smaller(soft, axes)
        moved = zip(place, (left, top), axes, strict=True)
        x, y = ((part - by) // 2 if goes else part for part, by, goes in moved)
        place = (x, y)
    soft = _filtered(soft, own[0], own[1], repeat)
    for (left, top, right, bottom), axes in reversed(cuts):
        soft = _larger(soft, axes)[top:bottom, left:right]
    return np.ascontiguousarray(soft)


def _halvings(sigma: float) -> int:
    """Return how often to halve, so that between 2 and 4 pixels of a sigma are left."""
    return math.ceil(math.log2(sigma / _DIRECT)) if sigma > _DIRECT else 0


_BINOMIAL = np.array([1, 4, 6, 4, 1], dtype=np.float32) / 16
_ONE = np.ones(1, dtype=np.float32)


def _smaller(image: np.ndarray, axes: tuple[bool, bool]) -> np.ndarray:
    """Return every second pixel of a softened image, across, down or both."""
    if all(axes):
        return cv2.pyrDown(image, borderType=cv2.BORDER_REPLICATE)
    across, down = (_BINOMIAL if goes else _ONE for goes in axes)
    soft = cv2.sepFilter2D(image, -1, across, down, borderType=cv2.BORDER_REPLICATE)
    return np.ascontiguousarray(soft[:, ::2] if axes[0] else soft[::2])


def _larger(image: np.ndarray, axes: tuple[bool, bool]) -> np.ndarray:
    """Return an image twice as wide, high or both, smoothly between its pixels."""
    if all(axes):
        return cv2.pyrUp(image)
    height, width = image.shape[:2]
    apart = np.zeros((height * (1 + axes[1]), width * (1 + axes[0]), *image.shape[2:]), dtype=np.float32)
    if axes[0]:
        apart[:, ::2] = image
    else:
        apart[::2] = image
    across, down = (2 * _BINOMIAL if goes else _ONE for goes in axes)
    return cv2.sepFilter2D(apart, -1, across, down, borderType=cv2.BORDER_CONSTANT)


def _added(halvings: int) -> float:
    """Return the variance in pixels that halving by the weights 1 4 6 4 1 and doubling by the same adds (Burt 1981)."""
    return 2 * (4**halvings - 1) / 3


def _filtered(image: np.ndarray, sigma_x: float, sigma_y: float, repeat: bool) -> np.ndarray:
    border = cv2.BORDER_REPLICATE if repeat else cv2.BORDER_CONSTANT
    return cv2.sepFilter2D(image, -1, _samples(sigma_x), _samples(sigma_y), borderType=border)
