"""1000 small layers: opening the project, dragging one of them, and frames of them all on the move, at the resolution
of the canvas."""

from __future__ import annotations

import statistics
import tempfile
import time
from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path

import numpy as np
from attrs import evolve

from benchmarks.measure import figure
from spiralis.core.model import Composition, Key, Layer, Project, Track
from spiralis.core.render.frame import render_rgba8
from spiralis.core.storage import load, save

LAYERS, SCALE, CANVAS = 1000, 0.3, 0.45


def crowd(count: int = LAYERS) -> Project:
    """Return a project with that many small shapes."""
    random = np.random.Generator(np.random.Philox(9))
    forms = ("rectangle", "ellipse", "star")
    layers = tuple(
        Layer(f"Layer {index}", "shape", 0, 100, id=f"layer{index}").with_values(
            form=forms[index % 3], size=(30.0, 30.0), position=tuple(float(v) for v in random.uniform(0, 1080, 2)),
            fill=(*(float(v) for v in random.uniform(0, 1, 3)), 1.0),
        )
        for index in range(count)
    )  # fmt: skip
    return Project("Crowd", (Composition("Crowd", 1080, 1350, Fraction(25), 100, id="crowd", layers=layers),))


def on_the_move(count: int = LAYERS) -> Project:
    """Return as many layers that all travel and turn."""
    random, project = np.random.Generator(np.random.Philox(3)), crowd(count)
    layers = []
    for layer in project.compositions[0].layers:
        start = layer.track("position").value
        keys = (Key(0, start), Key(50, (start[0] + float(random.uniform(-200, 200)), start[1] + 100.0)), Key(99, start))
        layer = layer.with_track("position", Track(start, keys))
        layers.append(layer.with_track("rotation", Track(0.0, (Key(0, 0.0), Key(99, 360.0)))))
    return project.with_composition(evolve(project.compositions[0], layers=tuple(layers)))


def new_frame(project: Project) -> float:
    """Return the median seconds of a frame that was not drawn before."""
    taken = []
    for frame in range(3, 18):
        started = time.perf_counter()
        render_rgba8(project, "crowd", float(frame), CANVAS, 2)
        taken.append(time.perf_counter() - started)
    return statistics.median(taken)


def dragging(project: Project, turns: int = 20) -> float:
    """Return the mean seconds from moving one layer to the new picture."""
    render_rgba8(project, "crowd", 0, SCALE, 2)
    layer = project.compositions[0].layers[len(project.compositions[0].layers) // 2]
    started = time.perf_counter()
    for turn in range(turns):
        layer = layer.with_values(position=(500.0 + turn, 300.0))
        project = project.with_composition(project.compositions[0].with_layer(layer))
        render_rgba8(project, "crowd", 0, SCALE, 2)
    return (time.perf_counter() - started) / turns


def run() -> Iterator[str]:
    """Yield the figures."""
    project = crowd()
    with tempfile.TemporaryDirectory() as folder:
        save(project, Path(folder) / "crowd.spiralis")
        started = time.perf_counter()
        load(Path(folder) / "crowd.spiralis")
        yield figure("opening 1000 layers / 2 s", (time.perf_counter() - started) / 2.0, 1.0)
    thousand = dragging(project)
    yield figure("dragging among 1000 layers, a picture / 50 ms", thousand / 0.05, 1.0)
    yield figure("the same / among 100 layers, per layer", thousand / dragging(crowd(100)) / 10, 1.0)
    few, moving = new_frame(on_the_move(100)), new_frame(on_the_move())
    yield figure("a new frame of 1000 animated layers / 60 ms", moving / 0.06, 1.0)
    more = (new_frame(on_the_move(5000)) - few) / 4900
    yield figure("each layer more, from 100 to 5000 animated ones / 0.05 ms", more / 0.00005, 1.0)
