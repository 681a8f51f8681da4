"""Run the benchmarks and print one line a figure: what, the ratio, the target, whether it is met.

``python -m benchmarks`` runs all, ``python -m benchmarks NAME ...`` some; it ends with 1 where a goal is missed.
"""

from __future__ import annotations

import importlib
import os
import sys
import tempfile

from benchmarks.measure import MISSED

NAMES = (
    "blending", "evaluation", "render", "filter_graph", "reference_scene", "export", "latency", "following", "start",
    "artwork", "many_layers", "copies", "effects", "many_effects", "depth", "particles", "taking_apart", "ties",
    "stalls", "long_day",
)  # fmt: skip


def main() -> int:
    """Run all, or those that are named; return 1 where a goal is missed."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    missed = 0
    with tempfile.TemporaryDirectory() as state:
        os.environ["XDG_STATE_HOME"] = state
        for name in sys.argv[1:] or NAMES:
            for figure in importlib.import_module(f"benchmarks.{name}").run():
                print(figure, flush=True)
                missed += f": {MISSED})" in figure
    return int(missed > 0)


if __name__ == "__main__":
    result = main()
    sys.stdout.flush()
    # Threads that still make frames must not keep the process from ending.
    os._exit(result)
