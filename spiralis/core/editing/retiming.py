"""Keys on the own frame in place of the settings that said what shows when."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction

from attrs import evolve

from spiralis.core.animation.easing import HOLD, LINEAR
from spiralis.core.model import Key, Layer, Track
from spiralis.core.render.layers import Evaluated

#: Beyond any speed, in own frames a frame.
_FAST = Fraction(10**9)


def retimed_by_keys(at: Evaluated, layer: Layer) -> Layer:
    """Return a clip, flipbook or nested composition whose keys show on each frame what it shows there now.

    As few keys as that takes: two where it runs evenly. Where nothing shows, there the frame before stays.
    """
    shown = [at.at_frame(frame).own_frame(layer) for frame in range(layer.first, layer.last)]
    known = [Fraction(own) for own in shown if own is not None]
    if not known:
        return layer.with_values(retime=True)
    filled, last = [], known[0]
    for own in shown:
        last = last if own is None else Fraction(own)
        filled.append(last)
    track = Track(round(float(filled[0]), 6), _keys(filled, layer.first))
    return layer.with_values(retime=True).with_track("own_frame", track)


def _keys(shown: Sequence[Fraction], first: int) -> tuple[Key, ...]:
    """Return keys whose straight ways, each frame's value rounded down, pass through all of these."""
    keys: list[Key] = []
    begin = 0
    while begin < len(shown):
        end, speed = _longest(shown, begin)
        keys.append(Key(first + begin, round(float(shown[begin]), 6), LINEAR))
        whole = end == len(shown)
        if end - begin > 1 or whole:
            # The last of all is on the frame after the layer, where its way would have come to.
            to = end if whole else end - 1
            value = round(float(shown[begin] + speed * (to - begin)), 6)
            keys.append(Key(first + to, value, LINEAR if whole else HOLD))
        else:
            keys[-1] = evolve(keys[-1], easing=HOLD)
        begin = end
    return tuple(keys)


def _longest(shown: Sequence[Fraction], begin: int) -> tuple[int, Fraction]:
    """Return how far an even way from one frame on shows what is to be shown, and its speed in own frames a frame."""
    slowest, fastest = -_FAST, _FAST
    for frame in range(begin + 1, len(shown)):
        after, way = frame - begin, shown[frame] - shown[begin]
        low, high = max(slowest, way / after), min(fastest, (way + _room(shown[frame])) / after)
        if low >= high:
            return frame, _speed(slowest)
        slowest, fastest = low, high
    return len(shown), _speed(slowest)


def _room(moment: Fraction) -> Fraction:
    """Return how far it is to where another picture shows; between two pictures each moment has one of its own."""
    return Fraction(1) if moment.denominator == 1 else Fraction(1, 10**6)


def _speed(slowest: Fraction) -> Fraction:
    return slowest if slowest > -_FAST else Fraction(0)
