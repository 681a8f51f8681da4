"""Run the benchmarks and print one line a figure: what, the ratio, the target, whether it is met.

``python -m benchmarks`` runs all, ``python -m benchmarks NAME ...`` some; it ends with 1 where a goal is missed.
"""

from __future__ import annotations

import importlib
import os
import sys
import tempfile
from pathlib import Path

from benchmarks.measure import MISSED

_HERE = Path(__file__).parent


def _names() -> list[str]:
    """Return the modules beside this one that have figures to give; the day that takes eleven minutes comes last."""
    found = (path.stem for path in _HERE.glob("*.py") if "\ndef run(" in path.read_text())
    return sorted(found, key=lambda name: (name == "long_day", name))


def main() -> int:
    """Run all, or those that are named; return 1 where a goal is missed."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    missed = 0
    with tempfile.TemporaryDirectory() as state:
        os.environ["XDG_STATE_HOME"] = state
        for name in sys.argv[1:] or _names():
            for figure in importlib.import_module(f"benchmarks.{name}").run():
                print(figure, flush=True)
                missed += f": {MISSED})" in figure
    return int(missed > 0)


if __name__ == "__main__":
    result = main()
    sys.stdout.flush()
    # Threads that still make frames must not keep the process from ending.
    os._exit(result)
