"""Set words: runs of different looks, every script, boxes, fits, and lines bent along a curve.

Lines are shaped with HarfBuzz run by run; a run is letters of one direction, face and look. Letters that the chosen
face lacks come from another (``fonts.face_for``).
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from functools import lru_cache
from itertools import groupby, pairwise

import uharfbuzz as hb
from attrs import evolve, frozen

from spiralis.core.colour import Colour
from spiralis.core.geometry import Affine, Box
from spiralis.core.model.project import Project
from spiralis.core.raster.bidi import embedding_levels, visual_order
from spiralis.core.raster.breaking import break_lines
from spiralis.core.raster.counting import SIGN
from spiralis.core.raster.curves import Track as CurveTrack
from spiralis.core.raster.curves import arc_track, path_track
from spiralis.core.raster.fonts import FaceAt, face_for, find_face, shaper
from spiralis.core.raster.setting import Letter, Line, Manner, Run, Setting

CAPS = ("as typed", "capitals", "small capitals")
FLOWS = ("lines", "box", "fit width", "fit box", "stretch")
#: Where words stand in their box, and which share of the room that they leave free lies above them.
STANDS = {"top": 0.0, "middle": 0.5, "bottom": 1.0}
_SMALL = 0.74


@frozen
class Look:
    """What letters are drawn with: a face, a size in px, the gap after each and the lift of the line, a colour, and
    whether digits are all alike in breadth, where the face has such."""

    at: FaceAt
    size: float
    gap: float
    rise: float
    colour: Colour
    even: bool = False


@frozen
class _Cell:
    """One letter to be shaped: what it looks like after capitals, where it came from."""

    letter: str
    source: int
    look: Look


@frozen
class _Shaped:
    """A shaped glyph: ``x`` from its run's left end, advance, offsets; cells it stands for begin at ``cell``."""

    look: Look
    glyph: int
    cell: int
    x: float
    dy: float
    advance: float


def set_words(project: Project, text: str, manner: Manner) -> Setting:
    """Return the words set at the size that the manner says, in plain lines or wrapped in a box."""
    looks = _Looks(project, manner)
    lines: list[tuple[list[_Cell], int, int]] = []
    start = 0
    for paragraph in text.split("\n"):
        cells = list(_cells(paragraph, start, looks, manner.caps))
        lines += list(_broken(cells, start, start + len(paragraph), manner))
        start += len(paragraph) + 1
    shaped = [_visual(cells) for cells, _, _ in lines]
    widths = [max(width, 0.0) for _, width in shaped]
    whole = manner.frame[0] if manner.flow == "box" else max(widths, default=0.0)
    share = {"left": 0.0, "centre": 0.5, "right": 1.0}[manner.alignment]
    base = looks.of(0)
    made: list[Line] = []
    glyphs: list[list[tuple[_Shaped, float]]] = []
    baseline = 0.0
    for index, ((cells, first, last), (row, width)) in enumerate(zip(lines, shaped, strict=True)):
        used = {cell.look for cell in cells} or {base}
        ascent, descent = (max(part) for part in zip(*(_extents(look) for look in used), strict=True))
        tallest = max(look.size for look in used)
        baseline = ascent if index == 0 else baseline + tallest * manner.leading / 100
        left = share * (whole - width)
        end = cells[-1].source + 1 if cells else first
        made.append(Line(first, last, baseline, left, max(width, 0.0), ascent, descent, tallest, end))
        glyphs.append([(glyph, left + glyph.x) for glyph in row])
    height = made[-1].baseline + made[-1].descent if made else 0.0
    flat = (0.0, 0.0, whole, height)
    if manner.flow == "box":
        top = STANDS[manner.stands] * (manner.frame[1] - height)
        if top:
            made = [evolve(line, baseline=line.baseline + top) for line in made]
        flat = (0.0, min(top, 0.0), whole, max(top + height, manner.frame[1]))
    cells_of = [cells for cells, _, _ in lines]
    carets = _carets(text, made, cells_of, glyphs)
    curve = _curve(manner, whole, made)
    marked = tuple(_marked(looks, made, cells_of, glyphs))
    return evolve(_placed(glyphs, made, cells_of, carets, curve, flat, manner.size), marked=marked)


