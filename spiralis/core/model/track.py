"""One property over time: a resting value, keys, and what happens outside the keys."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Callable, Sequence
from enum import StrEnum

from attrs import evolve, field, frozen

from spiralis.core.animation.easing import LINEAR, Easing
from spiralis.core.errors import ModelError
from spiralis.core.model.drivers import Driver, Wobble
from spiralis.core.model.parameter import Value

Point = tuple[float, float]


class Rule(StrEnum):
    """What a thread does outside its keys."""

    ONCE = "once"
    REPEAT = "repeat"
    PING_PONG = "ping-pong"
    ACCUMULATE = "accumulate"
    CARRY_ON = "carry-on"


@frozen
class Extend:
    """An extend rule and how many cycles it lasts (0: for ever)."""

    rule: Rule = Rule.ONCE
    count: int = 0


@frozen
class Key:
    """A value at a frame.

    ``easing`` shapes the way to the *next* key. On a motion path ``handle_in`` and ``handle_out`` are
    the spatial Bezier handles in pixels, relative to the key's position.
    """

    frame: int
    value: Value
    easing: Easing = LINEAR
    handle_in: Point | None = None
    handle_out: Point | None = None


def _ordered(keys: tuple[Key, ...]) -> tuple[Key, ...]:
    if len(keys) < 2:
        return tuple(keys)
    ordered = tuple(sorted(keys, key=lambda key: key.frame))
    for left, right in zip(ordered, ordered[1:], strict=False):
        if left.frame == right.frame:
            raise ModelError(f"Two keys of one thread cannot share frame {left.frame}.")
    return ordered


def turned(run: Sequence[Key], at: Callable[[int], int]) -> list[Key]:
    """Return keys in the opposite order, their eases and handles turned around; ``at`` gives the new frames."""
    made = []
    for index, key in enumerate(run):
        # The ease belongs to the way to the next key, which is now the way from the one before.
        easing = run[index - 1].easing.reversed_in_time() if index > 0 else run[-1].easing
        made.append(evolve(key, frame=at(key.frame), easing=easing, handle_in=key.handle_out, handle_out=key.handle_in))
    return made[::-1]


@frozen
class Track:
    """A property's resting value (used while there are no keys), its keys in order, its extend rules.

    A ``driver`` takes the place of the keys; a ``wobble`` comes on top of either.
    """

    value: Value
    keys: tuple[Key, ...] = field(default=(), converter=_ordered)
    before: Extend = Extend()
    after: Extend = Extend()
    driver: Driver | None = None
    wobble: Wobble | None = None

    @property
    def animated(self) -> bool:
        """Whether there are keys."""
        return bool(self.keys)

    @property
    def moving(self) -> bool:
        """Whether the value may change over time."""
        return bool(self.keys) or self.driver is not None or self.wobble is not None

    def index_at(self, frame: int) -> int | None:
        """Return the index of the key on that very frame, if there is one."""
        index = bisect_left(self.keys, frame, key=lambda key: key.frame)
        return index if index < len(self.keys) and self.keys[index].frame == frame else None

    def with_key(self, key: Key) -> Track:
        """Return the track with the key added, in place of one on the same frame."""
        return evolve(self, keys=(*(k for k in self.keys if k.frame != key.frame), key))

    def mapped(self, change: Callable[[Value], Value]) -> Track:
        """Return the track with its resting value and the value of each key changed alike."""
        keys = tuple(evolve(key, value=change(key.value)) for key in self.keys)
        return evolve(self, value=change(self.value), keys=keys)

    def without_keys(self, frames: set[int]) -> Track:
        """Return the track without the keys on these frames; the first value stays as the resting one."""
        kept = tuple(key for key in self.keys if key.frame not in frames)
        value = self.value if kept or not self.keys else self.keys[0].value
        return evolve(self, keys=kept, value=value)

    def moved(self, frames: set[int], by: int) -> Track:
        """Return the track with the keys on these frames moved; they replace what they land on."""
        moving = [evolve(key, frame=key.frame + by) for key in self.keys if key.frame in frames]
        landed = {key.frame for key in moving}
        staying = [key for key in self.keys if key.frame not in frames and key.frame not in landed]
        return evolve(self, keys=(*staying, *moving))
