"""Open clips by their file and keep them; frames in halving sizes for the renderer."""

from __future__ import annotations

import hashlib
import threading
from collections import OrderedDict
from pathlib import Path

import numpy as np

from spiralis.core.cache import CacheSection
from spiralis.core.errors import PictureError
from spiralis.core.media.footage.animated import AnimatedClip
from spiralis.core.media.footage.base import Clip
from spiralis.core.media.footage.sequence import SUFFIX as SEQUENCE_SUFFIX
from spiralis.core.media.footage.sequence import SequenceClip
from spiralis.core.media.footage.video import VideoClip
from spiralis.core.media.pixels import halved, premultiplied
from spiralis.core.model.source import Source

FOOTAGE_SUFFIXES = (".mp4", ".mov", ".m4v", ".webm", ".mkv", ".ts", ".mts", ".avi",
                    ".gif", ".apng", ".webp", SEQUENCE_SUFFIX)  # fmt: skip
MOST_OPEN = 8

_open: OrderedDict[str, Clip | None] = OrderedDict()
_lock = threading.Lock()
_levels: CacheSection[np.ndarray] = CacheSection(lambda pixels: pixels.nbytes)


def open_clip(data: bytes | Path, suffix: str, name: str) -> Clip:
    """Open a clip by its bytes or its path.

    Raises:
        PictureError: one sentence on what is wrong with the file.
    """
    digest = hashlib.sha256(data).hexdigest() if isinstance(data, bytes) else str(data)
    return _sort_of(suffix)(data, digest, name)


def _sort_of(suffix: str) -> type[VideoClip] | type[AnimatedClip] | type[SequenceClip]:
    if suffix == ".webp":
        return AnimatedClip
    return SequenceClip if suffix == SEQUENCE_SUFFIX else VideoClip


def clip_of(source: Source) -> Clip | None:
    """Return the open clip of a source; None where it is missing or cannot be read."""
    with _lock:
        if source.digest in _open:
            _open.move_to_end(source.digest)
            return _open[source.digest]
        data = source.data if source.data is not None else source.place
        clip: Clip | None = None
        if data is not None:
            try:
                clip = _sort_of(source.suffix)(data, source.digest, source.name)
            except PictureError:
                # It was readable when it came in; the file may have been changed outside since.
                clip = None
            _open[source.digest] = clip
        while len(_open) > MOST_OPEN:
            _, dropped = _open.popitem(last=False)
            if dropped is not None:
                dropped.close()
        return clip


def frame_levels(source: Source, index: int, level: int) -> np.ndarray | None:
    """Return a frame as premultiplied uint8 (h, w, 4) with a clear ring, halved ``level`` times; None if missing."""

    def make() -> np.ndarray:
        if level > 0:
            larger = frame_levels(source, index, level - 1)
            return halved(larger) if larger is not None else np.zeros((3, 3, 4), dtype=np.uint8)
        clip = clip_of(source)
        if clip is None:
            raise PictureError(source.name)
        return premultiplied(clip.frame(index))

    try:
        return _levels.get((source.digest, index, level), make)
    except PictureError:
        return None
