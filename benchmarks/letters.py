"""2000 letters that arrive one after another: a frame that was not drawn before, at the resolution of the canvas."""

from __future__ import annotations

import statistics
import time
from collections.abc import Iterator
from fractions import Fraction

from benchmarks.measure import figure
from spiralis.core.model import Composition, Key, Layer, Project, Track
from spiralis.core.render.frame import render_rgba8

LETTERS, SCALE = 2000, 0.45


def arriving(count: int = LETTERS) -> Project:
    """Return so many letters in lines of fifty with a gap after each fifth."""
    lines = ("".join(chr(97 + (row * 7 + n * 3) % 26) + (" " if n % 5 == 4 else "") for n in range(50))
             for row in range(count // 50))  # fmt: skip
    words = Layer("Words", "text", 0, 100, id="words").with_values(
        text="\n".join(lines), size=26.0, position=(540.0, 675.0), spread_by="letters", spread_overlap=60.0,
        spread_place=(0.0, 80.0), spread_turn=40.0, spread_scale=40.0,
    )  # fmt: skip
    words = words.with_track("spread", Track(0.0, (Key(0, 0.0), Key(99, 100.0))))
    return Project("Letters", (Composition("Letters", 1080, 1350, Fraction(25), 100, id="c", layers=(words,)),))


def run() -> Iterator[str]:
    """Yield the figure."""
    project, taken = arriving(), []
    for frame in range(20, 45):
        started = time.perf_counter()
        render_rgba8(project, "c", float(frame), SCALE, 2)
        taken.append(time.perf_counter() - started)
    yield figure("2000 letters, part by part, a new frame / 25 ms", statistics.median(taken[5:]) / 0.025, 1.0)
