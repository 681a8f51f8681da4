"""Runs of letters with a look of their own: what typing and styling do to them. Pure functions."""

from __future__ import annotations

from spiralis.core.animation.tracks import value_at
from spiralis.core.editing.edits import set_value
from spiralis.core.model.layer import Layer
from spiralis.core.raster.bars import LINES, MARKED
from spiralis.core.raster.setting import Run

#: Letters that look as their layer does.
PLAIN = Run()


def _cells(runs: tuple[Run, ...], length: int) -> list[Run]:
    cells = [PLAIN] * length
    for run in runs:
        look = Run(0, 0, *run[2:])
        for index in range(run[0], min(run[1], length)):
            cells[index] = look
    return cells


def _joined(cells: list[Run]) -> tuple[Run, ...]:
    """Return the fewest runs that say the same."""
    runs, start = [], 0
    for index in range(1, len(cells) + 1):
        if index == len(cells) or cells[index] != cells[start]:
            look = cells[start]
            if look != PLAIN:
                runs.append(look._replace(first=start, last=index))
            start = index
    return tuple(runs)


def looked_at(runs: tuple[Run, ...], index: int) -> Run:
    """Return the run that a letter lies in, or one of that letter that changes nothing."""
    held = next((run for run in reversed(runs) if run[0] <= index < run[1]), (index, index + 1))
    return Run(*held)


def with_look(runs: tuple[Run, ...], first: int, last: int, **changes: object) -> tuple[Run, ...]:
    """Return runs where letters ``first`` to ``last`` (left out) have another look, part by part as
    ``Run`` names them; what is not named stays."""
    length = max([last, *(run[1] for run in runs)])
    cells = _cells(runs, length)
    cells[first:last] = [cell._replace(**changes) for cell in cells[first:last]]  # type: ignore[arg-type]
    return _joined(cells)


def with_marks_seen(layer: Layer, frame: int) -> Layer:
    """Return the text layer with a plate behind its marked words, unless its plate or line keeps to those already."""
    names = ("plate", "line", "line_of")
    plate, line, line_of = (value_at(layer.track(name), layer.parameter(name), frame) for name in names)
    seen = plate == MARKED or (line != LINES[0] and line_of == MARKED)
    return layer if seen else set_value(layer, "plate", MARKED, frame)


def after_typing(runs: tuple[Run, ...], first: int, last: int, typed: int) -> tuple[Run, ...]:
    """Return runs after letters ``first`` to ``last`` gave way to ``typed`` new ones, which look like those replaced,
    or like the letter before."""
    if not runs:
        return runs
    length = max([last + 1, *(run[1] for run in runs)])
    cells = _cells(runs, length)
    model = cells[first] if last > first else cells[first - 1] if first > 0 else cells[0]
    cells[first:last] = [model] * typed
    return _joined(cells)


def for_words(runs: tuple[Run, ...], old: str, new: str) -> tuple[Run, ...]:
    """Return the runs of other words in the place of some: each line, and within it each word, looks like the one that
    it replaces; where there are more or fewer of them, what is the same at both ends keeps its look."""
    return _joined(_refitted(_cells(runs, len(old)), old, new)) if runs and old != new else runs


def _refitted(cells: list[Run], old: str, new: str) -> list[Run]:
    first = _alike(old, new)
    last = _alike(old[first:][::-1], new[first:][::-1])
    gone, come = len(old) - first - last, len(new) - first - last
    # What only came, or only went, was typed or deleted there.
    for between in ("\n", " ") if gone and come else ():
        parts, others = old.split(between), new.split(between)
        if len(parts) == len(others) > 1:
            return _by_parts(cells, parts, others)
    model = cells[first if gone else first - 1] if cells and (gone or first) else next(iter(cells), PLAIN)
    return cells[:first] + [model] * come + cells[len(old) - last :]


def _by_parts(cells: list[Run], parts: list[str], others: list[str]) -> list[Run]:
    """Return the looks of as many other lines, or words, each in the place of one, with one sign between them."""
    made: list[Run] = []
    start = 0
    for part, other in zip(parts, others, strict=True):
        made += cells[start - 1 : start] if start else []
        made += _refitted(cells[start : start + len(part)], part, other)
        start += len(part) + 1
    return made


def _alike(one: str, other: str) -> int:
    """Return how many letters two texts begin with alike."""
    return next((i for i, (a, b) in enumerate(zip(one, other, strict=False)) if a != b), min(len(one), len(other)))
