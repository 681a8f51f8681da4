"""How far pixels of a GIF may be off: further in contrast, and where they go on to change anyway."""

from __future__ import annotations

from collections import deque
from collections.abc import Iterable, Iterator

import cv2
import numpy as np
from attrs import frozen

from spiralis.core.media.kernels import leeway as kernel

#: So many pictures are looked at to see how long a pixel rests, this one included.
AHEAD = 12
#: Steps from picture to picture up to so many levels are rest.
_REST = 3
# What is off is seen for as long as the pixel rests. Powers and constants were found by bytes at equal similarity.
_RESTS = np.maximum(np.arange(AHEAD + 1, dtype=np.float32), 1)
_STEADY, _LOSSY = _RESTS**-0.7, 1 / _RESTS


def resting(
    frames: Iterable[np.ndarray], ahead: int = AHEAD, following: np.ndarray | None = None
) -> Iterator[tuple[np.ndarray, np.ndarray]]:
    """Yield frames, straight uint8 (h, w, 4), each with how many pictures each of its pixels rests from it on.

    That is uint8 (h, w), 1 for what changes with the next picture (or there is none), at most ``ahead``; so many
    frames are held. Where one is ``following`` the last, what rests as far as that is taken to go on resting.
    """
    held: deque[np.ndarray] = deque()
    still: deque[np.ndarray] = deque()

    def first(goes_on: bool = False) -> tuple[np.ndarray, np.ndarray]:
        frame = held.popleft()
        count = _counted(frame.shape[:2], still, ahead if goes_on else 1)
        if still:
            still.popleft()
        return frame, count

    for frame in frames:
        if held and ahead > 1:
            still.append(_alike(held[-1], frame))
        held.append(frame)
        if len(held) == ahead:
            yield first()
    if held and following is not None and ahead > 1:
        still.append(_alike(held[-1], following))
    while held:
        yield first(following is not None)


def _alike(one: np.ndarray, other: np.ndarray) -> np.ndarray:
    red, green, blue = cv2.split(cv2.absdiff(one, other))[:3]
    most = cv2.max(cv2.max(red, green), blue)
    return cv2.threshold(most, _REST, 1, cv2.THRESH_BINARY_INV)[1]


def _counted(shape: tuple[int, ...], still: Iterable[np.ndarray], at_end: int) -> np.ndarray:
    """Return how many pictures in turn are alike, at least ``at_end`` where all are."""
    count = np.ones(shape, dtype=np.uint8)
    alive = np.ones(shape, dtype=np.uint8)
    for each in still:
        alive &= each
        count += alive
    return cv2.max(count, alive * np.uint8(at_end))


@frozen(eq=False)
class Leeway:
    """How far pixels of a picture may be off, as a share of the levels that are set: float32 (h, w) each.

    ``steady`` is for keeping a colour, ``lossy`` for another colour that packs better.
    """

    steady: np.ndarray
    lossy: np.ndarray


def leeway(pixels: np.ndarray, rests: np.ndarray) -> Leeway:
    """Return the leeway of a picture, uint8 (h, w, 3 or 4), whose pixels rest so long as ``resting`` says.

    Errors hide in contrast: as in structural similarity (Wang et al., 2004) they count against the variance around
    them, with a constant that keeps calm areas finite.
    """
    grey = cv2.cvtColor(pixels, cv2.COLOR_RGBA2GRAY if pixels.shape[2] == 4 else cv2.COLOR_RGB2GRAY).astype(np.float32)
    mean, squares = (cv2.GaussianBlur(values, (11, 11), 1.5) for values in (grey, grey * grey))
    made = Leeway(np.empty_like(grey), np.empty_like(grey))
    kernel.fill(mean, squares, rests, _STEADY, _LOSSY, made.steady, made.lossy)
    return made


def masking(pixels: np.ndarray) -> np.ndarray:
    """Return how many times further a pixel may be off than one in a calm area, float32 (h, w), 1 to 8."""
    return leeway(pixels, np.ones(pixels.shape[:2], dtype=np.uint8)).lossy
