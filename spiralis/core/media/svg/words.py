"""Text as outlines (SVG 2, chapter 11): runs, positions, anchors; laid out with HarfBuzz."""

from __future__ import annotations

import math
import re

from attrs import evolve, frozen

from spiralis.core.geometry import Affine
from spiralis.core.media.svg.document import XML_SPACE, Element, local_name
from spiralis.core.media.svg.paints import NeedsPicture
from spiralis.core.media.svg.style import Cascade, Style
from spiralis.core.media.svg.values import length, numbers_in
from spiralis.core.model import Project
from spiralis.core.model.art import Contour
from spiralis.core.raster.fonts import DEFAULT_FAMILY, FaceAt, families, find_face, line_place
from spiralis.core.raster.shaping import Layout, lay_out, outline_contours

_GENERIC = {"sans-serif": "Inter", "system-ui": "Inter", "serif": "Vollkorn", "monospace": "Inter",
            "cursive": "Lobster Two", "fantasy": "Lobster Two"}  # fmt: skip
_WEIGHTS = {"normal": 400.0, "bold": 700.0, "lighter": 300.0, "bolder": 700.0}
#: What lies beneath the letters, and what lies over them.
_LINES = ("underline", "line-through")
_ANCHORS = {"start": 0.0, "middle": 0.5, "end": 1.0}


@frozen
class Run:
    """Letters of one style; a run with ``x`` or ``y`` begins a new chunk there."""

    text: str
    style: Style
    x: float | None = None
    y: float | None = None
    dx: float = 0.0
    dy: float = 0.0
    #: The lines along it by their names in CSS, each with the style of the element that has it: those paint it.
    lines: tuple[tuple[str, Style], ...] = ()


@frozen
class Words:
    """One run as outlines, with the style that paints it."""

    contours: tuple[Contour, ...]
    style: Style


def read_words(element: Element, style: Style, cascade: Cascade, project: Project, notes: list[str]) -> list[Words]:
    """Return a text element's runs as outlines in the element's units.

    Raises:
        NeedsPicture: text on a path, vertical text, or turned letters.
    """
    runs = _runs(element, style, cascade, ())
    return _set(_trimmed(runs), project, notes)


def _runs(
    element: Element, style: Style, cascade: Cascade, around: tuple[tuple[str, Style], ...]
) -> list[Run]:  # fmt: skip
    if any(element.get(name) for name in ("rotate", "textLength")) or style.get("writing-mode", "").startswith("t"):
        raise NeedsPicture("text that is turned or stretched")
    keeps = element.get(XML_SPACE) == "preserve"
    wanted = f"{style.get('text-decoration', '')} {style.get('text-decoration-line', '')}".split()
    # They are not inherited, but drawn along all that is within (CSS Text Decoration 3, section 2).
    lines = (*around, *((line, style) for line in _LINES if line in wanted))
    runs = [evolve(run, lines=lines) for run in _placed(element, _spaced(element.text or "", keeps), style)]
    for child in element:
        kind = local_name(child)
        if kind == "textPath":
            raise NeedsPicture("text on a path")
        inner = cascade.of(child, style) if kind else style
        if kind in ("tspan", "a") and inner.get("display") != "none":
            runs += _runs(child, inner, cascade, lines)
        runs += [Run(_spaced(child.tail, keeps), style, lines=lines)] if child.tail else []
    return runs


def _spaced(text: str, keeps: bool) -> str:
    return re.sub(r"[\n\r\t]", " ", text) if keeps else re.sub(r"\s+", " ", text)


def _placed(element: Element, text: str, style: Style) -> list[Run]:
    """Return runs for a list of positions: one a letter while the lists last."""
    em = length(style.get("font-size"), 16.0)
    lists = {name: _lengths(element.get(name), em) for name in ("x", "y", "dx", "dy")}
    count = min(max(len(values) for values in lists.values()), max(len(text), 1))
    text = text.lstrip() if count else text

    def at(name: str, index: int) -> float | None:
        return lists[name][index] if index < len(lists[name]) else None

    runs = []
    for index in range(count):
        letters = text[index : index + 1] if index < count - 1 else text[index:]
        runs.append(Run(letters, style, at("x", index), at("y", index), at("dx", index) or 0.0, at("dy", index) or 0.0))
    return runs or [Run(text, style)]


