"""Kite day beside an FFmpeg filter graph of like work: processor time a frame.

The graph draws the same layers from the same files at the same sizes: a linear and a radial gradient that
change (the second screened), four pictures that are scaled, two of which turn, one grows and shrinks, two
texts that fade and move (as ready pictures). For the run with motion blur it draws the kite at four times
the rate and averages four frames, where Kite day averages four to a dozen and blurs the headline as well.
"""

from __future__ import annotations

import tempfile
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import av.filter
import numpy as np
from attrs import evolve
from PIL import Image

from benchmarks.measure import figure
from spiralis.core.model import Project, Track
from spiralis.core.render.frame import render_straight8, render_yuv420
from spiralis.demo.project import demo_project

FRAMES = 50


def run() -> Iterator[str]:
    """Yield the figures."""
    demo = demo_project()
    for blurred in (True, False):
        project = demo if blurred else _without_blur(demo)
        with tempfile.TemporaryDirectory() as folder:
            theirs = _graph_seconds(demo, Path(folder), blurred)
        render_yuv420(project, "kite-day", 30)
        started = time.process_time()
        for frame in range(0, 150, 150 // FRAMES):
            render_yuv420(project, "kite-day", frame)
        ours = (time.process_time() - started) / FRAMES
        name = "with" if blurred else "without"
        yield figure(f"FFmpeg filter graph / Kite day, both {name} motion blur, processor time a frame",
                     theirs / ours, 4, at_most=False)  # fmt: skip


def _without_blur(demo: Project) -> Project:
    piece = demo.composition("kite-day")
    layers = tuple(layer.with_track("motion_blur", Track(False)) for layer in piece.layers)
    return demo.with_composition(evolve(piece, layers=layers))


def _files(demo: Project, folder: Path) -> None:
    """Write the pictures as they are in the project, and the two texts as they are drawn."""
    for source in demo.sources:
        (folder / source.name).write_bytes(source.data or b"")
    piece = demo.composition("kite-day")
    for name in ("headline", "place-and-time"):
        alone = evolve(piece, layers=(piece.layer(name),))
        pixels = render_straight8(demo.with_composition(alone), piece.id, 60)
        box = np.argwhere(pixels[..., 3] > 0)
        (top, left), (bottom, right) = box.min(axis=0), box.max(axis=0) + 1
        Image.fromarray(pixels[top:bottom, left:right]).save(folder / f"{name}.png")


#: File, what is done to it each frame, where it is laid.
LAYERS = (
    ("kite-delta.png", [("scale", "iw*0.17:ih*0.17"), ("rotate", "a=0.15*sin(t):ow=hypot(iw\\,ih):oh=ow:c=none")],
     "x=200+40*sin(t):y=470+30*cos(t)"),
    ("kite-swift.png", [("scale", "iw*0.5:ih*0.5"), ("rotate", "a=0.4*sin(t):ow=hypot(iw\\,ih):oh=ow:c=none")],
     "x=150+180*sin(t):y=-50+60*cos(t)"),
    ("place-and-time.png", [("colorchannelmixer", "aa=0.9")], "x=76:y=1200+20*sin(t)"),
    ("headline.png", [("colorchannelmixer", "aa=0.9")], "x=72+40*sin(t):y=880"),
    ("tolvane-logo.png", [("scale", "iw*0.52:ih*0.52"), ("colorchannelmixer", "aa=0.9")], "x=70:y=76"),
    ("price-tag.png", [("scale", "w=200+60*sin(t):h=-1:eval=frame"), ("rotate", "a=0.1*sin(t):ow=300:oh=300:c=none")],
     "x=740:y=920"),
)  # fmt: skip


def _graph_seconds(demo: Project, folder: Path, blurred: bool) -> float:
    _files(demo, folder)
    graph = av.filter.Graph()
    sky = "s=1080x1350:r=25:n=4:c0=0x16405e:c1=0x2c7f8c:c2=0xdca07c:c3=0xf2a56c:x0=540:y0=0:x1=400:y1=1350:speed=0.01"
    glow = "s=1080x1350:r=25:n=3:c0=0xb09060:c1=0x402010:c2=black:x0=690:y0=480:x1=1300:y1=900:t=radial:speed=0.01"
    base = chained(graph, graph.add("gradients", sky), ("format", "gbrp"))
    light = chained(graph, graph.add("gradients", glow), ("format", "gbrp"))
    screened = graph.add("blend", "all_mode=screen")
    base.link_to(screened, 0, 0)
    light.link_to(screened, 0, 1)
    base = screened
    for name, steps, place in LAYERS:
        rate = 100 if blurred and name == "kite-swift.png" else 25
        start = (("setpts", f"N/{rate}/TB"), ("format", "rgba"))
        picture = chained(graph, graph.add("movie", f"filename={folder / name}:loop=0"), *start, *steps)
        if rate == 100:
            clear = chained(graph, graph.add("color", "black@0:s=1080x1350:r=100"), ("format", "rgba"))
            placed = laid_over(graph, clear, picture, f"{place}:format=rgb")
            picture = chained(graph, placed, ("tmix", "frames=4"), ("framestep", "4"))
            place = "x=0:y=0"
        base = laid_over(graph, base, picture, f"{place}:format=gbrp")
    end = chained(graph, base, ("format", "yuv420p"), ("buffersink", None))
    graph.configure()
    for _ in range(5):
        end.pull()
    started = time.process_time()
    for _ in range(FRAMES):
        end.pull()
    return (time.process_time() - started) / FRAMES


def laid_over(graph: av.filter.Graph, base: Any, picture: Any, arguments: str) -> Any:
    """Return the filter that lays a picture over another."""
    laid = graph.add("overlay", arguments)
    base.link_to(laid, 0, 0)
    picture.link_to(laid, 0, 1)
    return laid


def chained(graph: av.filter.Graph, first: Any, *steps: tuple[str, str | None]) -> Any:
    """Return the last of filters that follow one another; steps are names and arguments."""
    for name, arguments in steps:
        following = graph.add(name, arguments) if arguments else graph.add(name)
        first.link_to(following)
        first = following
    return first
