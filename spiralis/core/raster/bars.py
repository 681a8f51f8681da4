"""Bars along words: plates behind them, lines drawn under or through them, a caret behind what is typed."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence
from typing import Any

import numpy as np
from attrs import evolve, frozen

from spiralis.core.animation.motion_path import bezier_point
from spiralis.core.cache import Beside
from spiralis.core.colour import Colour
from spiralis.core.geometry import Affine
from spiralis.core.model.art import Contour, Figure
from spiralis.core.model.forms import polygon, rectangle
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.raster.curves import Track
from spiralis.core.raster.fonts import shaper
from spiralis.core.raster.setting import Line, Setting
from spiralis.core.raster.spreading_letters import typed_to

MARKED = "marked words"
PLATES = ("none", MARKED, "each line", "all lines")
LINES = ("none", "under", "through")
CARETS = ("none", "line", "block")
_ON_PLATE, _LINED, _TYPED = ("plate", PLATES[1:]), ("line", LINES[1:]), ("caret", CARETS[1:])
#: How high capitals are and where lines lie, beside the size of the type.
_CAPITALS, _UNDER, _THROUGH = 0.7, -0.12, 0.3
#: How broad carets are beside the size, and how far they reach above and below the line.
_BREADTHS, _ABOVE, _BELOW = {"line": 0.08, "block": 0.5}, 0.8, 0.2
#: On a curve bars are cut into pieces of so many px.
_PIECE = 6.0
#: Bars with round corners are no shorter than this, so that they have as many points as others.
_LEAST = 1e-3

PARAMETERS = (
    Parameter("plate", "Plate", Kind.CHOICE, PLATES[0],
              "A colour behind marked words, behind each line, or behind all of them", choices=PLATES, worn=True),
    Parameter("plate_colour", "Plate colour", Kind.COLOUR, (0.79, 0.18, 0.27, 1.0), "Colour of the plate",
              needs=_ON_PLATE, worn=True),
    Parameter("plate_room", "Plate reaches", Kind.PAIR, (24.0, 16.0),
              "How far it goes beyond the letters, sideways and up and down", "px", -1000, 5000, needs=_ON_PLATE,
              worn=True),
    Parameter("plate_corners", "Plate corners", Kind.NUMBER, 0.0, "How round its corners are", "px", 0, 5000,
              needs=_ON_PLATE, worn=True),
    Parameter("plate_drawn", "Plate drawn", Kind.NUMBER, 100.0,
              "How much of it is there: keys on this let it run along the words, line by line", "%", 0, 100,
              needs=_ON_PLATE),
    Parameter("line", "Line", Kind.CHOICE, LINES[0], "A line under the words, or through them", choices=LINES,
              worn=True),
    Parameter("line_of", "Line of", Kind.CHOICE, "all words", "Whether all words have it, or marked ones alone",
              choices=("all words", MARKED), needs=_LINED, worn=True),
    Parameter("line_colour", "Line colour", Kind.COLOUR, (1.0, 1.0, 1.0, 1.0), "Colour of the line", needs=_LINED,
              worn=True),
    Parameter("line_width", "Line width", Kind.NUMBER, 7.0, "How thick it is, beside the size", "%", 0.1, 200,
              needs=_LINED, worn=True),
    Parameter("line_rise", "Line raised", Kind.NUMBER, 0.0, "Lifts it, beside the size; below 0 it sinks", "%",
              -500, 500, needs=_LINED, worn=True),
    Parameter("line_drawn", "Line drawn", Kind.NUMBER, 100.0,
              "How much of it is there: keys on this draw it along the words, line by line", "%", 0, 100,
              needs=_LINED),
    Parameter("caret", "Caret", Kind.CHOICE, CARETS[0],
              "What stands behind the words, or part by part behind the last letter that has arrived", choices=CARETS,
              worn=True),
    Parameter("caret_colour", "Caret colour", Kind.COLOUR, (1.0, 1.0, 1.0, 1.0), "Colour of the caret", needs=_TYPED,
              worn=True),
    Parameter("caret_shown", "Caret shown", Kind.SWITCH, True,
              "Whether it is seen; two keys on this that repeat let it blink", needs=_TYPED),
)  # fmt: skip


@frozen
class Bars:
    """What lies behind letters and what lies before them, in the layer's units."""

    behind: tuple[Figure, ...] = ()
    before: tuple[Figure, ...] = ()


@frozen
class _Bar:
    """An upright box along a line, drawn up to a share of its length, from the right where words run so."""

    left: float
    right: float
    top: float
    bottom: float
    backwards: bool = False

    def cut(self, share: float) -> _Bar:
        """Return the part that is drawn."""
        length = (self.right - self.left) * share
        return evolve(self, left=self.right - length) if self.backwards else evolve(self, right=self.left + length)


def has_bars(values: Mapping[str, Value]) -> bool:
    """Whether words with these values have a plate, a line or a caret."""
    return values["plate"] != PLATES[0] or values["line"] != LINES[0] or _has_caret(values)


def _has_caret(values: Mapping[str, Value]) -> bool:
    return bool(values["caret"] != CARETS[0] and values["caret_shown"])


def key_of(values: Mapping[str, Value]) -> tuple[Any, ...]:
    """Return what decides how the bars of words look that are set alike."""
    return tuple(values[parameter.name] for parameter in PARAMETERS) if has_bars(values) else ()


