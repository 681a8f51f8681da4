"""Words that are not in sight, still and whole, for as long as it takes to read them."""

from __future__ import annotations

import re
from collections.abc import Iterator

import numpy as np

from spiralis.core.checks.findings import Cause
from spiralis.core.checks.piece.case import WEAK, PieceCase, PieceFinder, register_piece_finder
from spiralis.core.checks.piece.reading import Reader, Seen

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


def _alike(before: str, now: str) -> bool:
    """Whether words are the same, but for numbers: nobody reads each of those that one counts through."""
    return before == now or _NUMBER.sub("0", before) == _NUMBER.sub("0", now)


def seconds_in_sight(case: PieceCase, reader: Reader) -> float:
    """Return the longest time that words are clear, whole and nearly still; round the seam where the piece loops."""
    place = {frame: index for index, frame in enumerate(case.frames)}
    good = np.zeros(len(case.frames), dtype=bool)
    before: Seen | None = None
    for seen in reader.seen:
        index = place[seen.frame]
        calm = True
        if before is not None and place[before.frame] == index - 1:
            moved = max(abs(a - b) for a, b in zip(before.box, seen.box, strict=True))
            calm = moved * case.rate <= _STILL * case.piece.width and _alike(before.words, seen.words)
        good[index] = calm and seen.opacity >= _CLEAR and _within(case, seen)
        before = seen
    if good.all():
        return float("inf") if case.piece.loop else len(good) / case.rate
    row = np.concatenate([good, good]) if case.piece.loop else good
    longest = run = 0
    for is_good in row.tolist():
        run = run + 1 if is_good else 0
        longest = max(longest, run)
    return min(longest, len(good)) / case.rate


def _find(case: PieceCase) -> Iterator[Cause]:
    for reader in case.readers:
        words = max((seen.words for seen in reader.seen), key=len)
        needed, there = seconds_to_read(words), seconds_in_sight(case, reader)
        if there >= needed - 0.5 / case.rate:
            continue
        inside = not reader.way and reader.layer.last < case.piece.span[1]
        frames = reader.seen[0].frame, reader.seen[-1].frame
        how = f"{there:.1f} s" if there > 0 else "never"
        yield Cause(
            "reading-time", WEAK, reader.piece.id, reader.layer.id, "", needed - there, "s",
            f"{reader.told} takes {needed:.1f} s to read and is clear, whole and nearly still for {how}"
            f"{' only' if there > 0 else ''}.",
            ("stay-longer",) if inside else (), frames,
        )  # fmt: skip


register_piece_finder(PieceFinder("reading-time", "Time to read", _find, order=200))
