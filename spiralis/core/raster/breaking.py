"""Where lines of words may end, and which of those places a width asks for."""

from __future__ import annotations

import unicodedata
from collections.abc import Sequence

_AFTER = frozenset(" \t-\u2010\u2013\u2014/\u00ad\u200b")
_IDEOGRAPHS = ((0x3040, 0x30FF), (0x3400, 0x9FFF), (0xAC00, 0xD7AF), (0x20000, 0x3FFFF))
_NEVER_BEFORE = frozenset(".,;:!?)]}»”’…%\u3001\u3002\uff01\uff09\uff0c\uff1f")


def may_break(text: str, index: int) -> bool:
    """Whether a line may end before ``text[index]``: after spaces and hyphens, and between ideographs.

    A short form of UAX #14; scripts that part words without spaces (Thai) break at spaces only.
    """
    before, after = text[index - 1], text[index]
    if after == " " or after in _NEVER_BEFORE or unicodedata.combining(after):
        return False
    if before in _AFTER:
        return True
    return _ideograph(before) or _ideograph(after)


def _ideograph(letter: str) -> bool:
    code = ord(letter)
    return any(low <= code <= high for low, high in _IDEOGRAPHS)


def break_lines(text: str, advances: Sequence[float], width: float) -> list[int]:
    """Return where lines begin (the first at 0) so that each is at most ``width`` wide, filled one after another.

    ``advances`` holds the width of each letter; 0 for letters that share a glyph with the one before, which no line
    starts with. A word wider than a line is broken within. Spaces at the end of a line do not count.
    """
    starts, start, used = [0], 0, 0.0
    chance = 0
    for index, advance in enumerate(advances):
        if index > start and may_break(text, index):
            chance = index
        while used + advance > width + 1e-6 and index > start and text[index] != " " and advance > 0:
            start = chance if chance > start else index
            starts.append(start)
            used = sum(advances[start:index])
        used += advance
    return starts
