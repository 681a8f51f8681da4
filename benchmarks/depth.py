"""Depth: ten cards of a full-frame scene in space beside the same ten lying flat, with a camera that drifts."""

from __future__ import annotations

import time
from collections.abc import Iterator
from fractions import Fraction

import numpy as np
from attrs import evolve

from benchmarks.measure import figure
from spiralis.core.media.pictures import picture_source
from spiralis.core.model import Composition, Key, Layer, Project, Track
from spiralis.core.render.frame import render_rgba8
from spiralis.demo.cloth import png


def scene(depth: bool) -> Project:
    """Return ten soft pictures over a frame; all move all the time."""
    rng = np.random.default_rng(2)
    pixels = rng.integers(0, 255, (60, 50, 4)).astype(np.uint8).repeat(12, axis=0).repeat(12, axis=1)
    source = picture_source(png(pixels), "card.png")
    layers = []
    for index in range(10):
        place = (200.0 + 170 * (index % 5), 350.0 + 600 * (index // 5))
        card = Layer(f"Card {index}", "picture", 0, 100, id=f"card{index}").with_values(
            source=source.id, scale=(80.0, 80.0)
        )
        card = card.with_track("position", Track(place, (Key(0, place), Key(100, (place[0] + 60.0, place[1])))))
        card = card.with_track("rotation", Track(0.0, (Key(0, 0.0), Key(100, 40.0))))
        if depth:
            card = card.with_values(depth=True, position_z=60.0 * index - 200, turn_y=20.0)
        layers.append(card)
    if depth:
        camera = Layer("Camera", "camera", 0, 100, id="camera").with_values(
            depth=True, position_z=-1500.0, aims=True, looks_at=(540.0, 675.0)
        )
        way = Track((540.0, 675.0), (Key(0, (440.0, 675.0)), Key(100, (640.0, 675.0))))
        layers.insert(0, camera.with_track("position", way))
    ground = Layer("Ground", "backdrop", 0, 100, id="g").with_values(position=(540.0, 675.0), style="linear")
    piece = Composition("Scene", 1080, 1350, Fraction(25), 100, id="c", layers=(*layers, ground))
    return evolve(Project("Scene", (piece,)), sources=(source,))


def _frames(project: Project) -> float:
    """Return the least mean of seconds of a new frame, of three runs."""
    render_rgba8(project, "c", 0, 1.0, 2)
    best = 1e9
    for run in range(3):
        started = time.process_time()
        for frame in range(10, 20):
            render_rgba8(project, "c", frame + 20 * run, 1.0, 2)
        best = min(best, (time.process_time() - started) / 10)
    return best


def run() -> Iterator[str]:
    """Yield the figures."""
    flat, deep = _frames(scene(False)), _frames(scene(True))
    yield figure("ten cards in depth / the same lying flat, processor time a frame", deep / flat, 2.0,
                 note=f"{1000 * deep:.0f} and {1000 * flat:.0f} ms")  # fmt: skip