def bars_of(setting: Setting, values: Mapping[str, Value]) -> Bars:
    """Return the bars of words as they are set, as far as they are drawn."""
    if not has_bars(values):
        return Bars()
    plates = _figures(setting, _plates(setting, values), values["plate_drawn"], values["plate_colour"],
                      values["plate_corners"])  # fmt: skip
    lines = _figures(setting, _lines(setting, values), values["line_drawn"], values["line_colour"], 0.0)
    caret = _caret(setting, values) if _has_caret(values) else ()
    return Bars(plates, lines + caret) if values["line"] == "through" else Bars(plates + lines, caret)


def _caret(setting: Setting, values: Mapping[str, Value]) -> tuple[Figure, ...]:
    place = typed_to(setting, values)
    (x, y, turn), line = setting.carets[place], setting.lines[setting.line_of(place)]
    size, side = line.size, -1.0 if _backwards(setting, line) else 1.0
    breadth = _BREADTHS[values["caret"]] * size
    left = min(side * breadth * 0.5, side * breadth * 1.5)
    box = rectangle(left, -_ABOVE * size, breadth, (_ABOVE + _BELOW) * size)
    return (Figure((box.mapped(Affine.shift(x, y) @ Affine.rotation(turn)),), values["caret_colour"]),)


def _plates(setting: Setting, values: Mapping[str, Value]) -> list[_Bar]:
    if values["plate"] == PLATES[0]:
        return []
    above, below = _reach(setting)
    across, down = values["plate_room"]
    held = _shown(setting.marked if values["plate"] == MARKED else setting.lines)
    bars = [
        _Bar(line.left - across, line.left + line.width + across, line.baseline - above * line.size - down,
             line.baseline + below * line.size + down, _backwards(setting, line))
        for line in held
    ]  # fmt: skip
    if values["plate"] == "all lines" and bars:
        left, right = min(bar.left for bar in bars), max(bar.right for bar in bars)
        bars = [_Bar(left, right, bars[0].top, bars[-1].bottom, bars[0].backwards)]
    return bars


def _lines(setting: Setting, values: Mapping[str, Value]) -> list[_Bar]:
    if values["line"] == LINES[0]:
        return []
    place = (_UNDER if values["line"] == "under" else _THROUGH) + values["line_rise"] / 100
    half = values["line_width"] / 200
    return [
        _Bar(line.left, line.left + line.width, line.baseline - (place + half) * line.size,
             line.baseline - (place - half) * line.size, _backwards(setting, line))
        for line in _shown(setting.marked if values["line_of"] == MARKED else setting.lines)
    ]  # fmt: skip


def _shown(lines: Sequence[Line]) -> list[Line]:
    return [line for line in lines if line.width > 0]


def _backwards(setting: Setting, line: Line) -> bool:
    """Whether words run from the right: the first letter of a line stands in its right half."""
    if setting.curve is not None:
        return False
    return setting.carets[line.first][0] > line.left + line.width / 2


#: How far letters reach above and below their baseline beside their size, in a list beside their setting.
_reaches: Beside[list[tuple[float, float]]] = Beside(list)


def _reach(setting: Setting) -> tuple[float, float]:
    """Return how far plates reach above and below the baseline, beside the size: alike for all lines, and as far as
    any letter does, capitals at least."""
    held = _reaches.of(setting)
    if not held:
        above, below = _CAPITALS, 0.0
        for at, glyph in {(letter.at, letter.glyph) for letter in setting.letters}:
            font, upem = shaper(at)
            extents = font.get_glyph_extents(glyph)
            if extents is not None and extents.width:
                above = max(above, extents.y_bearing / upem)
                below = max(below, -(extents.y_bearing + extents.height) / upem)
        held.append((above, below))
    return held[0]


def _figures(setting: Setting, bars: list[_Bar], drawn: float, colour: Colour, corners: float) -> tuple[Figure, ...]:
    """Return bars drawn one after another up to a share in % of all, as one figure: where they overlap, they are one.

    Each takes as much of the time as it is long.
    """
    bars = [bar for bar in bars if bar.bottom > bar.top and bar.right > bar.left]
    contours = [_contour(bar, corners, setting) for bar in _drawn(bars, drawn / 100)]
    return (Figure(tuple(contours), colour),) if contours else ()


def _drawn(bars: list[_Bar], share: float) -> Iterator[_Bar]:
    """Yield bars up to a share of all their lengths, what is still to come without a length: outlines that change over
    time stay as many as they are."""
    left = sum(bar.right - bar.left for bar in bars) * share
    for bar in bars:
        length = bar.right - bar.left
        yield bar if left >= length else bar.cut(left / length)
        left = max(left - length, 0.0)


def _contour(bar: _Bar, corners: float, setting: Setting) -> Contour:
    corners = min(corners, (bar.bottom - bar.top) / 2)
    length = max(bar.right - bar.left, _LEAST if corners > 0 else 0.0)
    plain = rectangle(bar.left, bar.top, length, bar.bottom - bar.top, corners, corners)
    return plain if setting.curve is None else _bent(plain, setting.curve, setting.foot)


def _bent(contour: Contour, curve: Track, foot: float) -> Contour:
    """Return an outline about a straight line as it runs along a curve, in short straight pieces."""
    rows = np.array(contour.vertices, dtype=np.float64)
    points = []
    for start, end in zip(rows, np.roll(rows, -1, axis=0), strict=True):
        steps = max(math.ceil(math.hypot(end[0] - start[0], end[1] - start[1]) / _PIECE), 6)
        points.append(bezier_point(np.array([start[:2], start[4:], end[2:4], end[:2]]), np.arange(steps) / steps))
    x, y = np.concatenate(points).T
    *_, c, d, e, f = curve.at_many(x).T
    bent = np.column_stack([c * (y - foot) + e, d * (y - foot) + f])
    return polygon([(across, down) for across, down in bent.tolist()])
