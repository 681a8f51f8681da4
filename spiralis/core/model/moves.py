"""A move that a layer has taken: which, when, and how; its keys are ordinary keys of the layer."""

from __future__ import annotations

import math

from attrs import frozen

from spiralis.core.errors import ModelError

PARTS = ("whole", "letters", "words", "lines")


@frozen
class MoveUse:
    """A move over frames ``first`` to ``first + length``.

    ``strength`` and ``softness`` are in %, ``direction`` in degrees, 0 to the right and 90 down; a loop goes round
    ``times`` times. ``part`` moves a text's letters, words or lines one after another.
    """

    name: str
    first: int
    length: int
    strength: float = 100.0
    direction: float = 0.0
    softness: float = 60.0
    times: int = 1
    part: str = "whole"

    def __attrs_post_init__(self) -> None:
        if not all(math.isfinite(number) for number in (self.strength, self.direction, self.softness)):
            raise ModelError("A move's strength, direction and softness are ordinary numbers.")
        if not (1 <= self.length <= 100_000 and 1 <= self.times <= 1000 and abs(self.first) <= 10_000_000):
            raise ModelError("A move takes 1 to 100000 frames and goes round 1 to 1000 times.")
        if not (0 <= self.strength <= 1000 and 0 <= self.softness <= 100) or self.part not in PARTS:
            raise ModelError("A move's strength is 0 to 1000 %, its softness 0 to 100 %, its part one of four.")

    @property
    def last(self) -> int:
        """The frame on which it ends."""
        return self.first + self.length
