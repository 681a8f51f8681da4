"""Frames held ready for playback, among everything else that the program keeps."""

from __future__ import annotations

from collections.abc import Hashable

import numpy as np
from attrs import frozen

from spiralis.core.cache import BUDGET, Budget, CacheSection


@frozen
class FrameKey:
    """What a ready frame shows. ``version`` is the project version's serial number."""

    version: int
    composition: str
    frame: int
    scale: float

    @property
    def look(self) -> tuple[int, str, float]:
        """What all frames of one piece have in common that play one after the other."""
        return self.version, self.composition, self.scale


class _Frames(CacheSection[np.ndarray]):
    """Frames by their keys, and which of each version, composition and scale are there."""

    def __init__(self, budget: Budget) -> None:
        super().__init__(lambda frame: frame.nbytes, budget, stays=True)
        self.ready: dict[tuple[int, str, float], set[int]] = {}

    def put(self, key: Hashable, value: np.ndarray, seconds: float = 0.0) -> None:
        assert isinstance(key, FrameKey)
        with self.budget.lock:
            super().put(key, value, seconds)
            self.ready.setdefault(key.look, set()).add(key.frame)

    def drop(self, key: Hashable) -> None:
        assert isinstance(key, FrameKey)
        with self.budget.lock:
            super().drop(key)
            there = self.ready.get(key.look, set())
            there.discard(key.frame)
            if not there:
                self.ready.pop(key.look, None)


class FrameStore:
    """Ready frames, uint8 (h, w, 4) premultiplied; thread-safe."""

    def __init__(self, budget: Budget = BUDGET) -> None:
        self._frames = _Frames(budget)

    @property
    def limit(self) -> int:
        """How many bytes frames may weigh at the most, together with all else that is kept."""
        return self._frames.budget.limit

    def get(self, key: FrameKey) -> np.ndarray | None:
        """Return the frame and mark it as used, or None."""
        return self._frames.peek(key)

    def put(self, key: FrameKey, frame: np.ndarray, seconds: float = 0.0) -> None:
        """Keep a frame that took so long to make."""
        self._frames.put(key, frame, seconds)

    def ready(self, version: int, composition: str, scale: float) -> set[int]:
        """Return the numbers of the frames that are ready for a version, composition and scale."""
        with self._frames.budget.lock:
            return set(self._frames.ready.get((version, composition, scale), ()))

    def holds(self, key: FrameKey) -> bool:
        """Whether a frame is there; does not count as use."""
        return key in self._frames

    @property
    def bytes(self) -> int:
        """What the held frames weigh."""
        return self._frames.bytes
