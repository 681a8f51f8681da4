"""A picture kept at several sizes, so that a large one is painted from one near the size it is seen at."""

from __future__ import annotations

import cv2
import numpy as np
from PyQt6.QtGui import QImage

from spiralis.app.widgets.images import as_image

_SMALLEST = 1000


class Pyramid:
    """The picture, and each time half of it; may be made in any thread."""

    def __init__(self, pixels: np.ndarray) -> None:
        """Take straight uint8 (h, w, 4)."""
        self.pixels = np.ascontiguousarray(pixels)
        # The images share the memory of these.
        self._levels = [self.pixels]
        while max(self._levels[-1].shape) > 2 * _SMALLEST:
            height, width = self._levels[-1].shape[:2]
            half = cv2.resize(self._levels[-1], (width // 2, height // 2), interpolation=cv2.INTER_AREA)
            self._levels.append(np.asarray(half))
        self._images = [as_image(level) for level in self._levels]

    def image(self, factor: float) -> QImage:
        """Return the smallest that has no fewer pixels than are seen; factor: pixels seen of one of the picture."""
        level = 0
        while level + 1 < len(self._images) and 0.5 ** (level + 1) >= factor:
            level += 1
        return self._images[level]
