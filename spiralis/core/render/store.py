"""Frames held ready for playback, among everything else that the program keeps."""

from __future__ import annotations

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


class FrameStore:
    """Ready frames, uint8 (h, w, 4) premultiplied; thread-safe."""

    def __init__(self, budget: Budget = BUDGET) -> None:
        self._frames: CacheSection[np.ndarray] = CacheSection(lambda frame: frame.nbytes, budget)

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
        wanted = (version, composition, scale)
        keys = (key for key in self._frames.keys() if isinstance(key, FrameKey))  # noqa: SIM118
        return {key.frame for key in keys if (key.version, key.composition, key.scale) == wanted}

    def holds(self, key: FrameKey) -> bool:
        """Whether a frame is there; does not count as use."""
        return key in self._frames

    @property
    def bytes(self) -> int:
        """What the held frames weigh."""
        return self._frames.bytes
