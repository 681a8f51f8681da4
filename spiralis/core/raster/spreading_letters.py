"""Letter by letter: how far each letter, word or line is between an offset place and look, and its own."""

from __future__ import annotations

import math
from bisect import bisect_right
from collections.abc import Mapping, Sequence
from functools import lru_cache

import numpy as np
from attrs import frozen

from spiralis.core.animation.easing import CubicBezier
from spiralis.core.cache import Beside
from spiralis.core.colour import Colour, mix
from spiralis.core.geometry import Affine, products
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.raster.fonts import FaceAt, shaper
from spiralis.core.raster.setting import Letter, Setting

UNITS = ("none", "letters", "words", "lines")
ORDERS = ("forwards", "backwards", "from the centre", "to the centre", "random")
WAYS = ("out and back", "to both sides")
_BY = ("spread_by", UNITS[1:])
#: A letter shows one of at least so many others.
_FEWEST = 6

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
    Parameter("spread_at_once", "At once", Kind.SWITCH, False,
              "Whether each part is there at once, one after another without overlap, as if typed", needs=_BY),
    Parameter("spread_others", "Other letters", Kind.NUMBER, 0.0,
              "How many other letters of the words each shows on its way, one after another, before its own", "", 0, 60,
              needs=_BY),
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
        return [max(bisect_right(starts, letter.cluster) - 1, 0) for letter in letters]
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


def progress(arrived: float, rank: np.ndarray, overlap: float, count: int) -> np.ndarray:
    """Return how far parts of these ranks (n,) are, 0 to 1, where all of them are ``arrived`` (0 to 1) on the whole.

    Each part takes the same share of the time; with no overlap one begins when the one before has arrived, with full
    overlap all go together.
    """
    share = 1 / count + (1 - 1 / count) * overlap if count > 1 else 1.0
    return np.clip((arrived - rank * (1 - share)) / share, 0.0, 1.0)


def in_wave(share: np.ndarray, way: str) -> np.ndarray:
    """Return how far out parts are, at shares (n,) of their own time in a wave: at most 1, below 0 on the other side.

    It begins and ends at rest, without a jolt.
    """
    if way == WAYS[0]:
        return np.asarray(0.5 - 0.5 * np.cos(2 * math.pi * share))
    # The largest value of sin 2x sin x is 4 / (3 sqrt 3).
    return np.asarray(np.sin(2 * math.pi * share) * np.sin(math.pi * share) * 0.75 * math.sqrt(3))


@frozen(eq=False)
class Spread:
    """Where the letters of a setting are now: rows of six numbers of their maps, float64 (n, 6), how opaque each is,
    0 to 1 (n,), its colour (n, 4), numbers (n,) that are alike where colours are, and which letter each shows (n,)."""

    maps: np.ndarray
    opacity: np.ndarray
    colours: np.ndarray
    alike: np.ndarray
    shows: np.ndarray


@frozen(eq=False)
class _Parts:
    """What part each letter belongs to (n,), how many there are, and the middle of each letter's part (n, 2)."""

    of: np.ndarray
    count: int
    centres: np.ndarray


@frozen(eq=False)
class _Facts:
    """The letters' maps (n, 6) and colours (n, 4) as they are set, numbers (n,) that are alike where colours are, and
    the parts by their sort."""

    maps: np.ndarray
    colours: np.ndarray
    alike: np.ndarray
    parts: dict[str, _Parts]


@frozen(eq=False)
class _Others:
    """How broad letters are (n,) in their fonts' units, and the places of those that may stand for one another, face by
    face and the narrowest first."""

    breadths: np.ndarray
    faces: tuple[np.ndarray, ...]


_facts: Beside[list[_Facts]] = Beside(list)
_others: Beside[list[_Others]] = Beside(list)


def _facts_of(setting: Setting) -> _Facts:
    held = _facts.of(setting)
    if not held:
        maps = np.array([letter.matrix for letter in setting.letters], dtype=np.float64).reshape(-1, 6)
        numbers: dict[Colour, int] = {}
        alike = np.array([numbers.setdefault(letter.colour, len(numbers)) for letter in setting.letters], dtype=int)
        held.append(_Facts(maps, np.array(tuple(numbers)).reshape(-1, 4)[alike], alike, {}))
    return held[0]