class _Looks:
    """The look of each letter of the words: the layer's own, changed by the run that the letter lies in."""

    def __init__(self, project: Project, manner: Manner) -> None:
        self.project, self.manner = project, manner
        axes = dict(manner.axes)
        at = find_face(project, manner.font, manner.weight, **axes)
        size = manner.size
        base = Look(at, size, manner.tracking * size / 1000, manner.rise * size / 100, manner.fill)
        self._base = base
        self._runs = []
        self._marked: set[int] = set()
        for run in (Run(*held) for held in manner.runs):
            run_at = at
            if run.family or run.weight:
                run_at = find_face(project, run.family or manner.font, run.weight or manner.weight, **axes)
            scale = run.size / 100
            gap = (manner.tracking + run.tracking) * size * scale / 1000
            rise = (manner.rise + run.rise) * size * scale / 100
            self._runs.append((run.first, run.last, Look(run_at, size * scale, gap, rise, run.colour or base.colour)))
            self._marked |= set(range(run.first, run.last)) if run.marked else set()

    def of(self, index: int) -> Look:
        """Return the look of a letter."""
        return next((look for first, last, look in reversed(self._runs) if first <= index < last), self._base)

    def is_marked(self, index: int) -> bool:
        """Whether a letter belongs to the marked words."""
        return index in self._marked


def _cells(paragraph: str, start: int, looks: _Looks, caps: str) -> Iterator[_Cell]:
    """Yield the letters of a paragraph as they are to be shaped, each with the face that has it."""
    for first, last in _graphemes(paragraph):
        look = looks.of(start + first)
        letters, sources, size = [], [], look.size
        if looks.manner.number and paragraph[first:last] == SIGN:
            # A number that counts does not tremble, and all of its digits are where the sign is.
            look, letters = evolve(look, even=True), list(looks.manner.number)
            sources, first = [start + first] * len(letters), last
        for index in range(first, last):
            letter = paragraph[index]
            if caps != "as typed" and letter.upper() != letter:
                size = look.size * (_SMALL if caps == "small capitals" else 1.0)
                letter = letter.upper()
            letters += list(letter)
            sources += [start + index] * len(letter)
        at = face_for(looks.project, look.at, "".join(letters))
        if size != look.size or at is not look.at:
            look = evolve(look, size=size, at=at)
        yield from (_Cell(letter, source, look) for letter, source in zip(letters, sources, strict=True))


@lru_cache(maxsize=512)
def _graphemes(text: str) -> tuple[tuple[int, int], ...]:
    """Return (first, after last) of what is read as one letter: the extended grapheme clusters of UAX #29."""
    # No rule of UAX #29 joins characters before the first combining mark, but for a line's end of two.
    if "\r\n" not in text and max(text, default="") < "\u0300":
        return tuple(pairwise(range(len(text) + 1)))
    # Loaded when words first need it: its tables take a tenth of a second.
    from uniseg.graphemecluster import grapheme_cluster_boundaries

    places = list(grapheme_cluster_boundaries(text))
    return tuple(pairwise(places))


def _extents(look: Look) -> tuple[float, float]:
    font, upem = shaper(look.at)
    extents = font.get_font_extents("ltr")
    return extents.ascender * look.size / upem + look.rise, -extents.descender * look.size / upem - look.rise


