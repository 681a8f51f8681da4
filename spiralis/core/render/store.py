"""Frames held ready: bounded by bytes, the least recently used go first. Thread-safe."""

from __future__ import annotations

import threading
from collections import OrderedDict

import numpy as np
from attrs import frozen


@frozen
class FrameKey:
    """What a ready frame shows. ``version`` is the project version's serial number."""

    version: int
    composition: str
    frame: int
    scale: float


class FrameStore:
    """Ready frames, uint8 (h, w, 4) premultiplied."""

    def __init__(self, limit: int = 768 << 20) -> None:
        self.limit = limit
        self._frames: OrderedDict[FrameKey, np.ndarray] = OrderedDict()
        self._bytes = 0
        self._lock = threading.Lock()

    def get(self, key: FrameKey) -> np.ndarray | None:
        """Return the frame and mark it as used, or None."""
        with self._lock:
            frame = self._frames.get(key)
            if frame is not None:
                self._frames.move_to_end(key)
            return frame

    def put(self, key: FrameKey, frame: np.ndarray) -> None:
        """Keep a frame; drops the least recently used ones until all fit."""
        with self._lock:
            old = self._frames.pop(key, None)
            if old is not None:
                self._bytes -= old.nbytes
            self._frames[key] = frame
            self._bytes += frame.nbytes
            while self._bytes > self.limit and len(self._frames) > 1:
                _, dropped = self._frames.popitem(last=False)
                self._bytes -= dropped.nbytes

    def ready(self, version: int, composition: str, scale: float) -> set[int]:
        """Return the numbers of the frames that are ready for a version, composition and scale."""
        with self._lock:
            return {
                key.frame
                for key in self._frames
                if key.version == version and key.composition == composition and key.scale == scale
            }

    def holds(self, key: FrameKey) -> bool:
        """Whether a frame is there; does not count as use."""
        with self._lock:
            return key in self._frames

    @property
    def bytes(self) -> int:
        """What the held frames weigh."""
        return self._bytes