def _others_of(setting: Setting, text: str) -> _Others:
    held = _others.of(setting)
    if not held:
        faces: dict[FaceAt, list[int]] = {}
        for n, letter in enumerate(setting.letters):
            if not (letter.at.face.coloured or text[letter.cluster : letter.cluster + 1].isspace()):
                faces.setdefault(letter.at, []).append(n)
        breadths = np.array([shaper(y.at)[0].get_glyph_h_advance(y.glyph) for y in setting.letters], dtype=np.float64)
        places = (np.array(sorted(found, key=lambda n: breadths[n])) for found in faces.values())
        held.append(_Others(breadths, tuple(places)))
    return held[0]


def spread(setting: Setting, values: Mapping[str, Value]) -> Spread:
    """Return where the letters are now."""
    facts, by = _facts_of(setting), values["spread_by"]
    own = np.arange(len(facts.maps))
    if by == "none" or not setting.letters:
        return Spread(facts.maps, np.ones(len(facts.maps)), facts.colours, facts.alike, own)
    parts = _parts_of(facts, setting, values)
    order, shares = _order(parts, values), _arrived(parts, values)
    overlap = values["spread_overlap"] / 100
    waves = in_wave(progress(values["wave"] / 100 % 1.0, order, overlap, parts.count), values["wave_way"])
    away = (1 - shares + waves)[parts.of]
    opacity = 1 + np.minimum(np.abs(away), 1.0) * (values["spread_opacity"] / 100 - 1)
    maps, shows = _moved(facts.maps, parts.centres, away, values), own
    if count := int(values["spread_others"]):
        others = _others_of(setting, values["text"])
        shows = _exchanged(others, shares[parts.of], count, int(values["spread_seed"]))
        # In the middle of the room that its own letter takes.
        maps[:, 4:] += maps[:, :2] * (others.breadths - others.breadths[shows])[:, None] / 2
    return Spread(maps, opacity, *_tinted(facts, away, values), shows)


def _parts_of(facts: _Facts, setting: Setting, values: Mapping[str, Value]) -> _Parts:
    by = values["spread_by"]
    if by not in facts.parts:
        of = parts_of(values["text"], setting.letters, setting, by)
        centres = np.array(_centres(setting, of, max(of) + 1))
        facts.parts[by] = _Parts(np.array(of), max(of) + 1, centres[of])
    return facts.parts[by]


def _order(parts: _Parts, values: Mapping[str, Value]) -> np.ndarray:
    return np.array(ranks(parts.count, values["spread_order"], int(values["spread_seed"])))


def _arrived(parts: _Parts, values: Mapping[str, Value]) -> np.ndarray:
    """Return how far each part has come, 0 to 1 (parts,)."""
    order, all_in = _order(parts, values), values["spread"] / 100
    if values["spread_at_once"]:
        return np.asarray(progress(all_in, order, 0.0, parts.count) > 1 - 1e-9, dtype=np.float64)
    ease = CubicBezier(0, 0, 1 - values["spread_softness"] / 100, 1)
    return np.asarray(ease.solve(progress(all_in, order, values["spread_overlap"] / 100, parts.count)))


def typed_to(setting: Setting, values: Mapping[str, Value]) -> int:
    """Return the place among the words, as carets are counted, behind the last letter that has arrived; never at the
    beginning of a line of which nothing is there."""
    text, clusters = values["text"], sorted({letter.cluster for letter in setting.letters})
    if values["spread_by"] == "none" or not clusters:
        return len(text)
    parts = _parts_of(_facts_of(setting), setting, values)
    there = (_arrived(parts, values) >= 0.5)[parts.of].tolist()
    arrived = (letter.cluster for letter, yes in zip(setting.letters, there, strict=True) if yes)
    # Spaces belong to no letter's part.
    last = max((cluster for cluster in arrived if not text[cluster : cluster + 1].isspace()), default=-1)
    if last < 0:
        return clusters[0]
    after, end = bisect_right(clusters, last), setting.lines[setting.line_of(last)].end
    return min(clusters[after], end) if after < len(clusters) else end


