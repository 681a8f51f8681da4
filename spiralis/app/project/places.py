"""Where one was in a project, so that it opens there again: kept for each file in the state folder, not in the file."""

from __future__ import annotations

import json
from pathlib import Path

from platformdirs import user_state_path

#: A piece's id, and the frame the playhead was on.
Place = tuple[str, int]
_MOST = 50


def _file() -> Path:
    return user_state_path("spiralis") / "places.json"


def _all() -> dict[str, list[object]]:
    try:
        held = json.loads(_file().read_text(encoding="utf-8"))
    except (OSError, ValueError):
        return {}
    return held if isinstance(held, dict) else {}


def place_of(path: Path) -> Place | None:
    """Return where one was in a project's file, or None."""
    match _all().get(str(path.resolve())):
        case [str() as piece, int() as frame]:
            return piece, frame
    return None


def keep_place(path: Path, place: Place) -> None:
    """Note where one is in a project's file; a note that cannot be kept is no reason to stop work."""
    name = str(path.resolve())
    others = {other: held for other, held in _all().items() if other != name}
    newest = dict(list(others.items())[1 - _MOST :]) | {name: list(place)}
    try:
        _file().parent.mkdir(parents=True, exist_ok=True)
        _file().write_text(json.dumps(newest), encoding="utf-8")
    except OSError:
        pass
