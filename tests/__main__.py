"""Run the tests and end with real counts: ``python -m tests [NAME ...]``."""

from __future__ import annotations

import os
import sys
import tempfile
import unittest
import warnings


def main() -> int:
    """Run all tests, or the modules, classes and methods that are named; return the exit code."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    with tempfile.TemporaryDirectory() as state:
        # No test may see or change the person's own recent projects, recovery copies or caches.
        os.environ["XDG_STATE_HOME"] = os.path.join(state, "state")
        os.environ["XDG_CACHE_HOME"] = os.path.join(state, "cache")
        loader = unittest.TestLoader()
        names = sys.argv[1:]
        suite = loader.loadTestsFromNames(names) if names else loader.discover("tests", top_level_dir=".")
        warnings.simplefilter("ignore", ResourceWarning)
        result = unittest.TextTestRunner(verbosity=1, buffer=False).run(suite)
    failed = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
    skipped = len(result.skipped)
    passed = result.testsRun - failed - skipped
    sys.stderr.flush()
    print(f"{passed} passed, {failed} failed, {skipped} skipped", flush=True)
    return 1 if failed or not result.testsRun else 0


if __name__ == "__main__":
    # Worker threads that Qt still holds must not keep the process from ending.
    code = main()
    sys.stdout.flush()
    os._exit(code)
