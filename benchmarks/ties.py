"""Chains of follows, rolls late in a long piece, carried pictures, and large projects."""

from __future__ import annotations

import tempfile
import time
from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np
from attrs import evolve

from benchmarks.measure import alternate, figure
from spiralis.core.animation.drivers import values_over
from spiralis.core.model import Composition, Key, Layer, Project, Track
from spiralis.core.model.drivers import Follow, Roll
from spiralis.core.render.frame import render_rgba8
from spiralis.core.render.layers import Evaluated
from spiralis.core.storage import load, save


def _form(layer_id: str, length: int) -> Layer:
    return Layer(layer_id, "shape", 0, length, id=layer_id).with_values(form="rectangle", size=(20.0, 20.0))


def _driven(layer: Layer, name: str, driver: Follow | Roll) -> Layer:
    return layer.with_track(name, evolve(layer.track(name), driver=driver))


def _seconds(work: Callable[[], object]) -> float:
    started = time.perf_counter()
    work()
    return time.perf_counter() - started


def run() -> Iterator[str]:
    """Yield the figures."""
    yield from _chains()
    yield from _rolls()
    yield from _carried()
    yield from _large()


def _chains() -> Iterator[str]:
    keys = (Key(0, 0.0), Key(50, 90.0))
    chain = [_form("f0", 100).with_track("rotation", Track(0.0, keys))]
    chain += [_driven(_form(f"f{i}", 100), "rotation", Follow(f"f{i - 1}", "rotation", 1.0, 0.5, 1.0))
              for i in range(1, 161)]  # fmt: skip
    piece, frame = Composition("Chain", 200, 200, 25, 100, layers=tuple(chain)), np.array([60.0])
    last, first = alternate(
        lambda: [values_over(piece, piece.layer("f160"), "rotation", frame) for _ in range(50)],
        lambda: [values_over(piece, piece.layer("f1"), "rotation", frame) for _ in range(50)],
    )
    yield figure("the last of 160 followers / the first", last / first, 2.0)


def _rolls() -> Iterator[str]:
    way = _form("way", 9000).with_track("position", Track((0.0, 0.0), (Key(0, (0.0, 0.0)), Key(9000, (9000.0, 0.0)))))
    piece = Composition(
        "Roll", 200, 200, 25, 9000, layers=(way, _driven(_form("wheel", 9000), "rotation", Roll(9.0, "way")))
    )
    project = Project("P", (piece,))

    def at(frame: float) -> object:
        seen = Evaluated(project, piece, frame)
        return [seen.values(layer) for layer in piece.layers]

    late, early = alternate(lambda: [at(8000.0) for _ in range(20)], lambda: [at(500.0) for _ in range(20)])
    yield figure("a roll at frame 8000 / at frame 500", late / early, 2.0)


def _carried() -> Iterator[str]:
    """A nest of many shapes that stands still on a moving carrier, beside one picture in its place."""
    carrier = Layer("Carrier", "carrier", 0, 100, id="carrier").with_track(
        "position", Track((0.0, 0.0), (Key(0, (0.0, 0.0)), Key(100, (200.0, 77.7)))))  # fmt: skip
    inside = tuple(_form(f"s{i}", 100).with_values(position=(20.0 + i % 20 * 18, 20.0 + i // 20 * 18), rotation=i * 7.0)
                   for i in range(300))  # fmt: skip
    inner = Composition("Inner", 400, 400, 25, 100, id="inner", layers=inside)
    shown = Layer("Shown", "nested", 0, 100, parent="carrier").with_values(composition="inner", position=(300.0, 300.0),
                                                                         opacity=90.0)  # fmt: skip
    piece = Composition("Carried", 1080, 1080, 25, 100, id="piece", layers=(shown, carrier))
    still = evolve(piece, layers=(evolve(shown, parent=None),))
    moving, standing = (Project("P", (p, inner)) for p in (piece, still))
    for frame in range(100):
        render_rgba8(moving, "piece", frame, 0.5)
    frames = range(0, 100, 9)
    carried, kept = alternate(
        lambda: [render_rgba8(moving, "piece", f, 0.5) for f in frames],
        lambda: [render_rgba8(standing, "piece", f, 0.5) for f in frames],
    )
    yield figure(
        "frames of a still nest of 300 shapes on a moving carrier, once seen / not carried", carried / kept, None
    )


def _large() -> Iterator[str]:
    places = ((float(i % 1000), float(i // 20 % 1300)) for i in range(20_000))
    layers = tuple(_form(f"l{i}", 100).with_values(position=place) for i, place in enumerate(places))
    tracks = (Track((0.0, 0.0), tuple(Key(f, (float(f), float(i))) for f in range(2000))) for i in range(100))
    keys = tuple(_form(f"k{i}", 2100).with_track("position", track) for i, track in enumerate(tracks))
    with tempfile.TemporaryDirectory() as folder:
        for what, inside, length in (("20,000 layers", layers, 100), ("200,000 keys", keys, 2100)):
            project = Project("Large", (Composition("Large", 1080, 1350, 25, length, id="large", layers=inside),))
            path = Path(folder) / "large.spiralis"
            saving = _seconds(lambda held=project, to=path: save(held, to, b""))
            yield figure(f"saving {what} without a picture / 3 s", saving / 3, 1.0)
            loaded: list[Project] = []
            taken = _seconds(lambda of=path, into=loaded: into.append(load(of)))
            taken += _seconds(lambda held=loaded[0]: render_rgba8(held, "large", 0, 0.3, 2))
            yield figure(f"opening {what} and drawing the first frame / 5 s", taken / 5, 1.0)
