"""Copies: another layer, or a group on its carrier, again and again in a row, a grid, a ring or along a path."""

from __future__ import annotations

import math
from collections.abc import Mapping
from functools import lru_cache

import numpy as np
from attrs import frozen

from spiralis.core.geometry import Affine, Box
from spiralis.core.model.art import EMPTY_ART, figures_of
from spiralis.core.model.kinds import LayerKind, register_kind
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.raster.curves import path_track
from spiralis.core.raster.layer_image import LayerImage, Scene

LAYOUTS = ("row", "grid", "ring", "path")
FROM = ("first", "last", "centre", "random")
MOST = 5000

PARAMETERS = (
    Parameter("of", "Copies of", Kind.LAYER, "", "The layer that is shown again and again, with all that hangs on it",
              steady=True, gathers=True),
    Parameter("show_source", "Show it too", Kind.SWITCH, False, "Whether the layer itself stays in sight", steady=True),
    Parameter("layout", "Layout", Kind.CHOICE, "row", "How the copies stand", choices=LAYOUTS),
    Parameter("count", "Count", Kind.NUMBER, 5.0, "How many copies there are", "", 0, MOST),
    Parameter("columns", "Columns", Kind.NUMBER, 3.0, "How many stand side by side", "", 1, 1000,
              needs=("layout", ("grid",))),
    Parameter("spacing", "Spacing", Kind.PAIR, (0.0, 140.0), "From one to the next, across and down", "px",
              needs=("layout", ("row", "grid"))),
    Parameter("anchor", "Begins at", Kind.CHOICE, "centre", "Whether the first copy or their middle is the place",
              choices=("centre", "first"), needs=("layout", ("row", "grid"))),
    Parameter("radius", "Radius", Kind.NUMBER, 300.0, "Of the ring", "px", 0, 20_000, needs=("layout", ("ring",))),
    Parameter("from_angle", "From", Kind.NUMBER, -90.0, "Where on the ring the first copy is", "°", period=360.0,
              needs=("layout", ("ring",))),
    Parameter("sweep", "Sweep", Kind.NUMBER, 360.0, "How far around the copies go", "°", needs=("layout", ("ring",))),
    Parameter("along", "Path", Kind.ART, EMPTY_ART, "The outline along which they stand", needs=("layout", ("path",))),
    Parameter("turned", "Turn along", Kind.SWITCH, True, "Whether copies turn with the ring or the path",
              needs=("layout", ("ring", "path"))),
    Parameter("step_scale", "Scale a step", Kind.NUMBER, 100.0, "Each copy's size beside the one before", "%", 1, 1000),
    Parameter("step_rotation", "Turn a step", Kind.NUMBER, 0.0, "Each copy's turn beside the one before", "°"),
    Parameter("step_opacity", "Opacity a step", Kind.NUMBER, 0.0, "Each copy's opacity beside the one before", "%",
              -100, 100),
    Parameter("colour_to", "Colour to", Kind.COLOUR, (0.94, 0.44, 0.32, 0.0), "The last copy's fill; opacity mixes"),
    Parameter("delay", "Delay", Kind.NUMBER, 0.0, "How many frames later each copy moves than the one before", "f",
              -10_000, 10_000, family="place", counts_frames=True),
    Parameter("delay_from", "Delay from", Kind.CHOICE, "first", "Which copy moves first", choices=FROM),
    Parameter("seed", "Seed", Kind.NUMBER, 1.0, "Another random order", "", 0, 100_000,
              needs=("delay_from", ("random",))),
    Parameter("words", "Words", Kind.TEXT, "", "Words of each copy, a line each, for copies of text"),
    Parameter("pictures", "Pictures", Kind.DRAWINGS, (), "Pictures of each copy in turn, for copies of a picture"),
)  # fmt: skip


@frozen
class Copy:
    """One copy: its number, the map from its own to the layer's units, its lateness, opacity and share of colour."""

    index: int
    matrix: Affine
    late: float
    opacity: float
    tint: float


_PLACED = ("count", "layout", "columns", "spacing", "anchor", "radius", "from_angle", "sweep", "along", "turned",
           "step_scale", "step_rotation", "step_opacity", "colour_to", "delay", "delay_from", "seed")  # fmt: skip


