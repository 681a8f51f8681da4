"""Which frame of footage or which drawing of a flipbook shows at a time. All sums are exact."""

from __future__ import annotations

import math
from bisect import bisect_right
from collections.abc import Mapping
from fractions import Fraction
from functools import lru_cache
from itertools import accumulate

from attrs import evolve, frozen

from spiralis.core.model.parameter import Kind, Parameter, Value

ENDS = ("loop", "ping-pong", "hold", "once")

TIMING: tuple[Parameter, ...] = (
    Parameter("start", "Start", Kind.NUMBER, 0.0, "The frame of the composition at which it begins", "f",
              counts_frames=True,
              group="Timing", steady=True),
    Parameter("in", "In", Kind.NUMBER, 0.0, "The first own frame that is used", "f", 0, group="Timing", steady=True),
    Parameter("out", "Out", Kind.NUMBER, 0.0, "The own frame before which it ends; 0 is the very end", "f", 0,
              group="Timing", steady=True),
    Parameter("own_rate", "Own rate", Kind.NUMBER, 0.0, "Own frames a second; 0 takes those of the file", "fps",
              0, 240, group="Timing", steady=True, needs=("fit", (False,))),
    Parameter("speed", "Speed", Kind.NUMBER, 100.0, "How fast it runs", "%", 0, 10_000, 10, group="Timing", steady=True,
              needs=("fit", (False,))),
    Parameter("retime", "Retime", Kind.SWITCH, False, "Whether keys on the own frame say what shows when",
              group="Timing", steady=True),
    Parameter("own_frame", "Own frame", Kind.NUMBER, 0.0, "Which own frame shows; whole ones are its pictures", "f",
              -1e6, 1e6, group="Timing", needs=("retime", (True,))),
    Parameter("step_time", "Step time", Kind.NUMBER, 1.0, "Every how many frames a new picture may come", "f", 1, 100,
              counts_frames=True,
              group="Timing", steady=True),
    Parameter("reverse", "Reverse", Kind.SWITCH, False, "Runs backwards", group="Timing", steady=True),
    Parameter("fit", "Fit to length", Kind.SWITCH, False, "Runs once over the layer's whole span",
              group="Timing", steady=True),
    Parameter("ends", "Ends", Kind.CHOICE, "loop", "What shows before the first and after the last picture",
              group="Timing", steady=True, choices=ENDS, needs=("fit", (False,))),
)  # fmt: skip


@frozen
class Clock:
    """When own pictures begin: ``ticks`` ascend from 0, the last one is the end; a tick lasts ``tick`` seconds."""

    ticks: tuple[int, ...]
    tick: Fraction

    @property
    def count(self) -> int:
        """How many pictures there are."""
        return len(self.ticks) - 1

    def at_rate(self, rate: Fraction) -> Clock:
        """Return the clock of the same pictures at an even rate."""
        return even_clock(self.count, rate)

    def cut(self, first: int, last: int) -> Clock:
        """Return the clock of pictures first to last - 1."""
        part = self.ticks[first : last + 1]
        return Clock(tuple(tick - part[0] for tick in part), self.tick)


@frozen
class Span:
    """What source time depends on beside the values: the moment and the layer's span, in composition frames."""

    frame: Fraction
    rate: Fraction
    first: int
    last: int


def even_clock(count: int, rate: Fraction) -> Clock:
    """Return the clock of ``count`` pictures at an even rate."""
    return Clock(tuple(range(count + 1)), 1 / rate)


def shown(clock: Clock, values: Mapping[str, Value], span: Span) -> int | None:
    """Return the index of the picture that shows, or None for none.

    Looping is half open, so that no picture doubles; ping-pong shows neither end twice.
    """
    if clock.count < 1:
        return None
    if values["retime"]:
        own = math.floor(asked_frame(values))
        return own % clock.count if values["ends"] == "loop" else min(max(own, 0), clock.count - 1)
    span = stepped(values, span)
    first = min(int(values["in"]), clock.count - 1)
    last = min(int(values["out"]), clock.count) if values["out"] >= 1 else clock.count
    last = max(last, first + 1)
    rate = Fraction(values["own_rate"]).limit_denominator(100_000)
    cut = _cut(clock, first, last, rate, values["reverse"])
    if values["fit"]:
        share = (Fraction(span.frame) - span.first) / (span.last - span.first)
        place, ends = share * cut.ticks[-1], "loop"
    else:
        seconds = (Fraction(span.frame) - Fraction(values["start"])) / span.rate
        place = seconds / cut.tick * Fraction(values["speed"]) / 100
        ends = values["ends"]
    index = _index(cut, place, ends)
    if index is None:
        return None
    return first + (cut.count - 1 - index if values["reverse"] else index)


def asked_frame(values: Mapping[str, Value]) -> float:
    """Return which own frame keys ask for. What arithmetic leaves beside a whole one is that one: it shows from there
    on."""
    return round(float(values["own_frame"]), 6)


def stepped(values: Mapping[str, Value], span: Span) -> Span:
    """Return the span with its moment held back to the last step: on twos, threes and so on, from the start on."""
    step = int(values["step_time"])
    if step <= 1:
        return span
    start = Fraction(values["start"])
    return evolve(span, frame=start + (Fraction(span.frame) - start) // step * step)


@lru_cache(maxsize=256)
def _cut(clock: Clock, first: int, last: int, rate: Fraction, backwards: bool) -> Clock:
    cut = clock.cut(first, last)
    if rate > 0:
        return cut.at_rate(rate)
    return Clock(tuple(cut.ticks[-1] - tick for tick in reversed(cut.ticks)), cut.tick) if backwards else cut


@lru_cache(maxsize=64)
def there_and_back(clock: Clock) -> Clock:
    """Return the clock of one round of a clip that runs there and back, neither end twice."""
    lengths = [b - a for a, b in zip(clock.ticks, clock.ticks[1:], strict=False)]
    return Clock((0, *accumulate((*lengths, *lengths[-2:0:-1]))), clock.tick)


def _index(clock: Clock, place: Fraction, ends: str) -> int | None:
    end = clock.ticks[-1]
    if ends == "ping-pong" and clock.count > 2:
        both = there_and_back(clock)
        index = bisect_right(both.ticks, place % both.ticks[-1]) - 1
        return index if index < clock.count else 2 * (clock.count - 1) - index
    if ends in ("loop", "ping-pong"):
        place %= end
    elif not 0 <= place < end:
        if ends == "once":
            return None
        return 0 if place < 0 else clock.count - 1
    return min(bisect_right(clock.ticks, place) - 1, clock.count - 1)
