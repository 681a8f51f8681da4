"""Words that are not in sight, still and whole, for as long as it takes to read them."""

from __future__ import annotations

import re
from collections.abc import Iterator
from itertools import pairwise

import numpy as np
from attrs import define, field

from spiralis.core.checks.findings import Cause
from spiralis.core.checks.piece.case import WEAK, PieceCase, PieceFinder, register_piece_finder
from spiralis.core.checks.piece.reading import Reader, Seen, quoted

#: Seconds a word takes (180 words a minute, as subtitles are timed), and the least for anything at all.
_A_WORD, _LEAST = 1 / 3, 0.6
#: Scripts without spaces between words: so many letters count as one.
_LETTERS = 6
#: Words move slowly enough where no corner crosses more of the frame's width in a second than this.
_STILL = 0.15
_CLEAR = 0.85
#: A number as it is written, or a clock.
_NUMBER = re.compile(r"[\d.,:’−\N{NO-BREAK SPACE}]*\d")


def seconds_to_read(words: str) -> float:
    """Return how long words take to be read, in seconds."""
    parts = words.split()
    count = sum(max(1.0, len(part) / (2 * _LETTERS)) for part in parts)
    return max(count * _A_WORD, _LEAST)


def _within(case: PieceCase, seen: Seen) -> bool:
    left, top, right, bottom = seen.box
    more = 0.02 * max(case.piece.width, case.piece.height)
    return left >= -more and top >= -more and right <= case.piece.width + more and bottom <= case.piece.height + more


@define
class _Said:
    """What a layer says for a while: the words, the frames on which they are seen, and of all frames looked at those on
    which they are clear, whole and nearly still."""

    words: str
    good: np.ndarray
    frames: list[int] = field(factory=list)


def _told_apart(case: PieceCase, reader: Reader) -> list[_Said]:
    """Return all that a layer says, in the order in which it first does. Nobody reads each number that one counts
    through: they are one."""
    place = {frame: index for index, frame in enumerate(case.frames)}
    found: dict[str, _Said] = {}
    before: Seen | None = None
    for seen in reader.seen:
        index, key = place[seen.frame], _NUMBER.sub("0", seen.words)
        said = found.setdefault(key, _Said(seen.words, np.zeros(len(case.frames), dtype=bool)))
        said.words = max(said.words, seen.words, key=len)
        said.frames.append(seen.frame)
        calm = True
        if before is not None and place[before.frame] == index - 1 and _NUMBER.sub("0", before.words) == key:
            moved = max(abs(a - b) for a, b in zip(before.box, seen.box, strict=True))
            calm = moved * case.rate <= _STILL * case.piece.width
        said.good[index] = calm and seen.opacity >= _CLEAR and _within(case, seen)
        before = seen
    return list(found.values())


def _seconds(case: PieceCase, good: np.ndarray) -> float:
    """Return the longest time in a row; round the seam where the piece loops."""
    if good.all():
        return float("inf") if case.piece.loop else len(good) / case.rate
    row = np.concatenate([good, good]) if case.piece.loop else good
    longest = run = 0
    for is_good in row.tolist():
        run = run + 1 if is_good else 0
        longest = max(longest, run)
    return min(longest, len(good)) / case.rate


def _to_be_read(said: list[_Said]) -> list[_Said]:
    """Return what is said for its own sake: what the next words only go on with is still being typed."""
    typed = (later.words.startswith(one.words) for one, later in pairwise(said))
    return [one for one, goes_on in zip(said, [*typed, False], strict=True) if not goes_on]


def _find(case: PieceCase) -> Iterator[Cause]:
    for reader in case.readers:
        said = _told_apart(case, reader)
        short = [
            (needed - there, needed, there, one) for one in _to_be_read(said)
            if (there := _seconds(case, one.good)) < (needed := seconds_to_read(one.words)) - 0.5 / case.rate
        ]  # fmt: skip
        if not short:
            continue
        lacks, needed, there, one = max(short, key=lambda each: each[0])
        inside = len(said) == 1 and not reader.way and reader.layer.last < case.piece.span[1]
        how = f"{there:.1f} s" if there > 0 else "never"
        others = len(short) - 1
        more = f" {others} other{'s' if others > 1 else ''} of its words lack{'' if others > 1 else 's'} time as well."
        yield Cause(
            "reading-time", WEAK, reader.piece.id, reader.layer.id, "", lacks, "s",
            f"{quoted(one.words)} takes {needed:.1f} s to read and is clear, whole and nearly still for {how}"
            f"{' only' if there > 0 else ''}.{more if others else ''}",
            ("stay-longer",) if inside else (), (one.frames[0], one.frames[-1]),
        )  # fmt: skip


register_piece_finder(PieceFinder("reading-time", "Time to read", _find, order=200))
