"""Run the tests in two or three processes and end with real counts: ``python -m tests [NAME ...]``."""

from __future__ import annotations

import faulthandler
import io
import multiprocessing
import os
import sys
import tempfile
import time
import unittest
import warnings
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor, ThreadPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from pathlib import Path

from spiralis.core.machine import memory
from tests import live_in

#: Windows wait more than they work: three of them keep two cores busy, where there is memory for that many.
_PROCESSES = 3 if memory() > 15 << 30 else 2
#: Modules that take longest are begun first, so that no process ends with one of them alone.
_LONGEST = (
    "tests.app.test_fill_in", "tests.app.test_told_to_end", "tests.app.test_touching", "tests.app.test_export",
    "tests.app.test_staying_alive", "tests.app.test_panels", "tests.app.test_animate", "tests.app.test_drags",
    "tests.app.test_files", "tests.app.test_room", "tests.app.test_moves", "tests.app.test_depth",
    "tests.core.test_remote", "tests.core.test_targets", "tests.core.test_model", "tests.core.test_export",
)  # fmt: skip
#: A module that takes longer hangs: its process says where each of its threads stands, and ends. Seconds.
_LONGEST_TIME = 300
#: Of more modules that fail none is run again.
_MOST_AGAIN = 3
Counts = tuple[int, int, int]
Outcome = tuple[Counts, str, float]


def _modules() -> list[str]:
    """Return the names of all modules, those of the core, which seldom wait, spread evenly among those of windows."""
    names = [".".join(path.with_suffix("").parts) for path in sorted(Path("tests").rglob("test_*.py"))]
    names.sort(key=lambda name: _LONGEST.index(name) if name in _LONGEST else len(_LONGEST))
    kinds = [[name for name in names if name.startswith("tests.app.") is windowed] for windowed in (True, False)]
    places = [((place + 0.5) / len(kind), name) for kind in kinds for place, name in enumerate(kind)]
    return [name for _, name in sorted(places)]


def _prepare(folder: str) -> None:
    """Give each process a home of its own: one's favourites are not the other's."""
    live_in(os.path.join(folder, str(os.getpid())))


def _run(name: str, stream: object) -> Counts:
    suite = unittest.TestLoader().loadTestsFromName(name)
    warnings.simplefilter("ignore", ResourceWarning)
    result = unittest.TextTestRunner(stream=stream, verbosity=1).run(suite)
    failed = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
    skipped = len(result.skipped)
    return result.testsRun - failed - skipped, failed, skipped


def _worker(name: str) -> Outcome:
    started, text = time.perf_counter(), io.StringIO()
    faulthandler.enable()
    faulthandler.dump_traceback_later(_LONGEST_TIME, exit=True)
    try:
        counts = _run(name, text)
    finally:
        faulthandler.cancel_dump_traceback_later()
    return counts, text.getvalue(), time.perf_counter() - started


class _Lane:
    """One process that runs modules, one after the other; where one ends it, the next gets a new process."""

    def __init__(self, folder: str) -> None:
        self._folder = folder
        self._pool: ProcessPoolExecutor | None = None

    def run(self, name: str) -> Outcome:
        if self._pool is None:
            context = multiprocessing.get_context("spawn")
            self._pool = ProcessPoolExecutor(1, context, initializer=_prepare, initargs=(self._folder,))
        try:
            return self._pool.submit(_worker, name).result()
        except BrokenProcessPool:
            self._pool = None
            return (0, 1, 0), f"{name}: the process ended before its tests did", 0.0


def _said(name: str, outcome: Outcome, where: str = "") -> Counts:
    counts, text, seconds = outcome
    print(f"{name}: {counts[0]} passed in {seconds:.1f} s{where}", file=sys.stderr, flush=True)
    if counts[1]:
        print(text, file=sys.stderr, flush=True)
    return counts


def _in_parallel(folder: str) -> Counts:
    waiting, done = _modules(), dict[str, Counts]()

    def work(run: Callable[[str], Outcome]) -> None:
        while waiting:
            name = waiting.pop(0)
            done[name] = _said(name, run(name))

    with ThreadPoolExecutor(_PROCESSES) as threads:
        for lane in [threads.submit(work, _Lane(folder).run) for _ in range(_PROCESSES)]:
            lane.result()
    _again_alone(folder, done)
    passed, failed, skipped = (sum(row[i] for row in done.values()) for i in range(3))
    return passed, failed, skipped


def _again_alone(folder: str, done: dict[str, Counts]) -> None:
    """Run what failed once more with the machine to itself, and say so: a window that another process has starved may
    be late for a test. What fails then too has failed; many failures at once are no accident."""
    broken = [name for name, counts in done.items() if counts[1]]
    if len(broken) > _MOST_AGAIN:
        return
    for name in broken:
        print(f"{name} failed beside another module; once more, alone:", file=sys.stderr, flush=True)
        done[name] = _said(name, _Lane(folder).run(name), " alone, after failing beside another module")


def main() -> int:
    """Run all tests, or the modules, classes and methods that are named; return the exit code."""
    names = sys.argv[1:]
    with tempfile.TemporaryDirectory(ignore_cleanup_errors=True) as folder:
        if names:
            rows = [_run(name, sys.stderr) for name in names]
            passed, failed, skipped = (sum(row[i] for row in rows) for i in range(3))
        else:
            passed, failed, skipped = _in_parallel(folder)
    sys.stderr.flush()
    print(f"{passed} passed, {failed} failed, {skipped} skipped", flush=True)
    return 1 if failed or not passed + skipped else 0
