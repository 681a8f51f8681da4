"""A scene of eleven layers beside an FFmpeg filter graph that draws the same: processor time a frame.

A gradient, a texture by overlay, three products that move, turn and grow, stripes that turn by difference, four words
that slide and fade, a logo with a live shadow and bloom; 1080 by 1350, 100 frames. The graph works as somebody would
write it: 8 bit after every filter, places in whole pixels, the logo's shadow and glow blurred in every frame.
"""

from __future__ import annotations

import math
import tempfile
import time
from collections.abc import Callable, Iterator, Sequence
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import av.filter
import numpy as np
from attrs import evolve
from PIL import Image

from benchmarks.filter_graph import chained, laid_over
from benchmarks.measure import figure
from spiralis.core.animation.easing import Easing
from spiralis.core.media.sources import read_source
from spiralis.core.model import Composition, Key, Layer, Project, Track
from spiralis.core.model.blocks import Block
from spiralis.core.render.frame import render_frame, render_straight8, render_yuv420
from spiralis.core.render.layers import Evaluated

WIDTH, HEIGHT, LENGTH = 1080, 1350, 100
_SOFT = Easing.from_css("cubic-bezier(.65, 0, .35, 1)")
Keys = Sequence[tuple[int, Any]]


def _track(keys: Keys) -> Track:
    return Track(keys[0][1], tuple(Key(frame, value, _SOFT) for frame, value in keys))


