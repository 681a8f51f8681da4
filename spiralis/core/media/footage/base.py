"""What all sorts of clips share."""

from __future__ import annotations

from fractions import Fraction
from typing import Protocol

import numpy as np
from attrs import frozen

from spiralis.core.animation.source_time import Clock


@frozen
class Facts:
    """What is known of a clip without showing it: size as shown, when its frames begin, its mean rate, alpha."""

    width: int
    height: int
    clock: Clock
    rate: Fraction
    alpha: bool = False


class Clip(Protocol):
    """An open clip. Safe to use from several threads."""

    facts: Facts

    def frame(self, index: int) -> np.ndarray:
        """Return a frame as straight sRGB-encoded uint8 (height, width, 4); raises PictureError."""
        ...

    def close(self) -> None:
        """Let go of the file."""
        ...


def even_rate(
    ticks: tuple[int, ...], tick: Fraction, hint: Fraction | None
) -> tuple[tuple[int, ...], Fraction, Fraction]:
    """Return (ticks, tick, rate) of frames, at an exactly even rate where they were only rounded off one.

    Containers that count milliseconds show 33, 33, 34; a frame that is off an even grid by no more than one tick
    counts as being on it.
    """
    count = len(ticks) - 1
    rate = hint if hint is not None and hint > 0 else count / (ticks[-1] * tick)
    if 0 < rate <= 1000 and all(abs(t * tick - index / rate) <= tick for index, t in enumerate(ticks[:-1])):
        return tuple(range(count + 1)), 1 / rate, rate
    return ticks, tick, (count / (ticks[-1] * tick)).limit_denominator(1001)
