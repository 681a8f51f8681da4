"""Wave: points move to and fro along waves that run across the layer."""

from __future__ import annotations

import math
from collections.abc import Mapping
from functools import lru_cache

import numpy as np
from attrs import evolve, frozen

from spiralis.core.effects.job import EffectJob, Margins, even
from spiralis.core.effects.remapping import EDGE, moved, where_clear
from spiralis.core.model.blocks import EFFECT, EffectKind, register_effect
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.raster.raster import Raster

FORMS = ("sine", "triangle", "square")
PINNED = ("none", "left", "right", "top", "bottom", "left and right", "top and bottom", "all")
_SIDES = {"left and right": ("left", "right"), "top and bottom": ("top", "bottom"),
          "all": ("left", "right", "top", "bottom")}  # fmt: skip

PARAMETERS = (
    Parameter("height", "Height", Kind.NUMBER, 16.0, "How far points move from their place", "px", 0, 2000),
    Parameter("length", "Length", Kind.NUMBER, 160.0, "From one crest to the next", "px", 1, 20_000),
    Parameter("direction", "Direction", Kind.NUMBER, 0.0, "Where the waves run: 0° to the right, 90° down", "°",
              -36_000, 36_000, period=360.0),
    Parameter("phase", "Phase", Kind.NUMBER, 0.0, "How far they have run; each 100 % is a whole wave", "%", -1e6, 1e6,
              period=100.0),
    Parameter("generators", "Generators", Kind.NUMBER, 1.0,
              "How many waves of other lengths, heights and speeds add up; together they are no higher", "", 1, 12),
    Parameter("seed", "Seed", Kind.NUMBER, 1.0, "Another number, other waves beside the first", "", 0, 9999),
    Parameter("form", "Form", Kind.CHOICE, "sine", "How a wave rises and falls", choices=FORMS),
    Parameter("along", "Along", Kind.SWITCH, False, "Points move along the direction, instead of across it"),
    Parameter("pinned", "Pinned", Kind.CHOICE, "none", "Which edges stay where they are", choices=PINNED),
    EDGE,
)  # fmt: skip


def _reads(values: Mapping[str, Value], scale: tuple[float, float]) -> Margins:
    angle = math.radians(values["direction"])
    across, down = abs(math.sin(angle)), abs(math.cos(angle))
    if values["along"]:
        across, down = down, across
    return even(values["height"] * across * scale[0] + 1, values["height"] * down * scale[1] + 1)


def risen(form: str, cycles: np.ndarray) -> np.ndarray:
    """Return how high a wave of a form is, -1 to 1, after so many cycles; it begins at 0 and rises."""
    part = cycles - np.floor(cycles)
    if form == "sine":
        return np.sin(part * np.float32(2 * np.pi))
    if form == "square":
        return np.where(part < 0.5, 1.0, -1.0)
    return 1 - 4 * np.abs(np.mod(part + 0.25, 1.0) - 0.5)


@frozen
class Generator:
    """One of several waves: its share of the height, its length beside the first's, how many whole waves it runs while
    the first runs one, and how far it is ahead."""

    share: float = 1.0
    length: float = 1.0
    turns: int = 1
    offset: float = 0.0


@lru_cache(maxsize=256)
def generators(count: int, seed: int) -> tuple[Generator, ...]:
    """Return so many waves that add up: the first as it is asked for, the others by chance.

    All run whole waves, so that what loops with one loops with several.
    """
    random = np.random.Generator(np.random.Philox(seed))
    found = [Generator()]
    for _ in range(count - 1):
        turns = int(random.choice((-2, -1, 1, 2, 3)))
        found.append(Generator(float(random.uniform(0.3, 0.8)), float(random.uniform(0.35, 1.7)), turns,
                               float(random.random())))  # fmt: skip
    whole = sum(each.share for each in found)
    return tuple(evolve(each, share=each.share / whole) for each in found)


def _run(job: EffectJob) -> Raster:
    values, (x, y) = job.values, job.places()
    angle = math.radians(values["direction"])
    # What runs level or upright is the same in each row or column.
    cos, sin = (0.0 if abs(part) < 1e-9 else part for part in (math.cos(angle), math.sin(angle)))
    level, upright = x * np.float32(cos), y * np.float32(sin)
    run = level if sin == 0 else upright if cos == 0 else level + upright
    high: np.ndarray = np.zeros((1, 1), dtype=np.float32)
    for each in generators(round(values["generators"]), int(values["seed"])):
        phase = (values["phase"] / 100 * each.turns + each.offset) % 1.0
        cycles = run / np.float32(values["length"] * each.length) - np.float32(phase)
        high = high + np.float32(each.share) * risen(values["form"], cycles)
    high = values["height"] * high * _pinned(job, x, y)
    across, down = (cos, sin) if values["along"] else (-sin, cos)
    return moved(job, -high * np.float32(across), -high * np.float32(down), values["edge"])


def _pinned(job: EffectJob, x: np.ndarray, y: np.ndarray) -> np.ndarray | float:
    """Return how freely each place moves: 0 at a pinned edge, 1 at the middle of the layer or the opposite edge."""
    left, top, right, bottom = job.box
    pinned = _SIDES.get(job.values["pinned"], (job.values["pinned"],))
    share: np.ndarray | float = 1.0
    for axis, (place, low, high) in enumerate(((x, left, right), (y, top, bottom))):
        names = ("left", "right") if axis == 0 else ("top", "bottom")
        size = max(high - low, 1e-6) / (2 if all(name in pinned for name in names) else 1)
        for name, far in zip(names, ((place - low) / size, (high - place) / size), strict=True):
            if name in pinned:
                share = share * np.clip(far, 0, 1)
    return share


register_effect(
    EffectKind(
        "wave", "Wave", "Bends along waves that run across it", "Bend", EFFECT, PARAMETERS,
        _run, where_clear(_reads), _reads, placed=True, holds=True, neutral=lambda values: values["height"] == 0,
    )
)  # fmt: skip