def _noise(height: int, width: int, cell: int, seed: int) -> np.ndarray:
    coarse = np.random.default_rng(seed).random((height // cell + 2, width // cell + 2), dtype=np.float32)
    big = Image.fromarray(coarse).resize((width + cell, height + cell), Image.Resampling.BICUBIC)
    return np.asarray(big)[:height, :width]


def _pictures() -> dict[str, np.ndarray]:
    """Return the artwork as straight uint8 (h, w, 4)."""
    y, x = np.mgrid[0:HEIGHT, 0:WIDTH].astype(np.float32)
    share = np.clip(x / WIDTH * 0.35 + y / HEIGHT * 0.65, 0, 1)[..., None]
    drawn = {"backdrop": (1 - share) * (0.06, 0.09, 0.24, 1) + share * np.array((0.98, 0.6, 0.42, 1))}
    grey = sum(_noise(HEIGHT, WIDTH, cell, cell) * part for cell, part in ((64, 0.5), (16, 0.3), (4, 0.2)))
    drawn["texture"] = np.dstack([grey, grey * 0.96, grey * 0.9, np.full_like(grey, 0.8)])
    v, u = np.mgrid[0:1760, 0:1760].astype(np.float32) - 879.5
    band = np.clip(np.cos(u * (2 * np.pi / 176)) * 8 + 0.5, 0, 1) * (0.75 + 0.25 * np.cos(v * (2 * np.pi / 880)))
    drawn["stripes"] = np.dstack([band * 0.95, band * 0.35, band * 0.75, np.ones_like(band)])
    v, u = np.mgrid[0:500, 0:500].astype(np.float32) - 249.5
    for number in range(3):
        edge = 200 + 36 * np.cos((3 + number) * np.arctan2(v, u))
        light = np.clip(0.55 - 0.001 * (u + v) + 0.2 * _noise(500, 500, 8, number), 0, 1)
        alpha = np.clip(edge - np.hypot(u, v) + 0.5, 0, 1)
        drawn[f"product{number}"] = np.dstack([light, light * (0.4 + 0.25 * number), light * 0.5, alpha])
    v, u = np.mgrid[0:400, 0:400].astype(np.float32) - 199.5
    far = np.hypot(u, v)
    alpha = np.clip(165 + 22 * np.cos(8 * np.arctan2(v, u)) - far + 0.5, 0, 1)
    ring = np.clip(13 - np.abs(far - 82) + 0.5, 0, 1)
    drawn["logo"] = np.dstack([0.96 + 0 * ring, 0.6 + 0.38 * ring, 0.25 + 0.7 * ring, alpha])
    return {name: np.rint(np.clip(pixels, 0, 1) * 255).astype(np.uint8) for name, pixels in drawn.items()}


_PLACES: tuple[tuple[Keys, Keys, Keys], ...] = (
    (((0, (240.0, 930.0)), (40, (820.0, 640.0)), (75, (560.0, 1040.0)), (100, (240.0, 930.0))),
     ((0, -12.0), (50, 28.0), (100, -12.0)), ((0, (80.0, 80.0)), (45, (115.0, 115.0)), (100, (80.0, 80.0)))),
    (((0, (800.0, 520.0)), (30, (500.0, 900.0)), (65, (400.0, 380.0)), (100, (800.0, 520.0))),
     ((0, 0.0), (50, -70.0), (100, 0.0)), ((0, (95.0, 95.0)), (35, (62.0, 62.0)), (100, (95.0, 95.0)))),
    (((0, (560.0, 1060.0)), (25, (720.0, 1100.0)), (60, (250.0, 900.0)), (100, (560.0, 1060.0))),
     ((0, 8.0), (40, -24.0), (100, 8.0)), ((0, (100.0, 100.0)), (50, (74.0, 74.0)), (100, (100.0, 100.0)))),
)  # fmt: skip
_WORDS = ("Summer kites", "Light, slow & soft", "From 24.90 this week", "Only at the workshop")


def scene(folder: Path) -> Project:
    """Return the project, its pictures written to a folder."""
    project, layers = Project("Reference"), []
    for name, pixels in _pictures().items():
        Image.fromarray(pixels).save(folder / f"{name}.png", compress_level=1)
        project, source = project.with_source(read_source(folder / f"{name}.png"))
        layer = Layer(name, "picture", 0, LENGTH, id=name).with_values(source=source.id)
        layers.append(layer.with_values(position=(WIDTH / 2, HEIGHT / 2)))
    found = {layer.id: layer for layer in layers}
    found["texture"] = found["texture"].with_values(blend="overlay").with_track(
        "opacity", _track(((0, 45.0), (50, 75.0), (100, 45.0))))  # fmt: skip
    found["stripes"] = found["stripes"].with_values(blend="difference", opacity=35.0).with_track(
        "rotation", Track(0.0, (Key(0, 0.0), Key(100, 180.0))))  # fmt: skip
    for number, tracks in enumerate(_PLACES):
        for name, keys in zip(("position", "rotation", "scale"), tracks, strict=True):
            found[f"product{number}"] = found[f"product{number}"].with_track(name, _track(keys))
    words = []
    for number, text in enumerate(_WORDS):
        first, y = 6 + 8 * number, 130.0 + 150 * number
        layer = Layer(text, "text", 0, LENGTH, id=f"words{number}").with_values(text=text, size=80.0)
        layer = layer.with_track("position", _track(((first, (100.0, y)), (first + 26, (520.0, y)), (98, (700.0, y)))))
        words.append(layer.with_track("opacity", _track(((first, 0.0), (first + 22, 100.0), (88, 100.0), (98, 0.0)))))
    logo = found["logo"].with_values(position=(810.0, 1110.0))
    logo = logo.with_track("rotation", _track(((0, -8.0), (50, 8.0), (100, -8.0))))
    for number, kind in enumerate(("drop-shadow", "bloom")):
        logo = logo.with_block(Block(kind, f"block{number}"))
    logo = logo.with_values(**{"block1.radius": 24.0, "block1.octaves": 3.0})
    found["logo"] = logo.with_track("scale", _track(((0, (90.0, 90.0)), (30, (105.0, 105.0)), (100, (90.0, 90.0)))))
    order = [found[name] for name in ("backdrop", "texture", "product0", "product1", "product2", "stripes")]
    layers = [*order, *words, found["logo"]]
    piece = Composition("Reference", WIDTH, HEIGHT, Fraction(25), LENGTH, id="ref", loop=True,
                        layers=tuple(reversed(layers)))  # fmt: skip
    return project.with_composition(piece)


def run() -> Iterator[str]:
    """Yield the figures."""
    with tempfile.TemporaryDirectory() as name:
        project = scene(Path(name))
        pull = _graph(project, Path(name))
        ours, theirs = [], []
        render_yuv420(project, "ref", 0)
        for _ in range(3):
            theirs.append(_each(lambda frame: pull(), 20))
            ours.append(_each(lambda frame: render_yuv420(project, "ref", 5 * frame), 20))
    yield figure("FFmpeg filter graph / reference scene, processor time a frame (least of three)",
                 min(theirs) / min(ours), 6, at_most=False)  # fmt: skip


def _each(work: Any, count: int) -> float:
    started = time.process_time()
    for frame in range(count):
        work(frame)
    return (time.process_time() - started) / count


def _by_frame(values: Sequence[float], first: int = 0) -> str:
    """Return the expression that gives a value a frame: a tree of choices."""
    if len(set(values)) == 1:
        return f"{values[0]:.5g}"
    middle = len(values) // 2
    number = f"mod(round(t*25),{LENGTH})"
    low, high = _by_frame(values[:middle], first), _by_frame(values[middle:], first + middle)
    return f"if(lt({number},{first + middle}),{low},{high})"


def _graph(project: Project, folder: Path) -> Callable[[], av.VideoFrame]:
    """Return the function that draws the next frame."""
    piece, graph = project.composition("ref"), av.filter.Graph()
    moments = [Evaluated(project, piece, float(frame)) for frame in range(LENGTH)]
    base: Any = None
    for layer in reversed(piece.layers):
        if layer.kind == "text":
            _words(project, layer, folder)
        picture = chained(graph, graph.add("movie", f"filename={folder / layer.id}.png"),
                          ("loop", "loop=-1:size=1"), ("setpts", "N/25/TB"), ("fps", "25"))  # fmt: skip
        maps = [at.matrix(layer) for at in moments]
        turns = [round(math.atan2(m.b, m.a), 5) for m in maps]
        if base is None:
            base = chained(graph, picture, ("format", "gbrp"))
        elif layer.id in ("texture", "stripes"):
            picture = chained(graph, picture, ("format", "gbrp"))
            if layer.id == "stripes":
                picture = chained(graph, picture, ("rotate", f"a='{_by_frame(turns)}':ow={WIDTH}:oh={HEIGHT}"))
            mode, share = ("overlay", 0.5) if layer.id == "texture" else ("difference", 0.35)
            mixed = graph.add("blend", f"all_mode={mode}:all_opacity={share}:shortest=1")
            base.link_to(mixed, 0, 0)
            picture.link_to(mixed, 0, 1)
            base = mixed
        elif layer.kind == "text":
            picture = chained(graph, picture, ("format", "gbrap"), ("colorchannelmixer", "aa=0.9"))
            left = [round(at.values(layer)["position"][0] - 500) for at in moments]
            top = round(moments[0].values(layer)["position"][1] - 80)
            base = laid_over(graph, base, picture, f"x='{_by_frame(left)}':y={top}:eval=frame:format=gbrp:shortest=1")
        else:
            picture = chained(graph, picture, ("format", "gbrap"))
            size = 500
            if layer.id == "logo":
                picture, size = _glowing(graph, picture), 560
            across = math.ceil(math.hypot(size, size))
            sizes = [round(across * math.hypot(m.a, m.b)) for m in maps]
            scaled = f"w='{_by_frame(sizes)}':h='{_by_frame(sizes)}':eval=frame:flags=bilinear"
            picture = chained(graph, picture, ("rotate", f"a='{_by_frame(turns)}':ow={across}:oh={across}:c=black@0"),
                              ("scale", scaled))  # fmt: skip
            middles = [at.values(layer)["position"] for at in moments]
            left, top_of = (
                _by_frame([round(m[axis] - s / 2) for m, s in zip(middles, sizes, strict=True)]) for axis in (0, 1)
            )
            base = laid_over(graph, base, picture, f"x='{left}':y='{top_of}':eval=frame:format=gbrp:shortest=1")
    end = chained(graph, base, ("format", "yuv420p"), ("buffersink", None))
    graph.configure()
    for _ in range(3):
        end.pull()

    def pull() -> av.VideoFrame:
        # The graph lives for as long as somebody pulls.
        return end.pull() if graph is not None else None

    return pull


def _words(project: Project, layer: Layer, folder: Path) -> None:
    """Write a text as a picture of 1000 by 160, in its middle."""
    alone = evolve(layer, properties={}).with_values(**{
        name: layer.track(name).value for name in ("text", "size")}, position=(500.0, 80.0))  # fmt: skip
    piece = Composition("Words", 1000, 160, Fraction(25), LENGTH, id="words", layers=(alone,))
    Image.fromarray(render_straight8(project.with_composition(piece), "words", 0)).save(folder / f"{layer.id}.png")


def _glowing(graph: av.filter.Graph, picture: Any) -> Any:
    """Return the logo with the glow of its bright parts, over its shadow, all blurred in every frame."""
    apart = chained(graph, picture, ("pad", "560:560:80:80:color=black@0"), ("split", "3"))
    # What is bright, in three widths, added to the logo.
    bright = graph.add("lutrgb", "r='max(val-153,0)':g='max(val-153,0)':b='max(val-153,0)'")
    apart.link_to(bright, 1, 0)
    wide = chained(graph, bright, ("split", "3"))
    lit, output = apart, 2
    for number, sigma in enumerate((6, 12, 24)):
        soft = graph.add("gblur", f"sigma={sigma}")
        wide.link_to(soft, number, 0)
        added = graph.add("blend", "all_mode=addition:all_opacity=0.33")
        lit.link_to(added, output, 0)
        soft.link_to(added, 0, 1)
        lit, output = added, 0
    dark = graph.add("lutrgb", "r=0:g=0:b=0")
    apart.link_to(dark, 0, 0)
    shadow = chained(graph, dark, ("colorchannelmixer", "aa=0.5"), ("gblur", "sigma=12:planes=8"))
    return chained(graph, laid_over(graph, shadow, lit, "format=gbrp"), ("format", "gbrap"))


def shown(folder: Path) -> tuple[np.ndarray, np.ndarray]:
    """Return a frame of both as uint8 (h, w, 3), to look at: they have to show the same scene."""
    project = scene(folder)
    ours = np.rint(np.clip(render_frame(project, "ref", 3), 0, 1) * 255).astype(np.uint8)[..., :3]
    return ours, _graph(project, folder)().to_ndarray(format="rgb24")
