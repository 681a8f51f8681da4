"""A strip of poses: values of some layers, how long each stays, and how many in-betweens lead to the next."""

from __future__ import annotations

import math

from attrs import frozen

from spiralis.core.errors import ModelError
from spiralis.core.model.parameter import Value

MOST_POSES = 500


@frozen
class Pose:
    """The captured values, each (layer id, property, value); ``stay`` and ``between`` in frames."""

    name: str
    values: tuple[tuple[str, str, Value], ...] = ()
    stay: int = 6
    between: int = 8

    def __attrs_post_init__(self) -> None:
        if not (1 <= self.stay <= 10_000 and 0 <= self.between <= 10_000):
            raise ModelError("A pose stays for 1 to 10000 frames, with 0 to 10000 in-betweens to the next.")

    def look(self) -> dict[tuple[str, str], Value]:
        """Return the values by layer id and property."""
        return {(layer, name): value for layer, name, value in self.values}


@frozen
class PoseStrip:
    """Poses in turn from frame ``first`` on; ``returns`` leads back to the first one; ``softness`` in %."""

    poses: tuple[Pose, ...] = ()
    first: int = 0
    returns: bool = True
    softness: float = 60.0

    def __attrs_post_init__(self) -> None:
        if len(self.poses) > MOST_POSES or abs(self.first) > 1_000_000:
            raise ModelError(f"A strip has up to {MOST_POSES} poses.")
        if not (math.isfinite(self.softness) and 0 <= self.softness <= 100):
            raise ModelError("A strip's softness is 0 to 100 %.")

    @property
    def begins(self) -> tuple[int, ...]:
        """The frame on which each pose begins, and last the one on which the first one would be back."""
        frames = [self.first]
        for pose in self.poses:
            frames.append(frames[-1] + pose.stay + pose.between)
        return tuple(frames)
