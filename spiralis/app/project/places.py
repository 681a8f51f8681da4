"""Where one was in a project, so that it opens there again: kept for each file, but not in it."""

from __future__ import annotations

from pathlib import Path

from spiralis.app.work.noted import note, noted_by_key

#: A piece's id, and the frame the playhead was on.
Place = tuple[str, int]
_NOTES, _MOST = "places", 50


def place_of(path: Path | None) -> Place | None:
    """Return where one was in a project's file; None where nobody knows, or there is no file."""
    match noted_by_key(_NOTES).get(str(path.resolve())) if path is not None else None:
        case [str() as piece, int() as frame]:
            return piece, frame
    return None


def keep_place(path: Path, place: Place) -> None:
    """Note where one is in a project's file."""
    name = str(path.resolve())
    others = {other: held for other, held in noted_by_key(_NOTES).items() if other != name}
    note(_NOTES, dict(list(others.items())[1 - _MOST :]) | {name: place})