def _lengths(text: str | None, em: float) -> list[float]:
    return [length(part, 0.0, 100.0, em) for part in re.split(r"[\s,]+", text.strip()) if part] if text else []


def _trimmed(runs: list[Run]) -> list[Run]:
    """Drop spaces at the ends and doubled ones between runs."""
    result: list[Run] = []
    space = True
    for run in runs:
        text = run.text.lstrip() if space else run.text
        if text:
            space = text.endswith(" ")
        result.append(evolve(run, text=text))
    for index in range(len(result) - 1, -1, -1):
        if result[index].text:
            result[index] = evolve(result[index], text=result[index].text.rstrip())
            break
    return result


def _face(style: Style, project: Project, notes: list[str]) -> FaceAt:
    known = {name.lower(): name for name in families(project)}
    weight = style.get("font-weight", "400")
    size = _WEIGHTS.get(weight) or (numbers_in(weight) or [400.0])[0]
    wanted = [part.strip().strip("'\"") for part in style.get("font-family", "sans-serif").split(",")]
    for family in wanted:
        name = known.get(family.lower()) or _GENERIC.get(family.lower())
        if name is not None:
            return find_face(project, name, size)
    note = f"The font “{wanted[0][:60]}” is not here, so its words are set in {DEFAULT_FAMILY}."
    if note not in notes:
        notes.append(note)
    return find_face(project, DEFAULT_FAMILY, size)


def _set(runs: list[Run], project: Project, notes: list[str]) -> list[Words]:
    result: list[Words] = []
    chunk: list[tuple[tuple[Contour, ...], float, float, Style]] = []
    start, x, y = 0.0, 0.0, 0.0

    def finish() -> None:
        if not chunk:
            return
        share = _ANCHORS.get(chunk[0][3].get("text-anchor", "start"), 0.0)
        shift = -share * (x - start)
        for contours, left, baseline, style in chunk:
            moved = Affine.shift(left + shift, baseline)
            result.append(Words(tuple(contour.mapped(moved) for contour in contours), style))
        chunk.clear()

    for run in runs:
        if run.x is not None or run.y is not None:
            finish()
            x, y = run.x if run.x is not None else x, run.y if run.y is not None else y
            start = x
        x, y = x + run.dx, y + run.dy
        if not run.text:
            continue
        size = length(run.style.get("font-size"), 16.0, 16.0)
        at = _face(run.style, project, notes)
        gap = length(run.style.get("letter-spacing"), 0.0, size, size)
        layout = lay_out(run.text, at, max(size, 0.01), 1000 * gap / max(size, 0.01), 100.0, "left")
        slant = run.style.get("font-style", "normal") in ("italic", "oblique")
        drawn = [(_line(line, at, size, layout.widths[0] + gap), x, y, style) for line, style in run.lines]
        through = [line == _LINES[-1] for line, _ in run.lines]
        chunk += [part for part, over in zip(drawn, through, strict=True) if not over]
        chunk.append((_outlines(layout, at, size, slant), x, y, run.style))
        chunk += [part for part, over in zip(drawn, through, strict=True) if over]
        x += layout.widths[0] + gap
    finish()
    return result


def _line(line: str, at: FaceAt, size: float, width: float) -> tuple[Contour, ...]:
    """Return a line along letters with their baseline at 0."""
    above, thick = (size * each for each in line_place(at, line))
    corners = ((0.0, -above), (width, -above), (width, thick - above), (0.0, thick - above))
    return (Contour(tuple((*corner, *corner, *corner) for corner in corners), True),)


def _outlines(layout: Layout, at: FaceAt, size: float, slant: bool) -> tuple[Contour, ...]:
    """Return the letters with their baseline at 0; a face without an italic is slanted by 12 degrees."""
    up = Affine.shift(0.0, -layout.ascent)
    lean = math.tan(math.radians(12.0)) if slant else 0.0
    return tuple(contour.mapped(up) for contour in outline_contours(layout, at, size, lean))
