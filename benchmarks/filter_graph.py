"""Kite day beside an FFmpeg filter graph of like work: processor time a frame.

The graph overlays the same number of pictures of the same sizes on a ground of the same size, turns two of
them, screens one, moves five, and fades four. It has no motion blur and no gradients that change, which
Kite day has, so the comparison favours the graph.
"""

from __future__ import annotations

import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

import av.filter
import numpy as np
from attrs import evolve
from PIL import Image

from benchmarks.measure import figure
from spiralis.core.model import Track
from spiralis.core.render.frame import render_straight8, render_yuv420
from spiralis.demo import demo_project

FRAMES = 50


def run() -> Iterator[str]:
    """Yield the figures."""
    demo = demo_project()
    plain = _without_blur(demo)
    with tempfile.TemporaryDirectory() as folder:
        graph_seconds = _graph(demo, Path(folder))
    for name, project in (("as it is, with motion blur", demo), ("without motion blur, as the graph", plain)):
        render_yuv420(project, "kite-day", 30)
        started = time.process_time()
        for frame in range(0, 150, 150 // FRAMES):
            render_yuv420(project, "kite-day", frame)
        ours = (time.process_time() - started) / FRAMES
        yield figure(
            f"FFmpeg filter graph / Kite day {name}, processor time a frame", graph_seconds / ours, 4, at_most=False
        )


def _without_blur(demo):  # type: ignore[no-untyped-def]
    piece = demo.composition("kite-day")
    layers = tuple(layer.with_track("motion_blur", Track(False)) for layer in piece.layers)
    return demo.with_composition(evolve(piece, layers=layers))


def _graph(demo, folder: Path) -> float:  # type: ignore[no-untyped-def]
    piece = demo.composition("kite-day")
    pictures = {}
    for layer in piece.layers:
        alone = evolve(piece, layers=(layer,))
        pixels = render_straight8(demo.with_composition(alone), piece.id, 60)
        (top, left), (bottom, right) = (0, 0), pixels.shape[:2]
        if layer.kind != "backdrop":
            box = np.argwhere(pixels[..., 3] > 0)
            (top, left), (bottom, right) = box.min(axis=0), box.max(axis=0) + 1
        path = folder / f"{layer.id}.png"
        Image.fromarray(pixels[top:bottom, left:right]).save(path)
        pictures[layer.id] = (path, int(left), int(top))
    graph = av.filter.Graph()
    still = graph.add("movie", f"filename={pictures['evening-sky'][0]}:loop=0")
    base = _chain(graph, still, ("setpts", "N/25/TB"), ("format", "gbrp"))
    glow = _chain(
        graph,
        graph.add("movie", f"filename={pictures['sun-glow'][0]}:loop=0"),
        ("setpts", "N/25/TB"),
        ("format", "gbrp"),
    )
    screened = graph.add("blend", "all_mode=screen")
    base.link_to(screened, 0, 0)
    glow.link_to(screened, 0, 1)
    base = screened
    for name in ("far-kite", "kite", "place-and-time", "headline", "logo", "price-tag"):
        path, left, top = pictures[name]
        steps = [("setpts", "N/25/TB"), ("format", "rgba")]
        if name in ("kite", "far-kite"):
            steps.append(("rotate", "a=0.3*sin(t):ow=hypot(iw\\,ih):oh=ow:c=none"))
        picture = _chain(graph, graph.add("movie", f"filename={path}:loop=0"), *steps)
        over = graph.add("overlay", f"x={left}+20*sin(t*2):y={top}+20*cos(t):format=gbrp:shortest=0")
        base.link_to(over, 0, 0)
        picture.link_to(over, 0, 1)
        base = over
    end = _chain(graph, base, ("format", "yuv420p"), ("buffersink", None))
    graph.configure()
    for _ in range(5):
        end.pull()
    started = time.process_time()
    for _ in range(FRAMES):
        end.pull()
    return (time.process_time() - started) / FRAMES


def _chain(graph, first, *steps):  # type: ignore[no-untyped-def]
    for name, arguments in steps:
        following = graph.add(name, arguments) if arguments else graph.add(name)
        first.link_to(following)
        first = following
    return first
