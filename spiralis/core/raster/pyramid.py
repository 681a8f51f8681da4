"""Stored pictures: premultiplied, trimmed to what is visible, in halving sizes."""

from __future__ import annotations

import math
from collections.abc import Iterable
from concurrent.futures import ThreadPoolExecutor
from functools import cache

import numpy as np
from attrs import frozen

from spiralis.core.cache import CacheSection
from spiralis.core.errors import PictureError
from spiralis.core.media.pictures import decode_sound
from spiralis.core.media.pixels import halved, premultiplied, visible_box
from spiralis.core.model.source import Source

_SMALLEST = 16
_THREADS = 2


@frozen(eq=False)
class Pyramid:
    """Halving sizes of a picture, each uint8 premultiplied with a transparent ring of one pixel.

    ``offset`` is where the trimmed part begins in the whole picture, in its own pixels.
    """

    levels: tuple[np.ndarray, ...]
    offset: tuple[int, int]


@frozen
class Head:
    """What is known of a decoded picture without its pixels; no ``count`` of levels where nothing is visible."""

    count: int
    offset: tuple[int, int] = (0, 0)


def level_for(scale: float, shorter: int = 1 << 30) -> int:
    """Return how often to halve pixels, so that no more than two by two of them fall on one at a scale.

    A side of ``shorter`` px keeps at least 8.
    """
    if scale >= 1 or not math.isfinite(scale) or scale <= 0:
        return 0
    return max(0, min(math.floor(-math.log2(scale) + 1e-9), shorter.bit_length() - 4))


def build_pyramid(rgba: np.ndarray) -> Pyramid | None:
    """Return the pyramid of straight uint8 (h, w, 4) pixels; None for a picture with nothing in it."""
    box = visible_box(rgba)
    if box is None:
        return None
    levels = [premultiplied(rgba, box)]
    while max(levels[-1].shape[:2]) - 2 > _SMALLEST:
        levels.append(halved(levels[-1]))
    return Pyramid(tuple(levels), (box[0], box[1]))


#: A picture that is shown small keeps only its small sizes, so that a large layered file fits in.
_heads: CacheSection[Head] = CacheSection(lambda head: 200)
_levels: CacheSection[np.ndarray] = CacheSection(lambda level: level.nbytes)


def picture_level(source: Source, scale: float) -> tuple[np.ndarray, int, tuple[int, int]] | None:
    """Return (pixels, how often they are halved, offset of the trimmed part) to show a source at a scale.

    None where it shows nothing. What is not kept is decoded.
    """
    head, level = _kept(source, scale)
    if head is None or (head.count and level is None):
        head, level = _decoded(source, scale)
    if not head.count or level is None:
        return None
    return level, min(level_for(scale), head.count - 1), head.offset


def _kept(source: Source, scale: float) -> tuple[Head | None, np.ndarray | None]:
    head = _heads.peek(source.digest)
    if head is None or not head.count:
        return head, None
    return head, _levels.peek((source.digest, min(level_for(scale), head.count - 1)))


def _decoded(source: Source, scale: float) -> tuple[Head, np.ndarray | None]:
    try:
        pyramid = build_pyramid(decode_sound(source.data or b"", source.name))
    except PictureError:
        # It was readable when it was imported; a project edited by hand may hold anything.
        pyramid = None
    if pyramid is None:
        return _heads.get(source.digest, lambda: Head(0)), None
    head = _heads.get(source.digest, lambda: Head(len(pyramid.levels), pyramid.offset))
    wanted = min(level_for(scale), head.count - 1)
    for number in range(wanted, head.count):
        _levels.get((source.digest, number), lambda held=pyramid.levels[number]: held)  # type: ignore[misc]
    return head, pyramid.levels[wanted]


@cache
def _pool() -> ThreadPoolExecutor:
    return ThreadPoolExecutor(max_workers=_THREADS, thread_name_prefix="decode")


def prepare(pictures: Iterable[tuple[Source, float]]) -> None:
    """Decode what is not kept of sources to be shown at scales, several at a time, and wait for it."""
    missing: dict[str, tuple[Source, float]] = {}
    for source, scale in pictures:
        head, level = _kept(source, scale)
        if source.data is not None and (head is None or (head.count and level is None)):
            missing[source.digest] = (source, max(scale, missing.get(source.digest, (source, 0.0))[1]))
    if len(missing) > 1:
        largest_first = sorted(missing.values(), key=lambda item: -item[0].width * item[0].height)
        list(_pool().map(lambda item: _decoded(*item), largest_first))
