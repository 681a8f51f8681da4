"""The old ground's colour taken off the soft edge of what was cut out of it."""

from __future__ import annotations

from collections.abc import Callable
from functools import cache, partial

import cv2
import numpy as np

from spiralis.core.media.steps import Stops, go_on, never
from spiralis.core.media.tiles import Tile, around, tiles_of

#: Alpha above this is the subject alone.
_SURE = 0.97
#: The widths of Gaussians that colours spread by, finest first; what they do not reach is looked for in a picture so
#: many times smaller.
_SIGMAS, _SMALLER = (1.5, 3.0, 6.0, 12.0), 8
_MARGIN, _SIDE = 4 * 12 + 1, 256
_LEAST = 1e-3


def cleaned(pixels: np.ndarray, alpha: np.ndarray, share: float, stops: Stops = never) -> np.ndarray:
    """Return uint8 (h, w, 3): the colours of the subject, without the old ground's at its soft edge.

    There the colour is that of the subject nearby, spread outwards by normalised convolution over growing widths
    (Knutsson, Westin, *Normalized and Differential Convolution*, 1993), the wide ones on smaller pictures.

    Args:
        pixels: uint8 (h, w, 3) or (h, w, 4).
        alpha: float32 (h, w), how much of each pixel is the subject.
        share: how far the colours are taken off, 0 to 1.
        stops: told between steps how much is done.
    """
    made = np.array(pixels[..., :3], order="C")
    if share <= 0 or not (alpha > _SURE).any():
        return made
    size = (alpha.shape[0], alpha.shape[1])
    coarse = cache(partial(_smaller, pixels, alpha))
    for tile in tiles_of(size, _SIDE):
        go_on(stops, tile[0].start / size[0])
        own = alpha[tile]
        soft = (own > 0) & (own <= _SURE)
        if not soft.any():
            continue
        outer, inner = around(tile, _MARGIN, size)
        weighed = _weighed(pixels[outer], alpha[outer])
        near = _spread(weighed, partial(_part_of_coarse, coarse, tile, size), inner, soft)
        rgb = pixels[tile][..., :3].astype(np.float32)
        mixed = rgb + np.float32(share) * (near - rgb)
        # As far as a pixel is the subject it keeps what it is.
        keep = own[..., None] ** 4
        result = np.where(soft[..., None], keep * rgb + (1 - keep) * mixed, rgb)
        made[tile] = np.clip(np.round(result), 0, 255).astype(np.uint8)
    return made


def _part_of_coarse(coarse: Callable[[], np.ndarray], tile: Tile, size: tuple[int, int]) -> np.ndarray:
    return _part(coarse(), tile, size)


def _weighed(pixels: np.ndarray, alpha: np.ndarray) -> np.ndarray:
    """Return float32 (h, w, 4): the colours of what is sure, and 1 there; 0 elsewhere."""
    sure = (alpha > _SURE).astype(np.float32)
    made = np.empty((*alpha.shape, 4), dtype=np.float32)
    made[..., :3] = pixels[..., :3] * sure[..., None]
    made[..., 3] = sure
    return made


def _spread(
    weighed: np.ndarray, deeper: Callable[[], np.ndarray], inner: Tile, wanted: np.ndarray
) -> np.ndarray:
    """Return float32 (h, w, 3) of a part: the colours near each wanted pixel, from the narrowest width that has some.

    Args:
        weighed: (m, n, 4) of the part and what lies around it.
        deeper: gives the colours of the part that no width here reaches.
        inner: the part.
        wanted: bool (h, w).
    """
    made = np.zeros((*wanted.shape, 3), dtype=np.float32)
    missing = wanted.copy()
    for sigma in _SIGMAS:
        total = cv2.GaussianBlur(weighed, (0, 0), sigma)[inner]
        reached = missing & (total[..., 3] > _LEAST)
        made[reached] = total[reached][:, :3] / total[reached][:, 3:]
        missing &= ~reached
        if not missing.any():
            return made
    made[missing] = deeper()[missing]
    return made


def _smaller(pixels: np.ndarray, alpha: np.ndarray) -> np.ndarray:
    """Return float32 (m, n, 3): the colours near each pixel of the picture made smaller."""
    height, width = alpha.shape
    size = (-(-height // _SMALLER), -(-width // _SMALLER))
    small = np.empty((*size, 4), dtype=np.float32)
    for top in range(0, size[0], 64):
        rows = slice(top * _SMALLER, min((top + 64) * _SMALLER, height))
        part = _weighed(pixels[rows], alpha[rows])
        below, right = -part.shape[0] % _SMALLER, -width % _SMALLER
        part = np.pad(part, ((0, below), (0, right), (0, 0)))
        small[top : top + 64] = cv2.resize(part, (size[1], part.shape[0] // _SMALLER), interpolation=cv2.INTER_AREA)
    return _everywhere(small)


def _everywhere(weighed: np.ndarray) -> np.ndarray:
    """Return float32 (m, n, 3): colours near each pixel, however far away what is sure may be."""
    height, width = weighed.shape[:2]

    def deeper() -> np.ndarray:
        if max(height, width) <= _SMALLER:
            total = weighed.reshape(-1, 4).sum(axis=0)
            return np.broadcast_to(total[:3] / max(float(total[3]), 1e-9), (height, width, 3))
        size = (-(-width // _SMALLER), -(-height // _SMALLER))
        padded = np.pad(weighed, ((0, -height % _SMALLER), (0, -width % _SMALLER), (0, 0)))
        less = _everywhere(cv2.resize(padded, size, interpolation=cv2.INTER_AREA))
        return _part(less, (slice(0, height), slice(0, width)), (height, width))

    whole = (slice(0, height), slice(0, width))
    return _spread(weighed, deeper, whole, np.ones((height, width), dtype=bool))


def _part(small: np.ndarray, tile: Tile, size: tuple[int, int]) -> np.ndarray:
    """Return a tile of a picture that stands ``_SMALLER`` times smaller, enlarged bilinearly."""
    rows, columns = tile
    y, x = (
        np.clip((np.arange(s.start, s.stop, dtype=np.float32) + 0.5) / _SMALLER - 0.5, 0, n - 1)
        for s, n in zip((rows, columns), small.shape[:2], strict=True)
    )
    across, down = np.meshgrid(x.astype(np.float32), y.astype(np.float32))
    return np.asarray(cv2.remap(small, across, down, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE))
