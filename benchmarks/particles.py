"""Particles: what fifty thousand and five thousand soft ones cost beside copying their frame, and what they keep."""

from __future__ import annotations

import resource
import time
from collections.abc import Iterator
from fractions import Fraction

import numpy as np

from benchmarks.measure import figure
from spiralis.core.model import Composition, Layer, Project
from spiralis.core.render.frame import render_rgba8

SIDE = 1080


def cloud(count: int) -> Project:
    """Return soft particles that wander about over the whole frame, on nothing."""
    layer = Layer("Cloud", "particles", 0, 100, id="cloud").with_values(
        count=float(count), region=(900.0, 900.0), turbulence=80.0, depth_range=300.0, size=8.0, mix="add",
        twinkle=40.0,
        position=(SIDE / 2, SIDE / 2),
    )  # fmt: skip
    return Project("Cloud", (Composition("Cloud", SIDE, SIDE, Fraction(25), 100, loop=True, id="c", layers=(layer,)),))


def _drawing(count: int) -> float:
    """Return the mean seconds of a new frame at full size."""
    project = cloud(count)
    render_rgba8(project, "c", 0, 1.0, 2)
    started = time.perf_counter()
    for frame in range(10, 20):
        render_rgba8(project, "c", frame, 1.0, 2)
    return (time.perf_counter() - started) / 10


def _copying() -> float:
    """Return the seconds of copying the frame as the float32 pixels that are drawn, the best of many."""
    frame = np.zeros((SIDE, SIDE, 4), dtype=np.float32)
    out = np.empty_like(frame)
    times = []
    for _ in range(40):
        started = time.perf_counter()
        np.copyto(out, frame)
        times.append(time.perf_counter() - started)
    return min(times)


def run() -> Iterator[str]:
    """Yield the lines."""
    copying = _copying()
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    yield figure("a frame of 50,000 soft particles / copying the frame", _drawing(50_000) / copying, 30.0)
    grown = (resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before) / 1024
    yield figure("the same of 5,000", _drawing(5_000) / copying, 8.0)
    yield figure("memory that 50,000 take, MB", grown, 200.0)
