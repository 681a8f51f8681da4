"""What a frame of the demo costs, in copies of a frame."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import cycle

import numpy as np

from benchmarks.measure import alternate, figure
from spiralis.core.render.frame import render_rgba8
from spiralis.demo.project import demo_project


def run() -> Iterator[str]:
    """Yield the figures."""
    demo = demo_project()
    source = np.random.default_rng(3).random(1350 * 1080 * 4, dtype=np.float32)
    copy = np.empty_like(source)
    for threads in (1, 2):
        frames = cycle(range(0, 150, 7))
        ours, copying = alternate(
            lambda frames=frames, threads=threads: render_rgba8(demo, "kite-day", next(frames), threads=threads),
            lambda: np.copyto(copy, source),
            22,
        )
        yield figure(
            f"a frame of Kite day on {threads} thread{'s' * (threads > 1)} / copying a frame", ours / copying, None
        )
