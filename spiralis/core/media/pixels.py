"""Premultiplied 8-bit pixels: make them, trim them, halve them. Each has a clear ring of one pixel around it."""

from __future__ import annotations

import math

import numpy as np

from spiralis.core.media.kernels import pixels as pixels_kernels


def visible_box(rgba: np.ndarray) -> tuple[int, int, int, int] | None:
    """Return (left, top, right, bottom) of the pixels (h, w, 4) that are not transparent, or None."""
    left, top, right, bottom = pixels_kernels.visible_bounds(np.ascontiguousarray(rgba))
    return (left, top, right, bottom) if bottom else None


def premultiplied(rgba: np.ndarray, box: tuple[int, int, int, int] | None = None) -> np.ndarray:
    """Return a part of straight uint8 (h, w, 4) pixels, premultiplied and rounded exactly, with a ring."""
    left, top, right, bottom = box or (0, 0, rgba.shape[1], rgba.shape[0])
    out = np.zeros((bottom - top + 2, right - left + 2, 4), dtype=np.uint8)
    pixels_kernels.premultiply_into(_words(np.ascontiguousarray(rgba)), left, top, _words(out))
    return out


def halved(pixels: np.ndarray) -> np.ndarray:
    """Return the mean of two by two premultiplied pixels; both have rings, odd edges are filled up with nothing."""
    height, width = pixels.shape[0] - 2, pixels.shape[1] - 2
    out = np.zeros(((height + 1) // 2 + 2, (width + 1) // 2 + 2, 4), dtype=np.uint8)
    pixels_kernels.halve_into(_words(pixels), _words(out))
    return out


def _words(pixels: np.ndarray) -> np.ndarray:
    """View contiguous uint8 (h, w, 4) pixels as uint32 (h, w)."""
    return pixels.view(np.uint32)[..., 0]


def filled_box(pixels: np.ndarray) -> tuple[int, int, int, int]:
    """Return left, top, right and bottom of what holds anything at all, light without alpha too; zeros for nothing.

    ``pixels`` are uint8 or float32 (h, w, 4), contiguous.
    """
    word = np.dtype(np.uint32 if pixels.dtype == np.uint8 else np.uint64)
    words = pixels.reshape(len(pixels), -1).view(word)
    share = pixels.shape[1] / words.shape[1]
    left, top, right, bottom = pixels_kernels.filled_bounds(words)
    return int(left * share), top, math.ceil(right * share), bottom