def _exchanged(others: _Others, shares: np.ndarray, count: int, seed: int) -> np.ndarray:
    """Return which letter each shows (n,), where so much of its way lies behind it (n,): ``count`` others of its face
    one after another, its own in the end."""
    shows = np.arange(len(shares))
    steps = np.minimum(shares * count, count - 1).astype(int)
    drawn = _chances(count, len(shares), seed)[steps, shows]
    for places in others.faces:
        # Among those about as broad as it, as far as there are enough of them.
        room = max(min(len(places), _FEWEST), len(places) // 2)
        lowest = np.clip(np.arange(len(places)) - room // 2, 0, len(places) - room)
        chosen, on_way = places[lowest + (drawn[places] * room).astype(int)], shares[places] < 1
        shows[places[on_way]] = chosen[on_way]
    return shows


@lru_cache(maxsize=16)
def _chances(count: int, letters: int, seed: int) -> np.ndarray:
    return np.random.Generator(np.random.Philox(seed)).random((count, letters))


def _moved(maps: np.ndarray, centres: np.ndarray, away: np.ndarray, values: Mapping[str, Value]) -> np.ndarray:
    """Return maps (n, 6) followed by a scale, a slant, a turn and a shift about centres (n, 2), as far as ``away``."""
    turn = np.radians(away * values["spread_turn"])
    cosine, sine = np.cos(turn), np.sin(turn)
    slant = -np.tan(np.radians(away * values["spread_slant"]))
    scale = 1 + away * (values["spread_scale"] / 100 - 1)
    a, b, c, d = cosine * scale, sine * scale, (cosine * slant - sine) * scale, (sine * slant + cosine) * scale
    (x, y), (dx, dy) = centres.T, values["spread_place"]
    e, f = x + away * dx - a * x - c * y, y + away * dy - b * x - d * y
    return products(np.column_stack([a, b, c, d, e, f]), maps)


def spread_letters(setting: Setting, values: Mapping[str, Value]) -> list[tuple[Letter, float]]:
    """Return the letters where they are now with the opacity of each, 0 to 1."""
    now = spread(setting, values)
    shown = (setting.letters[n] for n in now.shows.tolist())
    rows = zip(setting.letters, shown, now.maps.tolist(), now.colours.tolist(), now.opacity.tolist(), strict=True)
    return [
        (Letter(shows.at, shows.glyph, Affine(*row), tuple(colour), own.cluster), seen)
        for own, shows, row, colour, seen in rows
    ]


def _tinted(facts: _Facts, away: np.ndarray, values: Mapping[str, Value]) -> tuple[np.ndarray, np.ndarray]:
    """Return the letters' colours mixed with the one they come from, and numbers that are alike where colours are."""
    *colour, most = values["spread_colour"]
    thousandths = np.round(np.clip(away, 0.0, 1.0) * 1000)
    shares = thousandths / 1000 * most
    if not (shares > 0).any():
        return facts.colours, facts.alike
    ours = facts.colours
    mixed = mix(ours, np.column_stack([np.tile(colour, (len(ours), 1)), ours[:, 3]]), shares)
    return mixed, facts.alike * 1001 + thousandths.astype(int)


def _centres(setting: Setting, parts: list[int], count: int) -> list[tuple[float, float]]:
    """Return the middle of each part: between the feet of its first and last letter, half an x-height up."""
    xs: list[list[float]] = [[] for _ in range(count)]
    ys: list[list[float]] = [[] for _ in range(count)]
    for letter, part in zip(setting.letters, parts, strict=True):
        carets = setting.carets[letter.cluster : letter.cluster + 2]
        if setting.line_of(letter.cluster) != setting.line_of(letter.cluster + 1):
            carets = carets[:1]  # Within a word a line may end where the next begins.
        xs[part] += [caret[0] for caret in carets]
        ys[part] += [carets[0][1] - 0.3 * setting.size * math.cos(math.radians(carets[0][2]))]
    return [(sum(x) / len(x), sum(y) / len(y)) if x else (0.0, 0.0) for x, y in zip(xs, ys, strict=True)]
