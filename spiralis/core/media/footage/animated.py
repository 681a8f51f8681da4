"""Animated WebP, which Pillow decodes."""

from __future__ import annotations

import io
import threading
from fractions import Fraction
from itertools import accumulate
from pathlib import Path

import numpy as np
from PIL import Image

from spiralis.core.animation.source_time import Clock
from spiralis.core.errors import PictureError
from spiralis.core.media.footage.base import Facts, even_rate

MOST_FRAMES = 20_000


class AnimatedClip:
    """An animated WebP; Pillow puts each frame together from the ones before it."""

    def __init__(self, data: bytes | Path, digest: str, name: str) -> None:
        self._name = name
        self._lock = threading.Lock()
        try:
            self._image = Image.open(io.BytesIO(data) if isinstance(data, bytes) else data, formats=["WEBP"])
            count = min(int(getattr(self._image, "n_frames", 1)), MOST_FRAMES)
            lengths = []
            for index in range(count):
                self._image.seek(index)
                self._image.load()
                lengths.append(max(int(self._image.info.get("duration", 100) or 100), 1))
        except Exception as error:  # decoders raise all kinds of errors on broken bytes
            raise PictureError(f"“{name}” is not a moving WebP that can be read; convert it.") from error
        ticks, tick, rate = even_rate((0, *accumulate(lengths)), Fraction(1, 1000), None)
        self.facts = Facts(*self._image.size, Clock(ticks, tick), rate, True)

    def frame(self, index: int) -> np.ndarray:
        """Return a frame as straight uint8 (height, width, 4)."""
        with self._lock:
            try:
                self._image.seek(min(max(index, 0), self.facts.clock.count - 1))
                return np.array(self._image.convert("RGBA"))
            except Exception as error:
                raise PictureError(f"“{self._name}” cannot be decoded at frame {index}; convert it.") from error

    def close(self) -> None:
        """Let go of the file."""
        self._image.close()
