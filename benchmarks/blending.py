"""Source-over of a full frame beside copying it, on one thread."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from benchmarks.measure import alternate, figure
from spiralis.core.compositing.kernels.blending import over_row
from spiralis.core.compositing.kernels.output import store_rgba


def run() -> Iterator[str]:
    """Yield the figures."""
    random = np.random.default_rng(1)
    source, target, copy = (random.random(1350 * 1080 * 4, dtype=np.float32) for _ in range(3))
    rgba = np.empty((1350, 1080, 4), np.uint8)
    over, copying = alternate(lambda: over_row(source, target), lambda: np.copyto(copy, source), 25)
    yield figure("source-over of a 1080x1350 float frame / copying it", over / copying, 1.2)
    store, copying = alternate(
        lambda: store_rgba(source, 0, rgba, 0, 1350, 1080, True, False), lambda: np.copyto(copy, source), 25
    )
    yield figure("dithering that frame to 8 bit / copying it", store / copying, None)