def placements(values: Mapping[str, Value]) -> tuple[Copy, ...]:
    """Return the copies, the first one first; a layer's own units have its place at 0, 0."""
    return _placements(tuple((name, values[name]) for name in _PLACED))


@lru_cache(maxsize=64)
def _placements(held: tuple[tuple[str, Value], ...]) -> tuple[Copy, ...]:
    values = dict(held)
    count = int(min(max(round(values["count"]), 0), MOST))
    order = delays(count, values["delay_from"], int(values["seed"]))
    scale, turn = values["step_scale"] / 100, values["step_rotation"]
    copies = []
    for index, place in enumerate(_places(values, count)):
        size = min(scale**index, 1e4)
        matrix = place @ Affine.rotation(turn * index) @ Affine.scaling(size, size)
        opacity = min(max(1 + index * values["step_opacity"] / 100, 0.0), 1.0)
        tint = values["colour_to"][3] * (index / (count - 1) if count > 1 else 0.0)
        copies.append(Copy(index, matrix, order[index] * values["delay"], opacity, tint))
    return tuple(copies)


def delays(count: int, first: str, seed: int) -> list[float]:
    """Return how many steps late each copy is."""
    if first == "last":
        return [float(count - 1 - index) for index in range(count)]
    if first == "centre":
        return [abs(index - (count - 1) / 2) for index in range(count)]
    if first == "random":
        return [float(v) for v in np.random.Generator(np.random.Philox(seed)).permutation(count)]
    return [float(index) for index in range(count)]


def _places(values: Mapping[str, Value], count: int) -> list[Affine]:
    layout = values["layout"]
    if layout == "ring":
        return _ring(values, count)
    if layout == "path":
        return _path(values, count)
    dx, dy = values["spacing"]
    columns = int(max(values["columns"], 1)) if layout == "grid" else count
    if layout == "row":
        spots = [(index * dx, index * dy) for index in range(count)]
    else:
        spots = [(index % columns * dx, index // columns * dy) for index in range(count)]
    if values["anchor"] == "centre" and spots:
        rows = -(-count // columns) if layout == "grid" else 1
        across = (min(columns, count) - 1) / 2 * dx
        down = (rows - 1) / 2 * dy if layout == "grid" else (count - 1) / 2 * dy
        spots = [(x - across, y - down) for x, y in spots]
    return [Affine.shift(x, y) for x, y in spots]


def _ring(values: Mapping[str, Value], count: int) -> list[Affine]:
    whole = abs(values["sweep"]) >= 360
    step = values["sweep"] / (count if whole or count < 2 else count - 1) if count else 0.0
    made = []
    for index in range(count):
        angle = values["from_angle"] + index * step
        x, y = (values["radius"] * f(math.radians(angle)) for f in (math.cos, math.sin))
        place = Affine.shift(x, y)
        made.append(place @ Affine.rotation(angle + 90) if values["turned"] else place)
    return made


def _path(values: Mapping[str, Value], count: int) -> list[Affine]:
    contours = [c for figure in figures_of(values["along"]) for c in figure.contours if len(c.vertices) > 1]
    if not contours:
        return [Affine()] * count
    track = path_track(contours[0], 0.0)
    total = float(track.lengths[-1])
    step = total / (count if contours[0].closed or count < 2 else count - 1) if count else 0.0
    made = []
    for index in range(count):
        at = track.at(min(index * step, total - 1e-6) if not contours[0].closed else index * step)
        made.append(at if values["turned"] else Affine.shift(at.e, at.f))
    return made


def _box(values: Mapping[str, Value], scene: Scene) -> Box:
    """Return a box around the copies' places, even about 0, 0 so that the pivot stays there as copies come and go."""
    spots = [copy.matrix.apply(0.0, 0.0) for copy in placements(values)]
    x, y = (max((abs(spot[axis]) for spot in spots), default=0.0) + 40.0 for axis in (0, 1))
    return -x, -y, x, y


def _draw(values: Mapping[str, Value], scene: Scene, matrix: Affine, clip: Box) -> LayerImage | None:
    return None  # The renderer draws the layer that is copied (see ``render/copies.py``).


register_kind(
    LayerKind("copies", "Copies", "A layer or a group again and again", PARAMETERS, _box, _draw, placements=placements)
)
