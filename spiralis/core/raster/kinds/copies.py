"""Copies: another layer, or a group on its carrier, again and again in a row, a grid, a ring or along a path."""

from __future__ import annotations

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
MOST = 100_000

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


@frozen(eq=False)
class Copies:
    """All copies, the first one first: maps from their own to the layer's units, as rows of ``Affine`` numbers a to f
    (n, 6), lateness in frames, opacity and share of colour (n,). ``key`` is what they were worked out from."""

    matrices: np.ndarray
    late: np.ndarray
    opacity: np.ndarray
    tint: np.ndarray
    key: tuple[Value, ...]

    def __len__(self) -> int:
        return len(self.matrices)


_PLACED = ("count", "layout", "columns", "spacing", "anchor", "radius", "from_angle", "sweep", "along", "turned",
           "step_scale", "step_rotation", "step_opacity", "colour_to", "delay", "delay_from", "seed")  # fmt: skip


def placements(values: Mapping[str, Value]) -> Copies:
    """Return the copies; a layer's own units have its place at 0, 0."""
    return _placements(tuple(values[name] for name in _PLACED))


@lru_cache(maxsize=64)
def _placements(held: tuple[Value, ...]) -> Copies:
    values = dict(zip(_PLACED, held, strict=True))
    count = int(min(max(round(values["count"]), 0), MOST))
    steps = np.arange(count, dtype=np.float64)
    late = delays(count, values["delay_from"], int(values["seed"])) * values["delay"]
    opacity = np.clip(1 + steps * values["step_opacity"] / 100, 0.0, 1.0)
    tint = values["colour_to"][3] * steps / max(count - 1, 1)
    return Copies(_turned(_places(values, count), values, steps), late, opacity, tint, held)


def _turned(places: np.ndarray, values: Mapping[str, Value], steps: np.ndarray) -> np.ndarray:
    """Return places (n, 6) with each copy's own turn and size before them."""
    if values["step_rotation"] == 0 and values["step_scale"] == 100:
        return places
    # Where a power would be too large for a number it is as large as copies become.
    with np.errstate(over="ignore"):
        size = np.minimum((values["step_scale"] / 100) ** steps, 1e4)
    turn = np.radians(values["step_rotation"] * steps)
    cosine, sine = size * np.cos(turn), size * np.sin(turn)
    a, b, c, d, e, f = places.T
    return np.column_stack([
        a * cosine + c * sine, b * cosine + d * sine, c * cosine - a * sine, d * cosine - b * sine, e, f
    ])  # fmt: skip


def delays(count: int, first: str, seed: int) -> np.ndarray:
    """Return how many steps late each copy is, float64 (n,)."""
    steps = np.arange(count, dtype=np.float64)
    if first == "last":
        return steps[::-1].copy()
    if first == "centre":
        return np.abs(steps - (count - 1) / 2)
    if first == "random":
        return np.random.Generator(np.random.Philox(seed)).permutation(count).astype(np.float64)
    return steps


def _shifts(x: np.ndarray, y: np.ndarray) -> np.ndarray:
    """Return shifts as rows of ``Affine`` numbers."""
    one, zero = np.ones(len(x)), np.zeros(len(x))
    return np.column_stack([one, zero, zero, one, x, y])


def _places(values: Mapping[str, Value], count: int) -> np.ndarray:
    layout, index = values["layout"], np.arange(count)
    if layout == "ring":
        return _ring(values, count)
    if layout == "path":
        return _path(values, count)
    dx, dy = values["spacing"]
    columns = int(max(values["columns"], 1)) if layout == "grid" else max(count, 1)
    x, y = (index % columns * dx, index // columns * dy) if layout == "grid" else (index * dx, index * dy)
    if values["anchor"] == "centre":
        rows = -(-count // columns)
        x = x - (min(columns, count) - 1) / 2 * dx
        y = y - ((rows - 1) / 2 * dy if layout == "grid" else (count - 1) / 2 * dy)
    return _shifts(x, y)


def _ring(values: Mapping[str, Value], count: int) -> np.ndarray:
    whole = abs(values["sweep"]) >= 360
    step = values["sweep"] / (count if whole or count < 2 else count - 1) if count else 0.0
    angle = np.radians(values["from_angle"] + np.arange(count) * step)
    x, y = values["radius"] * np.cos(angle), values["radius"] * np.sin(angle)
    if not values["turned"]:
        return _shifts(x, y)
    turn = angle + np.pi / 2
    cosine, sine = np.cos(turn), np.sin(turn)
    return np.column_stack([cosine, sine, -sine, cosine, x, y])


def _path(values: Mapping[str, Value], count: int) -> np.ndarray:
    contours = [c for figure in figures_of(values["along"]) for c in figure.contours if len(c.vertices) > 1]
    if not contours:
        return _shifts(np.zeros(count), np.zeros(count))
    track, closed = path_track(contours[0], 0.0), contours[0].closed
    total = float(track.lengths[-1])
    ways = np.arange(count) * (total / (count if closed or count < 2 else count - 1) if count else 0.0)
    at = track.at_many(ways if closed else np.minimum(ways, total - 1e-6))
    return at if values["turned"] else _shifts(at[:, 4], at[:, 5])


def _box(values: Mapping[str, Value], scene: Scene) -> Box:
    """Return a box around the copies' places, even about 0, 0 so that the pivot stays there as copies come and go."""
    matrices = placements(values).matrices
    x, y = (float(np.abs(matrices[:, axis]).max(initial=0.0)) + 40.0 for axis in (4, 5))
    return -x, -y, x, y


def _draw(values: Mapping[str, Value], scene: Scene, matrix: Affine, clip: Box) -> LayerImage | None:
    return None  # The renderer draws the layer that is copied (see ``render/copies.py``).


register_kind(
    LayerKind("copies", "Copies", "A layer or a group again and again", PARAMETERS, _box, _draw, placements=placements)
)
