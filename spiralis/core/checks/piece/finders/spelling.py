"""Words that are in no word list, where one is given."""

from __future__ import annotations

import re
from collections.abc import Iterator
from difflib import get_close_matches

from spiralis.core.checks.findings import Cause
from spiralis.core.checks.piece.case import WEAK, PieceCase, PieceFinder, register_piece_finder

#: Letters, with apostrophes and hyphens within a word.
_WORD = re.compile(r"[^\W\d_]+(?:['’-][^\W\d_]+)*")


def words_of(text: str) -> list[str]:
    """Return the words of a text in small letters, an apostrophe always written the same."""
    return [word.casefold().replace("’", "'") for word in _WORD.findall(text)]


def _unknown(known: frozenset[str], word: str) -> bool:
    return word not in known and not all(part in known for part in word.split("-"))


def _find(case: PieceCase) -> Iterator[Cause]:
    known = case.known
    if known is None:
        return
    for reader in case.readers:
        texts = dict.fromkeys(seen.words for seen in reader.seen)
        strange = dict.fromkeys(word for text in texts for word in words_of(text) if _unknown(known, word))
        if not strange:
            continue
        like = get_close_matches(next(iter(strange)), known, 1, 0.75)
        hint = f"; “{like[0]}” is like it" if like else ""
        told = ", ".join(f"“{word}”" for word in list(strange)[:4])
        yield Cause(
            "spelling", WEAK, reader.piece.id, reader.layer.id, "", float(len(strange)), "words",
            f"{told} in {reader.told} {'is' if len(strange) == 1 else 'are'} not in the word list{hint}.",
            frames=(reader.seen[0].frame, reader.seen[-1].frame),
        )  # fmt: skip


register_piece_finder(PieceFinder("spelling", "Spelling", _find, order=600))
