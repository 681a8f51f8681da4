"""Run the benchmarks and print one line a figure: what, the ratio, the target, whether it is met."""

from __future__ import annotations

import importlib
import os
import sys
import tempfile

NAMES = (
    "blending", "evaluation", "render", "filter_graph", "export", "latency", "start", "artwork", "many_layers",
    "copies", "effects", "many_effects", "reference_scene", "ties", "stalls",
)  # fmt: skip


def main() -> None:
    """Run all, or those that are named."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    with tempfile.TemporaryDirectory() as state:
        os.environ["XDG_STATE_HOME"] = state
        for name in sys.argv[1:] or NAMES:
            for figure in importlib.import_module(f"benchmarks.{name}").run():
                print(figure, flush=True)
    sys.stdout.flush()
    os._exit(0)


if __name__ == "__main__":
    main()
