"""Timing by alternation: the two things compared take turns, and the medians are divided."""

from __future__ import annotations

import os
import statistics
import time
from collections.abc import Callable


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
