"""Run the tests in two processes and end with real counts: ``python -m tests [NAME ...]``."""

from __future__ import annotations

import io
import multiprocessing
import os
import sys
import tempfile
import time
import unittest
import warnings
from concurrent.futures import ProcessPoolExecutor, as_completed
from concurrent.futures.process import BrokenProcessPool
from pathlib import Path

_PROCESSES = 2
#: Modules that take longest are begun first, so that no process ends with one of them alone.
_LONGEST = (
    "tests.app.test_edit_sequences", "tests.app.test_panels", "tests.app.test_files", "tests.app.test_animate",
    "tests.core.test_footage", "tests.core.test_export", "tests.app.test_sources",
)  # fmt: skip
Counts = tuple[int, int, int]


def _modules() -> list[str]:
    names = [".".join(path.with_suffix("").parts) for path in sorted(Path("tests").rglob("test_*.py"))]
    return sorted(names, key=lambda name: _LONGEST.index(name) if name in _LONGEST else len(_LONGEST))


def _prepare(folder: str) -> None:
    """Let no test see or change the person's own recent projects, recovery copies or caches."""
    own = os.path.join(folder, str(os.getpid()))
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    for kind in ("STATE", "CACHE", "CONFIG"):
        os.environ[f"XDG_{kind}_HOME"] = os.path.join(own, kind.lower())


def _run(name: str, stream: object) -> Counts:
    suite = unittest.TestLoader().loadTestsFromName(name)
    warnings.simplefilter("ignore", ResourceWarning)
    result = unittest.TextTestRunner(stream=stream, verbosity=1).run(suite)
    failed = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
    skipped = len(result.skipped)
    return result.testsRun - failed - skipped, failed, skipped


def _worker(name: str) -> tuple[str, Counts, str, float]:
    started, text = time.perf_counter(), io.StringIO()
    counts = _run(name, text)
    return name, counts, text.getvalue(), time.perf_counter() - started


def _in_parallel(folder: str) -> Counts:
    passed = failed = skipped = 0
    context = multiprocessing.get_context("spawn")
    with ProcessPoolExecutor(_PROCESSES, context, initializer=_prepare, initargs=(folder,)) as pool:
        running = {pool.submit(_worker, name): name for name in _modules()}
        for future in as_completed(running):
            try:
                name, counts, text, seconds = future.result()
            except BrokenProcessPool:
                print(f"{running[future]}: the process ended before its tests did", file=sys.stderr, flush=True)
                failed += 1
                continue
            passed, failed, skipped = passed + counts[0], failed + counts[1], skipped + counts[2]
            print(f"{name}: {counts[0]} passed in {seconds:.1f} s", file=sys.stderr, flush=True)
            if counts[1]:
                print(text, file=sys.stderr, flush=True)
    return passed, failed, skipped


def main() -> int:
    """Run all tests, or the modules, classes and methods that are named; return the exit code."""
    names = sys.argv[1:]
    with tempfile.TemporaryDirectory(ignore_cleanup_errors=True) as folder:
        if names:
            _prepare(folder)
            rows = [_run(name, sys.stderr) for name in names]
            passed, failed, skipped = (sum(row[i] for row in rows) for i in range(3))
        else:
            passed, failed, skipped = _in_parallel(folder)
    sys.stderr.flush()
    print(f"{passed} passed, {failed} failed, {skipped} skipped", flush=True)
    return 1 if failed or not passed + skipped else 0

