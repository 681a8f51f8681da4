"""Stored pictures: premultiplied, trimmed to what is visible, in halving sizes."""

from __future__ import annotations

import math

import numpy as np
from attrs import frozen

from spiralis.core.errors import PictureError
from spiralis.core.media.pictures import decode_picture
from spiralis.core.model.project import Source
from spiralis.core.raster.cache import ByteCache


@frozen(eq=False)
class Pyramid:
    """Halving sizes of a picture, each uint8 premultiplied with a transparent ring of one pixel.

    ``offset`` is where the trimmed part begins in the whole picture, in its own pixels.
    """

    levels: tuple[np.ndarray, ...]
    offset: tuple[int, int]

    def level_for(self, scale: float) -> int:
        """Return the level to sample at a scale, so that no more than two by two pixels fall on one."""
        if scale >= 1 or not math.isfinite(scale) or scale <= 0:
            return 0
        return min(math.floor(-math.log2(scale) + 1e-9), len(self.levels) - 1)


def premultiply(rgba: np.ndarray) -> np.ndarray:
    """Premultiply uint8 (h, w, 4) straight pixels, rounded exactly."""
    result = rgba.copy()
    if np.all(rgba[..., 3] == 255):
        return result
    alpha = rgba[..., 3:].astype(np.uint16)
    result[..., :3] = (rgba[..., :3] * alpha + 127) // 255
    return result


def visible_box(alpha: np.ndarray) -> tuple[int, int, int, int] | None:
    """Return (left, top, right, bottom) of the pixels that are not transparent, or None."""
    rows, columns = np.flatnonzero(alpha.any(axis=1)), np.flatnonzero(alpha.any(axis=0))
    if len(rows) == 0:
        return None
    return int(columns[0]), int(rows[0]), int(columns[-1]) + 1, int(rows[-1]) + 1


def halve(pixels: np.ndarray) -> np.ndarray:
    """Return the mean of two by two premultiplied uint8 pixels; odd edges are padded with nothing."""
    height, width = pixels.shape[:2]
    padded = np.pad(pixels, ((0, height % 2), (0, width % 2), (0, 0)))
    total = padded[0::2, 0::2].astype(np.uint16)
    total += padded[1::2, 0::2]
    total += padded[0::2, 1::2]
    total += padded[1::2, 1::2]
    return ((total + 2) // 4).astype(np.uint8)


def build_pyramid(rgba: np.ndarray) -> Pyramid | None:
    """Return the pyramid of straight uint8 (h, w, 4) pixels; None for a picture with nothing in it."""
    box = visible_box(rgba[..., 3])
    if box is None:
        return None
    left, top, right, bottom = box
    pixels = premultiply(rgba[top:bottom, left:right])
    levels = []
    while True:
        levels.append(np.ascontiguousarray(np.pad(pixels, ((1, 1), (1, 1), (0, 0)))))
        if max(pixels.shape[:2]) <= 16:
            return Pyramid(tuple(levels), (left, top))
        pixels = halve(pixels)


_pyramids: ByteCache[Pyramid | None] = ByteCache(
    768 << 20, lambda p: sum(level.nbytes for level in p.levels) if p is not None else 1
)


def pyramid_of(source: Source) -> Pyramid | None:
    """Return the decoded picture of a source, from the cache where it is there; None if it shows nothing."""

    def make() -> Pyramid | None:
        try:
            return build_pyramid(decode_picture(source.data or b"", source.name))
        except PictureError:
            # It was readable when it was imported; a project edited by hand may hold anything.
            return None

    return _pyramids.get(source.digest, make)
