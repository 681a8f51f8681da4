"""Where errors are seen less: in contrast."""

from __future__ import annotations

import cv2
import numpy as np

#: Contrast around a pixel, in levels, from which on errors are seen less; how many times more they may be at most.
_CALM, _MOST = 7.65, 4.0


def masking(aim: np.ndarray) -> np.ndarray:
    """Return how many times further a pixel may be off than one in a calm area, float32 (h, w), 1 to 4.

    Errors hide in contrast: as in structural similarity (Wang et al., 2004) they count against the variance around
    them, with the constant that keeps calm areas finite.
    """
    luma = aim[..., :3].astype(np.float32) @ np.array([0.3, 0.59, 0.11], dtype=np.float32)
    mean = cv2.GaussianBlur(luma, (11, 11), 1.5)
    variance = np.maximum(cv2.GaussianBlur(luma * luma, (11, 11), 1.5) - mean * mean, 0.0)
    found: np.ndarray = np.minimum(np.sqrt(1 + variance / _CALM**2), _MOST)
    return found.astype(np.float32)
