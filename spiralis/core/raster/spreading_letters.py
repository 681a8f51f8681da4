"""Letter by letter: how far each letter, word or line is between an offset place and look, and its own."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from functools import lru_cache

import numpy as np

from spiralis.core.animation.easing import CubicBezier
from spiralis.core.colour import Colour, mix
from spiralis.core.geometry import Affine
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.raster.typesetting import Letter, Setting

UNITS = ("none", "letters", "words", "lines")
ORDERS = ("forwards", "backwards", "from the centre", "to the centre", "random")
WAYS = ("out and back", "to both sides")
_BY = ("spread_by", UNITS[1:])

PARAMETERS = (
    Parameter("spread_by", "Part by part", Kind.CHOICE, "none",
              "Whether letters, words or lines move one after another", choices=UNITS),
    Parameter("spread", "Arrived", Kind.NUMBER, 0.0, "0 % is all away, 100 % all in place; keys on this move them", "%",
              0, 100, needs=_BY),
    Parameter("spread_place", "Comes from", Kind.PAIR, (0.0, 60.0), "How far from its place each part begins", "px",
              needs=_BY),
    Parameter("spread_scale", "Scale from", Kind.NUMBER, 100.0, "Its size before it arrives", "%", 0, 2000, needs=_BY),
    Parameter("spread_turn", "Turn from", Kind.NUMBER, 0.0, "Its turn before it arrives", "°", needs=_BY),
    Parameter("spread_opacity", "Opacity from", Kind.NUMBER, 0.0, "Its opacity before it arrives", "%", 0, 100,
              needs=_BY),
    Parameter("spread_slant", "Slant from", Kind.NUMBER, 0.0, "Its slant before it arrives", "°", -89, 89, needs=_BY),
    Parameter("spread_colour", "Colour from", Kind.COLOUR, (0.94, 0.44, 0.32, 0.0),
              "Its colour before it arrives; opacity says how much of it", needs=_BY),
    Parameter("spread_order", "Order", Kind.CHOICE, "forwards", "Which part comes first", choices=ORDERS, needs=_BY),
    Parameter("spread_overlap", "Overlap", Kind.NUMBER, 60.0,
              "How much of each part's way falls together with the next", "%", 0, 100, needs=_BY),
    Parameter("spread_softness", "Softness", Kind.NUMBER, 60.0, "How gently each part arrives", "%", 0, 100, needs=_BY),
    Parameter("wave", "Wave", Kind.NUMBER, 0.0,
              "From 0 to 100 % each part goes out and comes back, one after another; 200 % is twice", "%", period=100.0,
              needs=_BY),
    Parameter("wave_way", "Wave goes", Kind.CHOICE, WAYS[0], "Whether parts go out and back, or on to the other side",
              choices=WAYS, needs=_BY),
    Parameter("spread_seed", "Seed", Kind.NUMBER, 1.0, "Another random order", "", 0, 100_000, needs=_BY),
)  # fmt: skip


def parts_of(text: str, letters: Sequence[Letter], setting: Setting, by: str) -> list[int]:
    """Return for each letter the number of the part that it belongs to, counted in reading order."""
    if by == "lines":
        return [setting.line_of(letter.cluster) for letter in letters]
    if by == "words":
        starts = [i for i, c in enumerate(text) if not c.isspace() and (i == 0 or text[i - 1].isspace())]
        return [max(sum(start <= letter.cluster for start in starts) - 1, 0) for letter in letters]
    clusters = sorted({letter.cluster for letter in letters if not text[letter.cluster : letter.cluster + 1].isspace()})
    places = {cluster: index for index, cluster in enumerate(clusters)}
    return [places.get(letter.cluster, 0) for letter in letters]


@lru_cache(maxsize=256)
def ranks(count: int, order: str, seed: int) -> tuple[float, ...]:
    """Return when each of ``count`` parts comes, 0 first to 1 last."""
    if count < 2:
        return (0.0,) * count
    places = np.arange(count, dtype=np.float64)
    middle = (count - 1) / 2
    if order == "backwards":
        places = places[::-1]
    elif order == "from the centre":
        places = np.abs(places - middle)
    elif order == "to the centre":
        places = middle - np.abs(places - middle)
    elif order == "random":
        places = np.random.Generator(np.random.Philox(seed)).permutation(count).astype(np.float64)
    low, high = float(places.min()), float(places.max())
    return tuple(((places - low) / (high - low)).tolist()) if high > low else (0.0,) * count


def progress(arrived: float, rank: float, overlap: float, count: int) -> float:
    """Return how far a part is, 0 to 1, where all of them are ``arrived`` (0 to 1) on the whole.

    Each part takes the same share of the time; with no overlap one begins when the one before has arrived, with full
    overlap all go together.
    """
    share = 1 / count + (1 - 1 / count) * overlap if count > 1 else 1.0
    start = rank * (1 - share)
    return min(max((arrived - start) / share, 0.0), 1.0) if share > 0 else float(arrived >= start)


def in_wave(share: float, way: str) -> float:
    """Return how far out a part is, at a share of its own time in a wave: at most 1, below 0 on the other side.

    It begins and ends at rest, without a jolt.
    """
    if way == WAYS[0]:
        return 0.5 - 0.5 * math.cos(2 * math.pi * share)
    # The largest value of sin 2x sin x is 4 / (3 sqrt 3).
    return math.sin(2 * math.pi * share) * math.sin(math.pi * share) * 0.75 * math.sqrt(3)


def spread_letters(setting: Setting, values: Mapping[str, Value]) -> list[tuple[Letter, float]]:
    """Return the letters where they are now with the opacity of each, 0 to 1."""
    by, text = values["spread_by"], values["text"]
    if by == "none" or not setting.letters:
        return [(letter, 1.0) for letter in setting.letters]
    parts = parts_of(text, setting.letters, setting, by)
    count = max(parts) + 1
    order = ranks(count, values["spread_order"], int(values["spread_seed"]))
    ease = CubicBezier(0, 0, 1 - values["spread_softness"] / 100, 1)
    centres = _centres(setting, parts, count)
    overlap, arrived = values["spread_overlap"] / 100, values["spread"] / 100
    shares = ease.solve(np.array([progress(arrived, rank, overlap, count) for rank in order]))
    round_ = values["wave"] / 100 % 1.0
    waves = [in_wave(progress(round_, rank, overlap, count), values["wave_way"]) for rank in order]
    made = []
    for letter, part in zip(setting.letters, parts, strict=True):
        away = 1 - float(shares[part]) + waves[part]
        cx, cy = centres[part]
        dx, dy = (away * way for way in values["spread_place"])
        scale = 1 + away * (values["spread_scale"] / 100 - 1)
        moved = (
            Affine.shift(cx + dx, cy + dy) @ Affine.rotation(away * values["spread_turn"])
            @ Affine(1.0, 0.0, -math.tan(math.radians(away * values["spread_slant"])), 1.0, 0.0, 0.0)
            @ Affine.scaling(scale, scale) @ Affine.shift(-cx, -cy) @ letter.matrix
        )  # fmt: skip
        colour = _tinted(letter.colour, values["spread_colour"], round(min(max(away, 0.0), 1.0), 3))
        opacity = 1 + min(abs(away), 1.0) * (values["spread_opacity"] / 100 - 1)
        made.append((Letter(letter.at, letter.glyph, moved, colour, letter.cluster), opacity))
    return made


def _tinted(own: Colour, other: Colour, away: float) -> Colour:
    """Return a letter's colour mixed with the one it comes from."""
    share = away * other[3]
    if share <= 0:
        return own
    mixed = mix(np.array([own]), np.array([(*other[:3], own[3])]), np.array([share]))[0].tolist()
    return (mixed[0], mixed[1], mixed[2], mixed[3])


def _centres(setting: Setting, parts: list[int], count: int) -> list[tuple[float, float]]:
    """Return the middle of each part: between the feet of its first and last letter, half an x-height up."""
    xs: list[list[float]] = [[] for _ in range(count)]
    ys: list[list[float]] = [[] for _ in range(count)]
    for letter, part in zip(setting.letters, parts, strict=True):
        carets = setting.carets[letter.cluster : letter.cluster + 2]
        xs[part] += [caret[0] for caret in carets]
        ys[part] += [carets[0][1] - 0.3 * setting.size * math.cos(math.radians(carets[0][2]))]
    return [(sum(x) / len(x), sum(y) / len(y)) if x else (0.0, 0.0) for x, y in zip(xs, ys, strict=True)]