def _broken(cells: list[_Cell], first: int, last: int, manner: Manner) -> Iterator[tuple[list[_Cell], int, int]]:
    """Yield lines of cells with the span of letters that each takes; without a box a paragraph is one line."""
    if manner.flow != "box" or not cells:
        yield cells, first, last
        return
    advances = [0.0] * len(cells)
    for run in _runs(cells):
        for glyph in _shape(cells, run[0], run[1], run[2]):
            advances[glyph.cell] += glyph.advance
    text = "".join(cell.letter for cell in cells)
    starts = break_lines(text, advances, manner.frame[0] + manner.tracking * manner.size / 1000)
    for begin, end in zip(starts, [*starts[1:], len(cells)], strict=True):
        until = cells[end].source if end < len(cells) else last
        row = cells[begin:end]
        while len(row) > 1 and row[-1].letter == " " and end < len(cells):
            row = row[:-1]
        yield row, cells[begin].source if begin else first, until


def _runs(cells: list[_Cell]) -> list[tuple[int, int, int]]:
    """Return (first, after last, level) of cells of one look and one direction, in reading order."""
    if not cells:
        return []
    _, levels = embedding_levels("".join(cell.letter for cell in cells))
    runs, start = [], 0
    for index in range(1, len(cells) + 1):
        ends = index == len(cells) or levels[index] != levels[start] or cells[index].look != cells[start].look
        if ends:
            runs.append((start, index, levels[start]))
            start = index
    return runs


def _shape(cells: list[_Cell], first: int, last: int, level: int) -> list[_Shaped]:
    """Shape one run; x grows from the run's left end."""
    look = cells[first].look
    font, upem = shaper(look.at)
    unit = look.size / upem
    buffer = hb.Buffer()
    buffer.cluster_level = hb.BufferClusterLevel.MONOTONE_CHARACTERS
    buffer.add_str("".join(cell.letter for cell in cells[first:last]))
    buffer.guess_segment_properties()
    buffer.direction = "rtl" if level % 2 else "ltr"
    joined = look.gap == 0
    hb.shape(font, buffer, {"kern": True, "liga": joined, "clig": joined, "tnum": look.even})
    made, x, before = [], 0.0, -1
    for info, position in zip(buffer.glyph_infos, buffer.glyph_positions, strict=True):
        # Marks share the cluster of their letter: the gap comes once.
        gap = look.gap if info.cluster != before or position.x_advance else 0.0
        advance = position.x_advance * unit + (gap if position.x_advance else 0.0)
        dy = position.y_offset * unit + look.rise
        made.append(_Shaped(look, info.codepoint, first + info.cluster, x + position.x_offset * unit, dy, advance))
        x += advance
        before = info.cluster
    return made


def _visual(cells: list[_Cell]) -> tuple[list[_Shaped], float]:
    """Return a line's glyphs from left to right and its width without the gap after its last letter."""
    runs = _runs(cells)
    row: list[_Shaped] = []
    x = gap = 0.0
    for index in visual_order([level for _, _, level in runs]):
        first, last, level = runs[index]
        shaped = _shape(cells, first, last, level)
        row += [evolve(glyph, x=x + glyph.x) for glyph in shaped]
        x += sum(glyph.advance for glyph in shaped)
        gap = cells[first].look.gap
    return row, x - (gap if runs else 0.0)


def _carets(
    text: str, lines: list[Line], cells: list[list[_Cell]], glyphs: list[list[tuple[_Shaped, float]]]
) -> list[tuple[float, float]]:
    """Return (x, baseline) before each letter and at the end, on straight lines; the space at which one is wrapped is
    at its end."""
    places: list[tuple[float, float] | None] = [None] * (len(text) + 1)
    for line, row, placed in zip(lines, cells, glyphs, strict=True):
        end = (line.left + line.width, line.baseline)
        if not row:
            places[line.first] = (line.left, line.baseline)
            continue
        base, levels = embedding_levels("".join(cell.letter for cell in row))
        edges: dict[int, tuple[float, float]] = {}
        for glyph, x in placed:
            low, high = edges.get(glyph.cell, (math.inf, -math.inf))
            edges[glyph.cell] = (min(low, x), max(high, x + glyph.advance))
        starts, own = sorted(edges), dict[int, tuple[float, float]]()
        for begin, stop in zip(starts, [*starts[1:], len(row)], strict=True):
            low, high = edges[begin]
            for cell in range(begin, stop):
                share = (cell - begin) / (stop - begin)
                share = 1 - share if levels[begin] % 2 else share
                own.setdefault(row[cell].source, (low + share * (high - low), line.baseline))
        own.setdefault(line.end, (line.left, line.baseline) if base else end)
        for source, here in own.items():
            places[source] = here
    known, filled = (0.0, lines[0].baseline if lines else 0.0), []
    for place in places:
        known = place if place is not None else known
        filled.append(known)
    return filled


