"""Names of files from the columns of a table: “{Left word}-{Right word}-{format}”."""

from __future__ import annotations

import re
from collections.abc import Mapping

from spiralis.core.errors import ModelError

_FIELD = re.compile(r"\{([^{}]+)\}")
#: Fields beside the slots' names.
ROW, FORMAT, PIECE = "row", "format", "piece"
_LONGEST = 120


def usual_pattern(slots: tuple[str, ...], formats: int) -> str:
    """Return a pattern that tells rows apart: the piece, the first two slots, the format where there are several."""
    fields = ["{piece}", "{row}", *(f"{{{slot}}}" for slot in slots[:2])]
    return "-".join(fields + (["{format}"] if formats > 1 else []))


def file_name(pattern: str, cells: Mapping[str, str], row: int, format_: str, piece: str) -> str:
    """Return the name of a row's file, without its ending and without what a file name may not hold.

    Raises:
        ModelError: the pattern names a column that there is not.
    """
    values = {**cells, ROW: f"{row + 1:03}", FORMAT: format_, PIECE: piece}
    by_name = {name.casefold(): value for name, value in values.items()}

    def put(match: re.Match[str]) -> str:
        wanted = match[1].strip().casefold()
        if wanted not in by_name:
            known = ", ".join(f"{{{name}}}" for name in values)
            raise ModelError(f"File names know no {{{match[1]}}}; there are {known}.")
        return by_name[wanted]

    name = _FIELD.sub(put, pattern)
    name = re.sub(r"[^\w. ()+,=@-]+", "_", name.replace("\n", " ")).strip(" ._-")[:_LONGEST]
    return name or f"{row + 1:03}"


def unlike(names: list[str]) -> list[str]:
    """Return the names with those that came before numbered, so that no file takes another one's place."""
    seen: dict[str, int] = {}
    made = []
    for name in names:
        count = seen[name.casefold()] = seen.get(name.casefold(), 0) + 1
        made.append(name if count == 1 else f"{name}-{count}")
    return made
