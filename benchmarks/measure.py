"""Timing by alternation: the two things compared take turns, and the medians are divided."""

from __future__ import annotations

import os
import statistics
import threading
import time
from collections.abc import Callable
from typing import TypeVar

from platformdirs import user_cache_path

from spiralis.core.render.store import FrameStore

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


#: A loop that takes longer than ever by no more than this runs at the full pace of a processor, which may be shared.
_SLOWER = 0.15
#: Where the least that the loop ever took on this machine is kept.
_LEAST = user_cache_path("spiralis") / "benchmarks-pace"


def at_full_pace() -> bool:
    """Whether all processors run as fast as they ever did.

    What others do on the same core, as on a machine that several share, halves what a processor does in a time, by
    turns of less than a second, and no counter tells of it. A loop of fixed length does: by the processor's own time,
    so that what other threads of this program do is not mistaken for it.
    """
    allowed = os.sched_getaffinity(0)
    taken = []
    for processor in allowed:
        os.sched_setaffinity(threading.get_native_id(), {processor})
        taken.append(_loop())
    os.sched_setaffinity(threading.get_native_id(), allowed)
    try:
        least = float(_LEAST.read_text(encoding="ascii"))
    except (OSError, ValueError):
        least = float("inf")
    if min(taken) < least:
        _LEAST.parent.mkdir(parents=True, exist_ok=True)
        _LEAST.write_text(repr(min(taken)), encoding="ascii")
    return max(taken) <= (1 + _SLOWER) * least


def _loop() -> float:
    started, total = time.thread_time(), 0
    for number in range(20_000):
        total += number * number % 7
    return time.thread_time() - started


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


def forget_frames(store: FrameStore) -> None:
    """Drop all frames that are ready, as if none of them had been made yet."""
    for key in store._frames.keys():  # noqa: SIM118
        store._frames.drop(key)
