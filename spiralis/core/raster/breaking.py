"""Where lines of words may end, and which of those places a width asks for."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Sequence
from functools import cache, lru_cache
from typing import Any

#: Thai parts its words by nothing that one sees.
_THAI = re.compile(r"[\u0e01-\u0e3a\u0e40-\u0e4e]+")


@lru_cache(maxsize=512)
def chances(text: str) -> frozenset[int]:
    """Return the places before which a line may begin, by the rules of UAX #14; within Thai between its phrases."""
    # Loaded when words are first set in a box: its tables take a tenth of a second.
    from uniseg.linebreak import line_break_boundaries

    return (frozenset(line_break_boundaries(text)) | _between_thai(text)) - {len(text)}


def _between_thai(text: str) -> set[int]:
    """Return where phrases begin within runs of Thai letters; never before a sign that stands on a letter."""
    found = set()
    for run in _THAI.finditer(text):
        place = run.start()
        for phrase in _thai_parser().parse(run.group())[:-1]:
            place += len(phrase)
            if unicodedata.category(text[place]) != "Mn":
                found.add(place)
    return found


@cache
def _thai_parser() -> Any:
    from budoux import load_default_thai_parser

    return load_default_thai_parser()


def break_lines(text: str, advances: Sequence[float], width: float) -> list[int]:
    """Return where lines begin (the first at 0) so that each is at most ``width`` wide, filled one after another.

    ``advances`` holds the width of each letter; 0 for letters that share a glyph with the one before, which no line
    starts with. A word wider than a line is broken within. Spaces at the end of a line do not count.
    """
    starts, start, used = [0], 0, 0.0
    allowed = chances(text)
    chance = 0
    for index, advance in enumerate(advances):
        if index > start and index in allowed:
            chance = index
        while used + advance > width + 1e-6 and index > start and text[index] != " " and advance > 0:
            start = chance if chance > start else index
            starts.append(start)
            used = sum(advances[start:index])
        used += advance
    return starts
