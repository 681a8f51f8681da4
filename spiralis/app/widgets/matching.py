"""How well typed words fit a name, for every field that searches."""

from __future__ import annotations

from collections.abc import Sequence


def score(words: Sequence[str], name: str, sort: str) -> int | None:
    """Return how well typed words fit, smaller is better; None where one of them is in neither name nor sort.

    The whole name counts most, then its beginning, then the beginnings of its words, then any part of it.
    """
    held, around = name.casefold(), sort.casefold()
    total = 0
    for word in words:
        place = held.find(word)
        if place == 0:
            total += 0 if held == word else 1
        elif place > 0 and not held[place - 1].isalnum():
            total += 2
        elif place > 0:
            total += 5
        elif word in around:
            total += 8
        else:
            return None
    return total
