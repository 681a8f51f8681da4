"""How much time and how many pixels one document may take until it is read."""

from __future__ import annotations

import time

from spiralis.core.media.svg.drawing_apart import TooMuch

SECONDS = 30.0
PIXELS = 160_000_000


class Allowance:
    """What is left for a document of a name; asking for more raises TooMuch with a sentence."""

    def __init__(self, name: str, seconds: float = SECONDS, pixels: int = PIXELS) -> None:
        self._name, self._seconds, self._most, self._pixels = name, seconds, pixels, float(pixels)
        self._ends = time.monotonic() + seconds

    def left(self) -> float:
        """Return how many seconds are left."""
        left = self._ends - time.monotonic()
        if left <= 0:
            raise TooMuch(f"“{self._name}” takes longer than {self._seconds:g} s to read; simplify it.")
        return left

    def take(self, pixels: float) -> None:
        """Take so many pixels for a picture of a part."""
        self._pixels -= pixels
        if self._pixels < 0:
            raise TooMuch(
                f"“{self._name}” has parts that need over {self._most // 1_000_000} million pixels as pictures; "
                "simplify it."
            )
