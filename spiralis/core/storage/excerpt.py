"""The part of a project file that one composition needs, found in its JSON before anything is made of it."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Any

from spiralis.core.errors import legible
from spiralis.core.model.source import source_kinds


def excerpt(data: dict[str, Any], wanted: str) -> dict[str, Any]:
    """Return a project's JSON with one composition, by id or name, what it leads to, and the files that set words.

    Whatever says an id is taken to lead there, so that none of it has to be understood. Where there is no such
    composition, or the JSON is not as it should be, all of it is returned: who reads it says what is wrong.
    """
    pieces, sources = data.get("compositions"), data.get("sources", [])
    if not (isinstance(pieces, list) and isinstance(sources, list)):
        return data
    records = [*pieces, *sources]
    if not all(isinstance(record, dict) and isinstance(record.get("id"), str) for record in records):
        return data
    by_id: dict[str, list[Any]] = {}
    for record in records:
        by_id.setdefault(record["id"], []).append(record)
    ids = [piece["id"] for piece in pieces]
    named = (piece["id"] for piece in pieces if legible(str(piece.get("name"))) == wanted)
    first = wanted if wanted in ids else next(named, None)
    if first is None:
        return data
    fonts = {kind.name for kind in source_kinds() if kind.sets_words}
    kept = _led_to([first, *(source["id"] for source in sources if source.get("kind") in fonts)], by_id)
    return data | {
        "compositions": [piece for piece in pieces if piece["id"] in kept],
        "sources": [source for source in sources if source["id"] in kept],
    }


def _led_to(first: list[str], by_id: Mapping[str, list[Any]]) -> set[str]:
    """Return the ids of some records and of all that they lead to."""
    kept, waiting = set(first), first
    while waiting:
        found = {text for text in _texts(by_id[waiting.pop()]) if text in by_id} - kept
        kept |= found
        waiting += found
    return kept


def _texts(value: Any) -> Iterator[str]:
    """Yield all text in JSON, names of fields among it."""
    waiting = [value]
    while waiting:
        at = waiting.pop()
        if isinstance(at, str):
            yield at
        elif isinstance(at, dict):
            waiting += at.keys()
            waiting += at.values()
        elif isinstance(at, list):
            waiting += at
