"""Timing by alternation: the two things compared take turns, and the medians are divided."""

from __future__ import annotations

import os
import statistics
import time
from collections.abc import Callable
from typing import TypeVar

T = TypeVar("T")


def alternate(
    ours: Callable[[], object],
    reference: Callable[[], object],
    turns: int = 15,
    clock: Callable[[], float] = time.perf_counter,
) -> tuple[float, float]:
    """Return the median seconds of both, measured in turns after one warm-up each."""
    ours()
    reference()
    taken: tuple[list[float], list[float]] = ([], [])
    for _ in range(turns):
        for index, work in enumerate((ours, reference)):
            started = clock()
            work()
            taken[index].append(clock() - started)
    return statistics.median(taken[0]), statistics.median(taken[1])


#: So much of a machine's time taken by others counts as quiet, and so often is a figure taken until it was.
_QUIET, _TRIES = 0.03, 4


def quietest(taken: Callable[[], T]) -> tuple[T, str]:
    """Return what a measurement gives when the machine is its own, and a note of how much others took meanwhile.

    A virtual machine's processors are lent: the time in which they were wanted and given to others is told by
    ``/proc/stat`` (steal). Where it was more than 3 % the measurement is repeated, four times at most, and the
    quietest of them counts, whatever it reads.
    """
    best: tuple[float, T, int] | None = None
    for turn in range(_TRIES):
        before = _processors()
        value = taken()
        after = _processors()
        share = (after[0] - before[0]) / max(after[1] - before[1], 1)
        if best is None or share < best[0]:
            best = share, value, turn + 1
        if share <= _QUIET:
            break
    assert best is not None
    return best[1], f"try {best[2]}, others took {100 * best[0]:.0f} %"


def _processors() -> tuple[int, int]:
    """Return the ticks of all processors: those that others took, and all."""
    try:
        with open("/proc/stat", encoding="ascii") as counts:
            ticks = [int(word) for word in counts.readline().split()[1:9]]
    except OSError:
        return 0, 0
    return ticks[7], sum(ticks)


#: Where it is set, goals may be missed by so many times: other work on a machine must not fail a check.
MARGIN = "SPIRALIS_BENCHMARK_MARGIN"
#: What is printed where a goal is not reached.
MISSED = "MISSED"


def figure(what: str, value: float, target: float | None, at_most: bool = True, note: str = "") -> str:
    """Return the line that is printed."""
    line = f"{what}: {value:.2f}"
    if target is not None:
        margin = float(os.environ.get(MARGIN, "1"))
        far = value / target if at_most else target / max(value, 1e-9)
        reached = "met" if far <= 1 else f"within {margin:g} times" if far <= margin else MISSED
        line += f" ({'at most' if at_most else 'at least'} {target:g}: {reached})"
    return f"{line}{'; ' + note if note else ''}"