def _marked(
    looks: _Looks, lines: list[Line], cells: list[list[_Cell]], glyphs: list[list[tuple[_Shaped, float]]]
) -> Iterator[Line]:
    """Yield the marked words of each line: what lies side by side as one, lifted as its letters are."""
    for line, row, placed in zip(lines, cells, glyphs, strict=True):
        parts = groupby(placed, lambda each, row=row: looks.is_marked(row[each[0].cell].source))  # type: ignore[misc]
        for held in (list(part) for yes, part in parts if yes):
            tallest = max((glyph.look for glyph, _ in held), key=lambda look: look.size)
            left, (last, x) = held[0][1], held[-1]
            width = x + last.advance - last.look.gap - left
            yield evolve(line, baseline=line.baseline - tallest.rise, left=left, width=width, size=tallest.size)


def _curve(manner: Manner, whole: float, lines: list[Line]) -> CurveTrack | None:
    if not lines:
        return None
    if manner.path is not None:
        return path_track(manner.path, manner.along)
    if manner.arc and whole > 0:
        return arc_track(manner.arc, whole, lines[0].baseline)
    return None


def _placed(
    glyphs: list[list[tuple[_Shaped, float]]], lines: list[Line], cells: list[list[_Cell]],
    carets: list[tuple[float, float]], curve: CurveTrack | None, flat: Box, size: float,
) -> Setting:  # fmt: skip
    """Put glyphs on their straight lines, or along a curve each turned as the curve runs at its middle."""
    letters: list[Letter] = []
    first = lines[0].baseline if lines else 0.0
    for line, row, placed in zip(lines, cells, glyphs, strict=True):
        for glyph, x in placed:
            unit = glyph.look.size / shaper(glyph.look.at)[1]
            own = Affine(unit, 0, 0, -unit, 0, 0)
            if curve is None:
                matrix = Affine.shift(x, line.baseline - glyph.dy) @ own
            else:
                # Marks turn with the letter that they stand on.
                middle = x + glyph.advance / 2
                at = curve.at(middle) @ Affine.shift(x - middle, line.baseline - first - glyph.dy)
                matrix = at @ own
            letters.append(Letter(glyph.look.at, glyph.glyph, matrix, glyph.look.colour, row[glyph.cell].source))
    feet = []
    for x, y in carets:
        if curve is None:
            feet.append((x, y, 0.0))
        else:
            at = curve.at(x) @ Affine.shift(0.0, y - first)
            feet.append((*at.apply(0.0, 0.0), math.degrees(math.atan2(at.b, at.a))))
    box = flat if curve is None else _curved_box(lines, curve, first)
    if curve is not None and curve.closed_in is not None:
        box = curve.closed_in
    return Setting(tuple(letters), tuple(lines), box, size, tuple(feet), curve=curve, foot=first)


def _curved_box(lines: list[Line], curve: CurveTrack, first: float) -> Box:
    """Return the box around the strips that bent lines take."""
    points = []
    for line in lines:
        steps = max(2, int(line.width // 12) + 2)
        for step in range(steps):
            at = curve.at(line.left + line.width * step / (steps - 1))
            down = line.baseline - first
            points += [at.apply(0.0, down - line.ascent), at.apply(0.0, down + line.descent)]
    if not points:
        return 0.0, 0.0, 0.0, 0.0
    xs, ys = [p[0] for p in points], [p[1] for p in points]
    return min(xs), min(ys), max(xs), max(ys)
