"""Copies: what two thousand of them cost beside twenty, and an edit under nine delayed ones."""

from __future__ import annotations

import time
from collections.abc import Iterator
from fractions import Fraction

from attrs import evolve

from benchmarks.measure import figure
from spiralis.core.model import Composition, Key, Layer, Project, Track
from spiralis.core.model.drivers import DialJoin
from spiralis.core.render.frame import render_rgba8

SCALE = 0.4


def many(count: int) -> Project:
    """Return a grid of small stars, the same moment for all."""
    star = Layer("Star", "shape", 0, 100, id="star").with_values(
        form="star", size=(30.0, 30.0), position=(540.0, 675.0), fill=(0.9, 0.4, 0.2, 1.0)
    )
    turned = star.with_track("rotation", Track(0.0, (Key(0, 0.0), Key(100, 360.0))))
    copies = Layer("Copies", "copies", 0, 100, id="copies").with_values(
        of="star", layout="grid", count=float(count), columns=50.0, spacing=(20.0, 20.0), position=(540.0, 675.0)
    )
    return _project(copies, turned)


def many_groups(count: int) -> Project:
    """Return a grid of groups of three on a turning carrier, each a frame later than the one before."""
    carrier = Layer("Carrier", "carrier", 0, 100, id="carrier").with_values(position=(540.0, 675.0))
    members = [
        evolve(
            Layer(f"Star {index}", "shape", 0, 100, id=f"star{index}").with_values(
                form="star", size=(20.0, 20.0), position=(40.0 + 10 * index, 50.0), fill=(0.9, 0.4, 0.2 * index, 1.0)
            ),
            parent="carrier",
        )
        for index in range(3)
    ]
    copies = Layer("Copies", "copies", 0, 100, id="copies").with_values(
        of="carrier", layout="grid", count=float(count), columns=50.0, spacing=(20.0, 20.0), delay=1.0,
        position=(540.0, 675.0),
    )  # fmt: skip
    turning = carrier.with_track("rotation", Track(0.0, (Key(0, 0.0), Key(100, 360.0))))
    return _project(copies, turning, *members)


def column() -> Project:
    """Return nine delayed copies of a word whose size hangs on a dial."""
    dial = Layer("Width", "dial", 0, 100, id="dial").with_track("value", _swing())
    word = Layer("Word", "text", 0, 100, id="word").with_values(
        text="kite", flow="stretch", position=(540.0, 100.0), frame=(900.0, 100.0)
    )
    word = word.with_track(
        "scale", Track((100.0, 100.0), driver=DialJoin("dial", ((0.0, (20.0, 100.0)), (100.0, (100.0, 100.0)))))
    )
    copies = Layer("Copies", "copies", 0, 100, id="copies").with_values(
        of="word", count=9.0, spacing=(0.0, 130.0), delay=4.0, position=(540.0, 675.0)
    )
    return _project(copies, dial, word)


def _swing() -> Track:
    return Track(0.0, (Key(0, 0.0), Key(50, 100.0), Key(100, 0.0)))


def _project(*layers: Layer) -> Project:
    return Project("Copies", (Composition("Copies", 1080, 1350, Fraction(25), 100, loop=True, id="c", layers=layers),))


def _frames(project: Project) -> float:
    """Return the mean seconds of a new frame."""
    render_rgba8(project, "c", 0, SCALE, 2)
    started = time.perf_counter()
    for frame in range(10, 20):
        render_rgba8(project, "c", frame, SCALE, 2)
    return (time.perf_counter() - started) / 10


def _editing() -> float:
    """Return the mean seconds from a moved key of the dial to the new picture."""
    project = column()
    render_rgba8(project, "c", 30, SCALE, 2)
    started = time.perf_counter()
    for turn in range(20):
        piece = project.compositions[0]
        middle = Key(48 + turn % 5, 100.0)
        dial = piece.layer("dial").with_track("value", Track(0.0, (Key(0, 0.0), middle, Key(100, 0.0))))
        project = project.with_composition(piece.with_layer(dial))
        render_rgba8(project, "c", 30, SCALE, 2)
    return (time.perf_counter() - started) / 20


def run() -> Iterator[str]:
    """Yield the figures."""
    yield figure("a frame of 2000 copies / of 20 copies", _frames(many(2000)) / _frames(many(20)), 20.0)
    groups = _frames(many_groups(2000)) / _frames(many_groups(20))
    yield figure("the same of an animated group, each a frame later", groups, 20.0)
    yield figure("moving a dial's key under nine delayed copies / 50 ms", _editing() / 0.05, 1.0)
