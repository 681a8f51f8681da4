"""What the window notes for its next start: small files in the state folder. None of them is a reason to stop work."""

from __future__ import annotations

import json
from contextlib import suppress
from pathlib import Path
from typing import Any

from platformdirs import user_state_path

from spiralis.core.errors import FileError
from spiralis.core.media.files import write_whole


def note_file(name: str) -> Path:
    """Return the file of the notes of a name."""
    return user_state_path("spiralis") / f"{name}.json"


def noted(name: str) -> Any:
    """Return what is noted under a name; None where the file is missing or damaged."""
    try:
        return json.loads(note_file(name).read_text(encoding="utf-8"))
    except (OSError, ValueError):
        return None


def noted_by_key(name: str) -> dict[str, Any]:
    """Return notes that are kept by keys; nothing where there are none."""
    found = noted(name)
    return found if isinstance(found, dict) else {}


def note(name: str, value: Any) -> None:
    """Note something in place of what was noted under a name, where that can be done."""
    with suppress(FileError):
        write_whole(note_file(name), json.dumps(value, indent=1))
