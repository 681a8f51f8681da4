"""Which way letters run: the Unicode bidirectional algorithm (UAX #9), by the package python-bidi."""

from __future__ import annotations

import unicodedata
from functools import lru_cache
from typing import Any

from bidi import algorithm
from bidi.mirror import MIRRORED


@lru_cache(maxsize=512)
def embedding_levels(text: str) -> tuple[int, tuple[int, ...]]:
    """Return a paragraph's base level (0 left to right, 1 right to left) and the level of each of its letters.

    Letters that the algorithm drops (explicit marks of direction) take the level of the one before them.
    """
    base = algorithm.get_base_level(text)
    storage = algorithm.get_empty_storage()
    storage["base_level"], storage["base_dir"] = base, "LR"[base]
    algorithm.get_embedding_levels(text, storage)
    for number, letter in enumerate(storage["chars"]):
        letter["index"] = number
    algorithm.explicit_embed_and_overrides(storage)
    algorithm.resolve_weak_types(storage)
    for run in storage["runs"]:
        _resolve_brackets(storage["chars"][run["start"] : run["start"] + run["length"]], run["sor"])
    algorithm.resolve_neutral_types(storage, False)
    algorithm.resolve_implicit_levels(storage, False)
    levels: list[int | None] = [None] * len(text)
    for letter in storage["chars"]:
        levels[letter["index"]] = letter["level"]
    last, filled = base, []
    for level in levels:
        last = last if level is None else level
        filled.append(last)
    return base, tuple(filled)


def _resolve_brackets(run: list[dict[str, Any]], before: str) -> None:
    """Give both brackets of a pair one direction (rule N0 of UAX #9), which the package leaves out."""
    open_, pairs = [], []
    for index, letter in enumerate(run):
        if letter["type"] != "ON":
            continue
        category = unicodedata.category(letter["ch"])
        if category == "Ps":
            open_.append(index)
        elif category == "Pe":
            match = next((i for i in reversed(open_) if MIRRORED.get(run[i]["ch"]) == letter["ch"]), None)
            if match is not None:
                pairs.append((match, index))
                del open_[open_.index(match) :]
    for first, last in sorted(pairs):
        embedding = "LR"[run[first]["level"] % 2]
        inside = {_strong(letter) for letter in run[first + 1 : last]} - {""}
        if not inside:
            continue
        direction = embedding
        if embedding not in inside:
            strong = [_strong(letter) for letter in run[:first]]
            context = next((way for way in reversed(strong) if way), before)
            direction = context if context in inside else embedding
        run[first]["type"] = run[last]["type"] = direction


def _strong(letter: dict[str, Any]) -> str:
    return {"L": "L", "R": "R", "AN": "R", "EN": "R"}.get(letter["type"], "")


def visual_order(levels: list[int]) -> list[int]:
    """Return in which order runs of these levels stand from left to right (rule L2 of UAX #9)."""
    order = list(range(len(levels)))
    for level in range(max(levels, default=0), 0, -1):
        start = 0
        while start < len(order):
            if levels[order[start]] < level:
                start += 1
                continue
            stop = start
            while stop < len(order) and levels[order[stop]] >= level:
                stop += 1
            order[start:stop] = order[start:stop][::-1]
            start = stop
    return order
