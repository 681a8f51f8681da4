"""Evaluating many keys over many frames beside copying frames."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from benchmarks.measure import alternate, figure
from spiralis.core.animation.easing import CubicBezier
from spiralis.core.animation.tracks import evaluate
from spiralis.core.model import Key, Kind, Parameter, Track

PARAMETER = Parameter("n", "Number", Kind.NUMBER, 0.0, "")


def run() -> Iterator[str]:
    """Yield the figures."""
    ease = CubicBezier(0.3, 0.1, 0.2, 1)
    tracks = [Track(0.0, tuple(Key(f * 3, float((f * 7 + n) % 13), ease) for f in range(100))) for n in range(100)]
    frames = np.arange(300.0)
    source = np.random.default_rng(2).random(1350 * 1080 * 4, dtype=np.float32)
    copies = [np.empty_like(source) for _ in range(2)]

    def copy_ten() -> None:
        for n in range(10):
            np.copyto(copies[n % 2], source)

    ours, copying = alternate(lambda: [evaluate(track, PARAMETER, frames) for track in tracks], copy_ten, 5)
    yield figure("evaluating 10,000 keys over 300 frames / copying ten full frames", ours / copying, None)
